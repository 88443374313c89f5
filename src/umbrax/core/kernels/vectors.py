"""What the compiler does not find by itself: a choice without a branch, and sums over pixels of four channels.

It vectorises loops over neighbours; in `weigh_pixels` neighbours are channels, two pixels to one vector operation. `lit_ends`
and `lay_light` are pieces of loops over planes of light, `behind_from` tells loops over depth what they have to keep apart.
"""

from collections.abc import Callable
from typing import Any

import numpy as np
from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

from . import part

FLOAT, INDEX, PLACE = ir.FloatType(), ir.IntType(64), ir.IntType(32)
FOUR, EIGHT, SIXTEEN = (ir.VectorType(FLOAT, lanes) for lanes in (4, 8, 16))


def _choose(typing: Any, condition: Any, then: Any, otherwise: Any) -> Any:
    """`then` where the condition holds; both sides are worked out, so a loop with it still vectorises."""
    return then(types.boolean, then, then), lambda context, builder, signature, args: builder.select(*args)


def _as_float(typing: Any, value: Any) -> Any:
    """The bits of a half float, or a float, as a float; exact."""

    def code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        return builder.fpext(builder.bitcast(args[0], ir.HalfType()), FLOAT) if value == types.uint16 else args[0]

    return types.float32(value), code


def _as_half(typing: Any, value: Any) -> Any:
    """The bits of the half float nearest to a float."""

    def code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        return builder.bitcast(builder.fptrunc(args[0], ir.HalfType()), ir.IntType(16))

    return types.uint16(types.float32), code


def _weigh_pixels(typing: Any, row: Any, at: Any, weights: Any, first: Any, count: Any, out: Any, to: Any) -> Any:
    """out[to : to + 4] = sum over t < count of the four weights[first + 4 t ...] x the four row[at + 4 t ...].

    Arrays are one-dimensional contiguous float32 and nothing is checked. `weights` holds each weight four times;
    count is a multiple of 4.
    """
    signature = types.void(row, types.int64, weights, types.int64, types.int64, out, types.int64)
    return signature, _weigh_code


def _weigh_code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
    _, at, _, first, count, _, to = args

    place_of = _places(context, builder, signature, args)
    pixels, weights = place_of(0, at, FLOAT), place_of(2, first, FLOAT)
    place_for: Any = cgutils.alloca_once
    sums = [place_for(builder, EIGHT) for _ in range(2)]
    for total in sums:
        builder.store(ir.Constant(EIGHT, [0.0] * 8), total)
    with cgutils.for_range(builder, builder.sdiv(count, ir.Constant(INDEX, 4)), intp=INDEX) as loop:
        for number, total in enumerate(sums):
            place = builder.add(builder.mul(loop.index, ir.Constant(INDEX, 16)), ir.Constant(INDEX, 8 * number))
            product = builder.fmul(_eight(builder, weights, place), _eight(builder, pixels, place), flags=("contract",))
            builder.store(builder.fadd(product, builder.load(total), flags=("contract",)), total)
    both = builder.fadd(builder.load(sums[0]), builder.load(sums[1]))
    halves = [
        builder.shuffle_vector(both, ir.Constant(EIGHT, ir.Undefined), ir.Constant(ir.VectorType(PLACE, 4), lanes))
        for lanes in ([0, 1, 2, 3], [4, 5, 6, 7])
    ]
    builder.store(builder.fadd(*halves), place_of(5, to, FOUR), align=4)
    return context.get_dummy_value()


def _add_between(
    typing: Any, values: Any, at: Any, aside: Any, ahead: Any, w0: Any, w1: Any, w2: Any, w3: Any, sums: Any, to: Any
) -> Any:  # fmt: skip
    """Four numbers from `sums[to]` on + w0 x four from `values[at]` on + w1 x those `aside` of them + w2 x those `ahead` + w3 x those that
    are both.

    Arrays are one-dimensional contiguous float32 and nothing is checked.
    """
    index, number = types.int64, types.float32
    return types.void(values, index, index, index, number, number, number, number, sums, index), _add_between_code


def _add_between_code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
    _, at, aside, ahead, w0, w1, w2, w3, _, to = args

    place_of = _places(context, builder, signature, args)
    target = place_of(8, to, FOUR)
    total = builder.load(target, align=4)
    beside, before = builder.add(at, aside), builder.add(at, ahead)
    for place, weight in ((at, w0), (beside, w1), (before, w2), (builder.add(beside, ahead), w3)):
        product = builder.fmul(_each(builder, weight, 4), builder.load(place_of(0, place, FOUR), align=4), flags=("contract",))
        total = builder.fadd(total, product, flags=("contract",))
    builder.store(total, target, align=4)
    return context.get_dummy_value()


def _add_sixteen(typing: Any, values: Any, at: Any, weight: Any, sums: Any, to: Any) -> Any:
    """sums[to : to + 16] += weight x values[at : at + 16].

    Arrays are one-dimensional contiguous float32 and nothing is checked. Of a short row, a loop would take most numbers one by one.
    """
    return types.void(values, types.int64, types.float32, sums, types.int64), _add_sixteen_code


def _add_sixteen_code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
    _, at, weight, _, to = args

    place_of = _places(context, builder, signature, args)
    target = place_of(3, to, SIXTEEN)
    product = builder.fmul(_each(builder, weight, 16), builder.load(place_of(0, at, SIXTEEN), align=4), flags=("contract",))
    builder.store(builder.fadd(product, builder.load(target, align=4), flags=("contract",)), target, align=4)
    return context.get_dummy_value()


def _add_repeated(
    typing: Any, cells: Any, cell: Any, near: Any, far: Any, first: Any, row: Any, to: Any, pixels: Any
) -> Any:  # fmt: skip
    """row[to + n] += near[first + n] x cells[cell + n % 3] + far[first + n] x cells[cell + 3 + n % 3], for the three numbers n of each of
    so many pixels, a literal.

    Arrays are one-dimensional contiguous float32 and nothing is checked; `cells` goes on for a number after the second cell.
    """
    index = types.int64
    return types.void(cells, index, near, far, index, row, index, pixels), _add_repeated_code


def _add_repeated_code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
    _, cell, _, _, first, _, to, _ = args
    lanes = 3 * signature.args[7].literal_value
    wide, repeat = ir.VectorType(FLOAT, lanes), ir.Constant(ir.VectorType(PLACE, lanes), [lane % 3 for lane in range(lanes)])

    place_of = _places(context, builder, signature, args)
    total = None
    for weights, begin in ((2, cell), (3, builder.add(cell, ir.Constant(INDEX, 3)))):
        three = builder.load(place_of(0, begin, FOUR), align=4)
        repeated = builder.shuffle_vector(three, ir.Constant(FOUR, ir.Undefined), repeat)
        product = builder.fmul(builder.load(place_of(weights, first, wide), align=4), repeated)
        total = product if total is None else builder.fadd(total, product)
    target = place_of(5, to, wide)
    builder.store(builder.fadd(builder.load(target, align=4), total), target, align=4)
    return context.get_dummy_value()


def _places(context: Any, builder: Any, signature: Any, args: Any) -> Callable[[int, Any, Any], Any]:
    """Of the array that is an argument of an intrinsic, by its number, where so many numbers from a place on lie."""

    def place_of(number: int, place: Any, kind: Any) -> Any:
        array = context.make_array(signature.args[number])(context, builder, args[number])
        return builder.bitcast(builder.gep(array.data, [place]), kind.as_pointer())

    return place_of


def _each(builder: Any, value: Any, lanes: int) -> Any:
    """A vector of a value in every lane."""
    none = ir.Constant(ir.VectorType(FLOAT, lanes), ir.Undefined)
    one = builder.insert_element(none, value, ir.Constant(PLACE, 0))
    return builder.shuffle_vector(one, none, ir.Constant(ir.VectorType(PLACE, lanes), [0] * lanes))


def _eight(builder: Any, pointer: Any, place: Any) -> Any:
    return builder.load(builder.bitcast(builder.gep(pointer, [place]), EIGHT.as_pointer()), align=4)


add_between: Any = intrinsic(_add_between)
add_repeated: Any = intrinsic(prefer_literal=True)(_add_repeated)
add_sixteen: Any = intrinsic(_add_sixteen)
as_float: Any = intrinsic(_as_float)
as_half: Any = intrinsic(_as_half)
choose: Any = intrinsic(_choose)
weigh_pixels: Any = intrinsic(_weigh_pixels)


@part
def behind_from(z: Any, least: Any, farther: Any) -> Any:
    """What is behind something begins so far away: itself where that is infinite."""
    return z + max(least, farther * abs(z))


@part
def lit_ends(line: Any) -> Any:
    """The first number of a row that is not 0, and the one after the last; -1 where all are."""
    found = np.int64(0)
    for i in range(line.shape[0]):
        found = found + np.int64(line[i] != 0)
    first, last = (np.int64(0), np.int64(line.shape[0])) if found else (np.int64(-1), np.int64(-1))
    while first >= 0 and line[first] == 0:
        first += 1
    while last > 0 and line[last - 1] == 0:
        last -= 1
    return first, last


@part
def lay_light(light: Any, within: Any, onto: Any, below: Any, amount: Any, left: Any, out: Any) -> None:
    """A row of light as it is; or `onto` one of RGBA, to which it is added from the pixel `left` on where it lies `within` it, three numbers
    a pixel; alpha stays."""
    if onto:
        count, first = light.shape[0] // 3 if within else 0, 4 * left
        for i in range(first):
            out[i] = below[i]
        b, o = below[first : first + 4 * count], out[first : first + 4 * count]
        for x in range(count):
            i, j = 4 * x, 3 * x
            o[i], o[i + 1], o[i + 2] = b[i] + amount * light[j], b[i + 1] + amount * light[j + 1], b[i + 2] + amount * light[j + 2]
            o[i + 3] = b[i + 3]
        for i in range(first + 4 * count, out.shape[0]):
            out[i] = below[i]
    else:
        for i in range(out.shape[0]):
            out[i] = light[i]
