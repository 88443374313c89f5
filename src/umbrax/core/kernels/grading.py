"""The colour arithmetic of `grade` in one pass over rows."""

from typing import Any

import numba
import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, part, ready

Pixels = NDArray[np.float32]


@part
def _log2(x: Any) -> Any:
    """log2 of a positive normal float: exponent plus an odd series in s = (m - 1)/(m + 1), |s| < 0.172.

    log2(m) = 2/ln 2 (s + s^3/3 + s^5/5 + ...), the usual area-hyperbolic-tangent series; five terms give 3e-9.
    """
    bits = np.float32(x).view(np.int32)
    shifted = np.int32(bits - np.int32(0x3F3504F3))  # sqrt(1/2): keeps the mantissa within [0.707, 1.414)
    exponent = np.int32(shifted >> np.int32(23))
    m = np.int32(bits - np.int32(exponent << np.int32(23))).view(np.float32)
    s = (m - np.float32(1.0)) / (m + np.float32(1.0))
    q = s * s
    series = np.float32(0.3205987) * q + np.float32(0.41219858)
    series = series * q + np.float32(0.57707802)
    series = series * q + np.float32(0.96179669)
    series = series * q + np.float32(2.88539008)
    return np.float32(exponent) + series * s


@part
def _exp2(x: Any) -> Any:
    """2^x: whole part into the exponent, the rest by the Taylor series of exp(f ln 2), |f| <= 0.5, to the seventh power."""
    limited = max(np.float32(-126.0), min(np.float32(127.499), x))
    whole = np.floor(limited + np.float32(0.5))
    f = limited - whole
    p = np.float32(1.5252734e-5) * f + np.float32(1.5403530e-4)
    p = p * f + np.float32(1.3333558e-3)
    p = p * f + np.float32(9.6181291e-3)
    p = p * f + np.float32(5.5504109e-2)
    p = p * f + np.float32(0.24022651)
    p = p * f + np.float32(0.69314718)
    p = p * f + np.float32(1.0)
    return p * np.int32(np.int32(np.int32(whole) + np.int32(127)) << np.int32(23)).view(np.float32)


@part
def _signed_power(x: Any, power: Any) -> Any:
    """x^power for x > 0; zero, negatives, infinities and NaN as they are."""
    return _exp2(power * _log2(x)) if x >= np.float32(1.1754944e-38) and x < np.float32(3.4e38) else x


@numba.njit(nogil=True, error_model="numpy")
def _power_row(row: Any, power: Any) -> None:
    for x in range(row.shape[0]):
        row[x] = _signed_power(row[x], power)


@kernel("void(f4[:,:,::1], f4[::1], f4[::1], f4[::1], f4[:,::1], i8, f4, f4, f4[::1], i8, f4[:,:,::1])")
def _grade(
    pixels: Any, slope: Any, offset: Any, power: Any, matrix: Any, use_matrix: Any,
    contrast: Any, pivot: Any, gamma: Any, divides: Any, out: Any,
) -> None:  # fmt: skip
    one, zero = np.float32(1.0), np.float32(0.0)
    for y in prange(np.int64(pixels.shape[0])):
        p, o = pixels[y], out[y]
        width = p.shape[0]
        plane = np.empty((3, width), np.float32)
        alpha = np.ones(width, np.float32)
        if divides:
            for x in range(width):
                a = p[x, 3]
                alpha[x] = a if a > zero else one
        for c in range(3):
            row, k, d, e = plane[c], slope[c], offset[c], power[c]
            for x in range(width):
                row[x] = p[x, c] / alpha[x] * k + d
            if e != one:
                _power_row(row, e)
        if use_matrix:
            for x in range(width):
                r, g, b = plane[0, x], plane[1, x], plane[2, x]
                plane[0, x] = matrix[0, 0] * r + matrix[0, 1] * g + matrix[0, 2] * b
                plane[1, x] = matrix[1, 0] * r + matrix[1, 1] * g + matrix[1, 2] * b
                plane[2, x] = matrix[2, 0] * r + matrix[2, 1] * g + matrix[2, 2] * b
        for c in range(3):
            row, g = plane[c], gamma[c]
            if contrast != one:
                for x in range(width):
                    row[x] /= pivot
                _power_row(row, contrast)
                for x in range(width):
                    row[x] *= pivot
            if g != one:
                _power_row(row, g)
            for x in range(width):
                # an offset lifts nothing where the picture is nothing
                o[x, c] = row[x] * alpha[x] if not divides or p[x, 3] > zero else p[x, c] * slope[c]
        for x in range(width):
            o[x, 3] = p[x, 3]


def grade_rows(
    pixels: Pixels, *, slope: Pixels, offset: Pixels, power: Pixels, matrix: Pixels | None,
    contrast: float, pivot: float, gamma_exponent: Pixels, divides: bool,
) -> Pixels:  # fmt: skip
    """y = (x slope + offset)^power, then a 3x3 matrix, then pivot (x/pivot)^contrast, then x^gamma_exponent.

    Negatives pass the powers unchanged. `divides`: work on colour divided by alpha and associate again.
    """
    out = np.empty(pixels.shape, np.float32)
    eye = np.eye(3, dtype=np.float32)
    _grade(
        ready(pixels), ready(slope), ready(offset), ready(power), ready(eye if matrix is None else matrix),
        int(matrix is not None), np.float32(contrast), np.float32(pivot), ready(gamma_exponent), int(divides), out,
    )  # fmt: skip
    return out
