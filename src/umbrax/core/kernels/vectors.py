"""What the compiler does not find by itself: a choice without a branch, and sums over pixels of four channels.

It vectorises loops over neighbours; in `weigh_pixels` neighbours are channels, two pixels to one vector operation.
"""

from typing import Any

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

FLOAT, INDEX, PLACE = ir.FloatType(), ir.IntType(64), ir.IntType(32)
FOUR, EIGHT = ir.VectorType(FLOAT, 4), ir.VectorType(FLOAT, 8)


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

    def data(number: int) -> Any:
        return context.make_array(signature.args[number])(context, builder, args[number]).data

    pixels, weights = builder.gep(data(0), [at]), builder.gep(data(2), [first])
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
    target = builder.bitcast(builder.gep(data(5), [to]), FOUR.as_pointer())
    builder.store(builder.fadd(*halves), target, align=4)
    return context.get_dummy_value()


def _eight(builder: Any, pointer: Any, place: Any) -> Any:
    return builder.load(builder.bitcast(builder.gep(pointer, [place]), EIGHT.as_pointer()), align=4)


as_float: Any = intrinsic(_as_float)
as_half: Any = intrinsic(_as_half)
choose: Any = intrinsic(_choose)
weigh_pixels: Any = intrinsic(_weigh_pixels)
