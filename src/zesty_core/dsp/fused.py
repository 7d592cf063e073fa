"""A product and a sum, rounded once, together: for recursions, which wait for their own last value.

Of ``a * b + c * d`` the compiler rounds either product together with the sum, whichever it likes at
that place. Where it leaves out the product with the last value, a loop takes half as long again; and
two copies of a loop may differ in the last bit. Usable within kernels only, on float64 numbers and on
lanes (``dsp.lanes``).
"""

from __future__ import annotations

import platform
from collections.abc import Callable
from typing import Any, cast

import llvmlite.binding
from llvmlite import ir
from numba.core.cgutils import get_or_insert_function
from numba.core.typing.templates import Signature
from numba.extending import intrinsic

_ON_X86 = platform.machine().lower() in ("x86_64", "amd64")
#: All others can; where a processor cannot, a library would do it, slowly.
_AT_ONCE = not _ON_X86 or llvmlite.binding.get_host_cpu_features().get("fma", False)


def _fuse(_typing: Any, left: Any, right: Any, added: Any) -> tuple[Signature, Any]:
    def generate(_context: Any, builder: Any, _signature: Any, arguments: Any) -> Any:
        kind = arguments[0].type
        if not _AT_ONCE:
            return builder.fadd(builder.fmul(*arguments[:2]), arguments[2])
        name = f"llvm.fma.v{kind.count}f64" if isinstance(kind, ir.VectorType) else "llvm.fma.f64"
        taken = ir.FunctionType(kind, [kind] * 3)
        made = get_or_insert_function(builder.module, taken, name)  # type: ignore[no-untyped-call]
        return builder.call(made, arguments)

    return added(left, right, added), generate


#: The first times the second, plus the third.
fused = cast(Callable[[Any, Any, Any], Any], intrinsic(_fuse))
