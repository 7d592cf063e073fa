"""Eight float64 numbers side by side in one register, for loops the compiler would not vectorise.

A recursion takes one sample after the other, so that the compiler works on single numbers. Where
eight recursions of one kind go on at the same time, kernels keep them in the eight lanes of a value
of this kind: it is multiplied, and added to (``dsp.fused``), as a number is, and lives in registers
as one does. On processors with narrower registers the compiler splits it. Usable within kernels only.
"""

from __future__ import annotations

import operator
from collections.abc import Callable
from typing import Any, cast

from llvmlite import ir
from numba import types
from numba.core.typing.templates import ConcreteTemplate, Signature, infer_global, signature
from numba.extending import intrinsic, lower_builtin, models, register_model

LANES = 8
_VECTOR = ir.VectorType(ir.DoubleType(), LANES)
_NUMBER_BYTES = 8


class _LanesType(types.Type):
    def __init__(self) -> None:
        super().__init__(name="Lanes")


_LANES = _LanesType()


@register_model(_LanesType)
class _LanesModel(models.PrimitiveModel):
    def __init__(self, manager: Any, kind: Any) -> None:
        super().__init__(manager, kind, _VECTOR)  # type: ignore[no-untyped-call]


def _index(value: int) -> ir.Constant:
    return ir.Constant(ir.IntType(32), value)


def _place(context: Any, builder: Any, kind: Any, numbers: Any, place: Any) -> Any:
    first = context.make_array(kind)(context, builder, numbers).data
    return builder.gep(builder.bitcast(first, _VECTOR.as_pointer()), [place])


def _read(_typing: Any, numbers: Any, place: Any) -> tuple[Signature, Any]:
    def generate(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        value = builder.load(_place(context, builder, signature.args[0], *arguments))
        value.align = _NUMBER_BYTES
        return value

    return _LANES(numbers, place), generate


def _write(_typing: Any, value: Any, numbers: Any, place: Any) -> tuple[Signature, Any]:
    def generate(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        lanes, *where = arguments
        pointer = _place(context, builder, signature.args[1], *where)
        builder.store(lanes, pointer).align = _NUMBER_BYTES
        return context.get_dummy_value()

    return types.void(value, numbers, place), generate


def _move_up(_typing: Any, value: Any, number: Any) -> tuple[Signature, Any]:
    def generate(_context: Any, builder: Any, _signature: Any, arguments: Any) -> Any:
        first = builder.insert_element(ir.Constant(_VECTOR, ir.Undefined), arguments[1], _index(0))
        order = ir.Constant(ir.VectorType(ir.IntType(32), LANES), [LANES, *range(LANES - 1)])
        return builder.shuffle_vector(arguments[0], first, order)

    return _LANES(value, number), generate


def _last(_typing: Any, value: Any) -> tuple[Signature, Any]:
    def generate(_context: Any, builder: Any, _signature: Any, arguments: Any) -> Any:
        return builder.extract_element(arguments[0], _index(LANES - 1))

    return types.float64(value), generate


class _Product(ConcreteTemplate):
    cases = (signature(_LANES, _LANES, _LANES),)  # type: ignore[no-untyped-call]


def _multiply(_context: Any, builder: Any, _signature: Any, arguments: Any) -> Any:
    return builder.fmul(*arguments)


infer_global(operator.mul)(_Product)  # type: ignore[no-untyped-call]
lower_builtin(operator.mul, _LANES, _LANES)(_multiply)  # type: ignore[no-untyped-call]

#: The eight numbers of a contiguous float64 array behind the first ``place`` times eight; nobody
#: looks whether they are there.
lanes_of = cast(Callable[[Any, int], Any], intrinsic(_read))
#: Write lanes to where :data:`lanes_of` reads them.
keep_lanes = cast(Callable[[Any, Any, int], None], intrinsic(_write))
#: Each lane takes what the one before it had; the first one takes the number.
moved_up = cast(Callable[[Any, Any], Any], intrinsic(_move_up))
#: The number in the last lane.
last_lane = cast(Callable[[Any], Any], intrinsic(_last))
