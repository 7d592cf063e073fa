"""Flush-to-zero for the calling thread.

After digital silence the states of recursive filters decay into denormal numbers, which slow a
kernel down up to a hundredfold. The processor can treat them as zero; the mode belongs to the
thread, so every worker thread sets it for itself.
"""

from __future__ import annotations

import platform
from typing import Any

from llvmlite import ir
from numba import types
from numba.extending import intrinsic

from zesty_core.dsp.kernel import kernel

_FLUSH_BITS = 0x8040  # MXCSR: flush to zero (15), denormals are zero (6)


@intrinsic
def _set_mode(typing_context: Any) -> Any:
    def x86(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        word = ir.IntType(32)
        slot = builder.alloca(word)
        pointer = builder.bitcast(slot, ir.IntType(8).as_pointer())
        access = ir.FunctionType(ir.VoidType(), [pointer.type])
        for name in ("llvm.x86.sse.stmxcsr", "llvm.x86.sse.ldmxcsr"):
            builder.call(builder.module.declare_intrinsic(name, (), access), [pointer])
            if name.endswith("stmxcsr"):
                builder.store(builder.or_(builder.load(slot), word(_FLUSH_BITS)), slot)
        return context.get_dummy_value()

    def nothing(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        return context.get_dummy_value()

    on_x86 = platform.machine().lower() in ("x86_64", "amd64")
    return types.void(), (x86 if on_x86 else nothing)


@kernel
def flush_to_zero() -> None:
    """Treat denormal numbers as zero in this thread from now on."""
    _set_mode()  # type: ignore[call-arg]  # the compiler passes the context
