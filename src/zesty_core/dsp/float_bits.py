"""The bits of a float32 as an int32 and back, inside kernels."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, cast

from llvmlite import ir
from numba import types
from numba.core.typing.templates import Signature
from numba.extending import intrinsic


def _to_float(_typing: Any, _bits: Any) -> tuple[Signature, Any]:
    def generate(_context: Any, builder: Any, _signature: Any, arguments: Any) -> Any:
        return builder.bitcast(arguments[0], ir.FloatType())

    return types.float32(types.int32), generate


def _to_bits(_typing: Any, _value: Any) -> tuple[Signature, Any]:
    def generate(_context: Any, builder: Any, _signature: Any, arguments: Any) -> Any:
        return builder.bitcast(arguments[0], ir.IntType(32))

    return types.int32(types.float32), generate


#: The float32 that these bits of an int32 mean.
as_float = cast(Callable[[Any], float], intrinsic(_to_float))
#: The bits of a float32 as an int32.
as_bits = cast(Callable[[Any], int], intrinsic(_to_bits))
