"""Transfer functions, luma weights and the view.

Working space is scene-linear light with BT.709 primaries.
"""

from functools import cache

import numpy as np
from numpy.typing import NDArray

from .kernels import view

# Recommendation ITU-R BT.709-6, item 3.2: luma from linear R, G, B
LUMA_BT709 = (0.2126, 0.7152, 0.0722)

FILM_BLACK, FILM_WHITE = 95, 685  # codes of 10 bits

Floats = NDArray[np.floating]


def srgb_from_linear(light: Floats) -> Floats:
    """sRGB code values 0..1 from linear light (IEC 61966-2-1:1999, 5.2); odd about 0 outside 0..1."""
    x = np.abs(light)
    with np.errstate(invalid="ignore"):
        encoded = np.where(x <= 0.0031308, 12.92 * x, 1.055 * np.power(x, 1 / 2.4) - 0.055)
    return np.copysign(encoded, light).astype(light.dtype, copy=False)


def linear_from_srgb(code: Floats) -> Floats:
    """Linear light from sRGB code values 0..1 (IEC 61966-2-1:1999, 5.2); odd about 0 outside 0..1."""
    x = np.abs(code)
    light = np.where(x <= 0.04045, x / 12.92, np.power((x + 0.055) / 1.055, 2.4))
    return np.copysign(light, code).astype(code.dtype, copy=False)


def linear_from_film_log(code: Floats) -> Floats:
    """Linear light from logarithmic codes 0..1 of scanned film: printing density, as SMPTE ST 268 (DPX) names it.

    0.002 of density a code of 10 bits, white 685, black 95, negative gamma 0.6 (common practice for such files): white is 1,
    black 0, and what lies above white goes on to 13.5.
    """
    relative = 10 ** ((np.asarray(code, np.float64) * 1023 - FILM_WHITE) * 0.002 / 0.6)
    black = 10 ** ((FILM_BLACK - FILM_WHITE) * 0.002 / 0.6)
    return np.asarray((relative - black) / (1 - black), code.dtype)


@cache
def _srgb_table() -> NDArray[np.uint8]:
    return np.rint(srgb_from_linear(view.middle_values()) * 255).astype(np.uint8)


def looking(pixels: NDArray[np.float32], exposure: float = 0.0) -> NDArray[np.uint8]:
    """`uint8[h, w, 3]` sRGB for looking, within one code of the exact curve; exposure in stops."""
    return view.eight_bits(pixels, 2.0**exposure, _srgb_table())


def exact_codes(light: Floats, top: int) -> NDArray[np.uint16]:
    """sRGB codes 0..top of linear light by the formula itself, rounded; light is limited to 0..1 and NaN is 0."""
    limited = np.clip(np.nan_to_num(light.astype(np.float64), nan=0.0), 0.0, 1.0)
    return np.rint(srgb_from_linear(limited) * top).astype(np.uint16)
