"""Powers without a branch, and the sRGB curve made of them: what kernels share, inlined into each.

The logarithm and the exponential err by some 3e-7 together.
"""

from math import sqrt
from typing import Any

import numpy as np

from . import part
from .vectors import choose


@part
def log2(x: Any) -> Any:
    """log2 of a positive normal float: exponent plus an odd polynomial in s = (m - 1)/(m + 1), |s| < 0.172.

    log2(m) = 2/ln 2 (s + s^3/3 + s^5/5 + ...), the usual area-hyperbolic-tangent series, with its coefficients
    fitted for the least largest relative error; four terms err by 7e-10.
    """
    bits = np.float32(x).view(np.int32)
    shifted = np.int32(bits - np.int32(0x3F3504F3))  # sqrt(1/2): keeps the mantissa within [0.707, 1.414)
    exponent = np.int32(shifted >> np.int32(23))
    m = np.int32(bits - np.int32(exponent << np.int32(23))).view(np.float32)
    s = (m - np.float32(1.0)) / (m + np.float32(1.0))
    q = s * s
    series = np.float32(0.43173593) * q + np.float32(0.5767144)
    series = series * q + np.float32(0.96179885)
    series = series * q + np.float32(2.88539)
    return np.float32(exponent) + series * s


@part
def exp2(x: Any) -> Any:
    """2^x: the whole part goes into the exponent, the rest, |f| <= 0.5, through a polynomial that errs by 1e-7.

    Adding 1.5 x 2^23 rounds to a whole number and leaves it in the lowest bits.
    """
    limited = max(np.float32(-126.0), min(np.float32(127.499), x))
    rounded = np.float32(limited + np.float32(12582912.0))
    f = limited - np.float32(rounded - np.float32(12582912.0))
    p = np.float32(0.0013264727) * f + np.float32(0.009671513)
    p = p * f + np.float32(0.055507336)
    p = p * f + np.float32(0.24022242)
    p = p * f + np.float32(0.693147)
    p = p * f + np.float32(1.0)
    return p * np.int32(np.int32(rounded.view(np.int32) + np.int32(127)) << np.int32(23)).view(np.float32)


@part
def power(x: Any, exponent: Any, shift: Any) -> Any:
    """x^exponent 2^shift for x > 0; zero, negatives, infinities and NaN as they are."""
    normal = x >= np.float32(1.1754944e-38) and x < np.float32(3.4e38)
    return choose(normal, exp2(exponent * log2(x) + shift), x)


@part
def encoded(x: Any) -> Any:
    """sRGB value of a linear one (IEC 61966-2-1), going on above 1 and mirrored below 0."""
    size = abs(x)
    curved = np.float32(1.055) * power(size, np.float32(1 / 2.4), np.float32(0.0)) - np.float32(0.055)
    value = choose(size <= np.float32(0.0031308), np.float32(12.92) * size, curved)
    return choose(x < np.float32(0.0), -value, value)


@part
def decoded(x: Any) -> Any:
    """Linear value of an sRGB one, the way back."""
    size = abs(x)
    curved = power((size + np.float32(0.055)) * np.float32(1 / 1.055), np.float32(2.4), np.float32(0.0))
    value = choose(size <= np.float32(0.04045), size * np.float32(1 / 12.92), curved)
    return choose(x < np.float32(0.0), -value, value)


@part
def encoded_unit(x: Any) -> Any:
    """The same between 0 and 1, by a quotient of polynomials in the square root of x (fitted; it errs by 8e-7) in half the time."""
    s = np.float32(sqrt(x))
    over = (np.float32(13.283926) * s + np.float32(63.097027)) * s + np.float32(28.235447)
    over = (over * s + np.float32(0.87743926)) * s - np.float32(0.050273675)
    under = ((np.float32(20.248596) * s + np.float32(62.128834)) * s + np.float32(22.066076)) * s + np.float32(1.0)
    curved = choose(x >= np.float32(1.0), np.float32(1.0), over / under)
    return choose(x <= np.float32(0.0031308), np.float32(12.92) * x, curved)


@part
def decoded_unit(x: Any) -> Any:
    """The way back between 0 and 1, by a polynomial (fitted; it errs by 8e-7)."""
    p = (np.float32(-0.078315116) * x + np.float32(0.38201702)) * x - np.float32(0.8127928)
    p = (p * x + np.float32(1.0169953)) * x - np.float32(0.8998932)
    p = (p * x + np.float32(0.8716654)) * x + np.float32(0.48408556)
    p = (p * x + np.float32(0.035384644)) * x + np.float32(0.0008526091)
    return choose(x <= np.float32(0.04045), x * np.float32(1 / 12.92), p)
