"""Flush-to-zero for the calling thread.

After digital silence the states of recursive filters decay into denormal numbers, which slow a
kernel down up to a hundredfold. The processor can treat them as zero; the mode belongs to the
thread, so every worker thread sets it for itself, and a caller's thread gets its own mode back.
"""

from __future__ import annotations

import contextlib
import platform
from collections.abc import Iterator
from typing import Any

import numpy as np
from llvmlite import ir
from numba import types
from numba.extending import intrinsic

from zesty_core.runtime.kernel import kernel

_FLUSH_BITS = 0x8040  # MXCSR: flush to zero (15), denormals are zero (6)


@intrinsic
def _exchange_mode(typing_context: Any, mode: Any) -> Any:
    """Set the control word; the answer is the one before."""

    def x86(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        slot = builder.alloca(ir.IntType(32))
        pointer = builder.bitcast(slot, ir.IntType(8).as_pointer())
        access = ir.FunctionType(ir.VoidType(), [pointer.type])
        store = builder.module.declare_intrinsic("llvm.x86.sse.stmxcsr", (), access)
        load = builder.module.declare_intrinsic("llvm.x86.sse.ldmxcsr", (), access)
        builder.call(store, [pointer])
        before = builder.load(slot)
        builder.store(args[0], slot)
        builder.call(load, [pointer])
        return before

    def nothing(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        return args[0]

    on_x86 = platform.machine().lower() in ("x86_64", "amd64")
    return types.uint32(types.uint32), (x86 if on_x86 else nothing)


@kernel
def _set_flushing(bits: Any) -> Any:
    """Add ``bits`` to the mode; returns the mode before."""
    before: Any = _exchange_mode(bits)  # type: ignore[call-arg]  # the compiler passes the context
    _exchange_mode(before | bits)
    return before


@kernel
def _restore(mode: Any) -> None:
    _exchange_mode(mode)  # type: ignore[call-arg]


def flush_to_zero() -> None:
    """Treat denormal numbers as zero in this thread from now on; for threads of our own."""
    _set_flushing(np.uint32(_FLUSH_BITS))


@contextlib.contextmanager
def flushing_to_zero() -> Iterator[None]:
    """Treat denormal numbers as zero in this thread inside the context."""
    before = _set_flushing(np.uint32(_FLUSH_BITS))
    try:
        yield
    finally:
        _restore(np.uint32(before))
