"""Sixteen numbers at once, for kernels that numba would not vectorise by itself.

Thin names for LLVM's vector instructions, which every processor has in some
width. There is no fused multiply-add among them, on purpose: it would round
otherwise on some processors than on others.
"""

from collections.abc import Callable
from typing import Any

from llvmlite import ir
from numba.core import cgutils, types
from numba.extending import intrinsic, models, register_model

WIDE = 16

_FLOATS = ir.VectorType(ir.FloatType(), WIDE)
_INTS = ir.VectorType(ir.IntType(32), WIDE)
_BYTES = ir.VectorType(ir.IntType(8), WIDE)
_FOUR = ir.VectorType(ir.FloatType(), 4)
_FOURS = ir.VectorType(ir.FloatType(), 4 * WIDE)


class Sixteen(types.Type):
    """Type of sixteen float32 ('f') or int32 ('i')."""

    def __init__(self, kind: str) -> None:
        self.kind = kind
        super().__init__(f"Sixteen({kind})")


@register_model(Sixteen)
class _SixteenModel(models.PrimitiveModel):
    def __init__(self, manager: Any, kind: Any) -> None:
        super().__init__(manager, kind, _FLOATS if kind.kind == "f" else _INTS)  # type: ignore[no-untyped-call]


FLOATS, INTS = Sixteen("f"), Sixteen("i")


def _instruction(rule: Callable[..., Any]) -> Any:
    """Make a rule of typing and lowering a name that kernels may call."""
    return intrinsic(rule)


def _address(context: Any, builder: Any, array_type: Any, *where: Any) -> Any:
    """Return a pointer to an item: of an array, at an index, as a type."""
    array, index, of = where
    view = cgutils.create_struct_proxy(array_type)(context, builder, array)  # type: ignore[no-untyped-call]
    return builder.bitcast(builder.gep(view.data, [index]), of.as_pointer())


def _spread(builder: Any, value: Any, of: Any) -> Any:
    single = builder.insert_element(ir.Constant(of, ir.Undefined), value, ir.IntType(32)(0))
    zeros = ir.Constant(ir.VectorType(ir.IntType(32), WIDE), [0] * WIDE)
    return builder.shuffle_vector(single, single, zeros)


def _loader(of: Any, kind: Sixteen) -> Any:
    """Make an instruction that returns sixteen numbers from `array[index]` on."""

    def rule(_context: Any, array: Any, index: Any) -> Any:
        def generate(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
            place = _address(context, builder, signature.args[0], *arguments, of)
            return builder.load(place, align=4)

        return kind(array, types.intp), generate

    return _instruction(rule)


load = _loader(_FLOATS, FLOATS)
load_words = _loader(_INTS, INTS)


@_instruction
def word_at(_context, array, index):  # type: ignore[no-untyped-def]
    """Return four uint8 from `array[index]` on as one int32, the first lowest."""

    def generate(context, builder, signature, arguments):  # type: ignore[no-untyped-def]
        kind, word = signature.args[0], ir.IntType(32)
        return builder.load(_address(context, builder, kind, *arguments, word), align=1)

    return types.int32(array, types.intp), generate


@_instruction
def put(_context, target, index, value):  # type: ignore[no-untyped-def]
    """Set `target[index]`, not counted from the end, to a value of its type.

    One by one, which an atomic store is: a loop's gathering and scattering
    instructions, which it would else be made of, are several times slower.
    """
    width = target.dtype.bitwidth
    number = ir.IntType(width)

    def generate(context, builder, signature, arguments):  # type: ignore[no-untyped-def]
        array, at, what = arguments
        place = _address(context, builder, signature.args[0], array, at, number)
        builder.store_atomic(builder.bitcast(what, number), place, "monotonic", width // 8)
        return context.get_dummy_value()

    return types.void(target, types.intp, target.dtype), generate


@_instruction
def copy_bytes(_context, target, index, source, at):  # type: ignore[no-untyped-def]
    """Set sixteen uint8 of `target` from `index` on to those of `source` from `at` on."""

    def generate(context, builder, signature, arguments):  # type: ignore[no-untyped-def]
        to, since = signature.args[0], signature.args[2]
        place = _address(context, builder, since, *arguments[2:], _BYTES)
        value = builder.load(place, align=1)
        place = _address(context, builder, to, *arguments[:2], _BYTES)
        builder.store(value, place, align=1)
        return context.get_dummy_value()

    return types.void(target, types.intp, source, types.intp), generate


@_instruction
def copy_four(_context, target, index, source, at):  # type: ignore[no-untyped-def]
    """Set four float32 of `target` from `index` on to those of `source` from `at` on."""

    def generate(context, builder, signature, arguments):  # type: ignore[no-untyped-def]
        to, since = signature.args[0], signature.args[2]
        value = builder.load(
            _address(context, builder, since, *arguments[2:], _FOUR), align=4
        )
        builder.store(value, _address(context, builder, to, *arguments[:2], _FOUR), align=4)
        return context.get_dummy_value()

    return types.void(target, types.intp, source, types.intp), generate


def _loader_of_fourths(which: int) -> Any:
    """Make an instruction that returns every fourth number, from that `which` on."""
    picked = ir.Constant(_INTS, [4 * k + which for k in range(WIDE)])

    def rule(_context: Any, array: Any, index: Any) -> Any:
        def generate(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
            place = _address(context, builder, signature.args[0], *arguments, _FOURS)
            rows = builder.load(place, align=4)
            return builder.shuffle_vector(rows, rows, picked)

        return FLOATS(array, types.intp), generate

    return _instruction(rule)


load_firsts, load_seconds, load_thirds = (_loader_of_fourths(k) for k in range(3))


@_instruction
def store(_context, array, index, value):  # type: ignore[no-untyped-def]
    """Put sixteen float32 at `array[index]` and after."""

    def generate(context, builder, signature, arguments):  # type: ignore[no-untyped-def]
        kind, (where, at, what) = signature.args[0], arguments
        builder.store(what, _address(context, builder, kind, where, at, _FLOATS), align=4)
        return context.get_dummy_value()

    return types.void(array, types.intp, FLOATS), generate


@_instruction
def store_bytes(_context, array, index, value):  # type: ignore[no-untyped-def]
    """Put the lowest bytes of sixteen int32 at `array[index]` and after."""

    def generate(context, builder, signature, arguments):  # type: ignore[no-untyped-def]
        kind, (where, at, what) = signature.args[0], arguments
        small = builder.trunc(what, _BYTES)
        builder.store(small, _address(context, builder, kind, where, at, _BYTES), align=1)
        return context.get_dummy_value()

    return types.void(array, types.intp, INTS), generate


@_instruction
def spread(_context, value):  # type: ignore[no-untyped-def]
    """Return sixteen times a float32."""
    return FLOATS(types.float32), lambda _c, builder, _s, a: _spread(builder, a[0], _FLOATS)


@_instruction
def spread_word(_context, value):  # type: ignore[no-untyped-def]
    """Return sixteen times an int32."""
    return INTS(types.int32), lambda _c, builder, _s, a: _spread(builder, a[0], _INTS)


@_instruction
def plus(_context, one, two):  # type: ignore[no-untyped-def]
    """Return one + two."""
    return FLOATS(FLOATS, FLOATS), lambda _c, builder, _s, a: builder.fadd(*a)


@_instruction
def minus(_context, one, two):  # type: ignore[no-untyped-def]
    """Return one - two."""
    return FLOATS(FLOATS, FLOATS), lambda _c, builder, _s, a: builder.fsub(*a)


@_instruction
def times(_context, one, two):  # type: ignore[no-untyped-def]
    """Return one · two."""
    return FLOATS(FLOATS, FLOATS), lambda _c, builder, _s, a: builder.fmul(*a)


@_instruction
def plus_product(_context, base, one, two):  # type: ignore[no-untyped-def]
    """Return base + one · two, rounded twice."""

    def generate(_c, builder, _s, a):  # type: ignore[no-untyped-def]
        return builder.fadd(a[0], builder.fmul(a[1], a[2]))

    return FLOATS(FLOATS, FLOATS, FLOATS), generate


@_instruction
def signed(_context, size, sign):  # type: ignore[no-untyped-def]
    """Return `size` with the sign of `sign`."""

    def generate(_context, builder, _signature, arguments):  # type: ignore[no-untyped-def]
        kind = ir.FunctionType(_FLOATS, [_FLOATS, _FLOATS])
        name = f"llvm.copysign.v{WIDE}f32"
        function = cgutils.get_or_insert_function(builder.module, kind, name)  # type: ignore[no-untyped-call]
        return builder.call(function, arguments)

    return FLOATS(FLOATS, FLOATS), generate


@_instruction
def mark_negative(_context, marks, value, bit):  # type: ignore[no-untyped-def]
    """Return marks with a bit set wherever a value is below 0."""

    def generate(_c, builder, _s, a):  # type: ignore[no-untyped-def]
        below = builder.fcmp_ordered("<", a[1], ir.Constant(_FLOATS, [0.0] * WIDE))
        return builder.or_(
            a[0], builder.select(below, a[2], ir.Constant(_INTS, [0] * WIDE))
        )

    return INTS(INTS, FLOATS, INTS), generate


@_instruction
def lowest_byte(_context, words):  # type: ignore[no-untyped-def]
    """Return the lowest bytes of sixteen int32 as float32."""

    def generate(_c, builder, _s, a):  # type: ignore[no-untyped-def]
        return builder.sitofp(builder.and_(a[0], ir.Constant(_INTS, [255] * WIDE)), _FLOATS)

    return FLOATS(INTS), generate


@_instruction
def next_byte(_context, words):  # type: ignore[no-untyped-def]
    """Return sixteen int32 moved down by a byte."""

    def generate(_c, builder, _s, a):  # type: ignore[no-untyped-def]
        return builder.lshr(a[0], ir.Constant(_INTS, [8] * WIDE))

    return INTS(INTS), generate
