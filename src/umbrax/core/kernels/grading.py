"""The colour arithmetic of `grade` in one pass over the pixels.

Powers are most of the work.
"""

import math
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part, ready
from .powers import power as power_of
from .vectors import choose

Pixels = NDArray[np.float32]
Three = tuple[float, ...]
EYE = np.eye(3, dtype=np.float32)
PIECE = 1024


@part
def _three(values: Any) -> Any:
    return values[0], values[1], values[2]


@part
def _finished(given: Any, value: Any, slope: Any, divisor: Any, inside: Any, weight: Any) -> Any:
    """Associated again and mixed with what was there; an offset lifts nothing where the picture is nothing."""
    graded = choose(inside, value * divisor, given * slope)
    mixed = choose(weight > np.float32(0.0), given + (graded - given) * weight, given)
    return choose(weight >= np.float32(1.0), graded, mixed)


@part
def _pixel(
    p: Any, i: Any, divides: Any, slope: Any, offset: Any, lifts: Any, powers: Any, crosses: Any, m0: Any, m1: Any, m2: Any,
    bends: Any, power: Any, shift: Any, weight: Any, o: Any,
) -> None:  # fmt: skip
    one, zero = np.float32(1.0), np.float32(0.0)
    red, green, blue, alpha = p[i], p[i + 1], p[i + 2], p[i + 3]
    inside = alpha > zero
    divisor = choose(divides and inside, alpha, one)
    factor = one / divisor
    r, g, b = red * factor * slope[0] + offset[0], green * factor * slope[1] + offset[1], blue * factor * slope[2] + offset[2]
    if lifts:
        r, g, b = power_of(r, powers[0], zero), power_of(g, powers[1], zero), power_of(b, powers[2], zero)
    r, g, b = (
        choose(crosses, m0[0] * r + m0[1] * g + m0[2] * b, r),
        choose(crosses, m1[0] * r + m1[1] * g + m1[2] * b, g),
        choose(crosses, m2[0] * r + m2[1] * g + m2[2] * b, b),
    )
    if bends:
        r, g, b = power_of(r, power, shift), power_of(g, power, shift), power_of(b, power, shift)
    o[i] = _finished(red, r, slope[0], divisor, inside or not divides, weight)
    o[i + 1] = _finished(green, g, slope[1], divisor, inside or not divides, weight)
    o[i + 2] = _finished(blue, b, slope[2], divisor, inside or not divides, weight)
    o[i + 3] = alpha


@kernel("void(f4[:,:,::1], b1, f4[:,::1], b1, b1, f4[:,::1], b1, f4, f4, f4[:,:,::1], f4, f4[:,:,::1])")
def _grade(
    pixels: Any, divides: Any, first: Any, lifts: Any, crosses: Any, matrix: Any, bends: Any, power: Any, shift: Any,
    weight: Any, amount: Any, out: Any,
) -> None:  # fmt: skip
    """`first`: rows of slope, offset and power. Powers cost most, so there is a loop for each way of needing them."""
    width = pixels.shape[1]
    slope, offset, powers = _three(first[0]), _three(first[1]), _three(first[2])
    m0, m1, m2 = _three(matrix[0]), _three(matrix[1]), _three(matrix[2])
    for y in prange(np.int64(pixels.shape[0])):
        p, w, o = pixels[y].reshape(width * 4), weight[y].reshape(width), out[y].reshape(width * 4)
        if lifts:
            for x in range(width):
                _pixel(p, 4 * x, divides, slope, offset, True, powers, crosses, m0, m1, m2, True, power, shift, amount * w[x], o)
        elif bends:
            for x in range(width):
                _pixel(p, 4 * x, divides, slope, offset, False, powers, crosses, m0, m1, m2, True, power, shift, amount * w[x], o)
        else:
            for x in range(width):
                _pixel(p, 4 * x, divides, slope, offset, False, powers, crosses, m0, m1, m2, False, power, shift, amount * w[x], o)


def grade_rows(
    pixels: Pixels, *, slope: Three, offset: Three, power: Three, matrix: Pixels | None,
    contrast: float, pivot: float, gamma: float, divides: bool, weight: Pixels | None = None, amount: float = 1.0,
) -> Pixels:  # fmt: skip
    """y = (x slope + offset)^power, then a 3x3 matrix, then pivot (x / pivot)^contrast, then x^(1 / gamma), of RGBA.

    Negatives pass the powers unchanged. `divides`: work on colour divided by alpha and associate again.
    With a one-channel `weight` or an `amount` the result is input + (y - input) w, w = clamp(amount x weight).
    """
    out = blank(*pixels.shape)
    # pivot (x / pivot)^c and then ^e is x^(c e) pivot^((1 - c) e): one power with a shift of its exponent
    exponent, shift = contrast / gamma, (1 - contrast) / gamma * math.log2(pivot)
    everywhere = np.ones((*pixels.shape[:2], 1), np.float32) if weight is None else weight
    _grade(
        ready(pixels), divides, np.array([slope, offset, power], np.float32), power != (1.0, 1.0, 1.0), matrix is not None,
        EYE if matrix is None else ready(matrix), exponent != 1 or shift != 0, np.float32(exponent), np.float32(shift),
        ready(everywhere), np.float32(amount), out,
    )  # fmt: skip
    return out
