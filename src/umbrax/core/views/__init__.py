"""Views: how scene-linear light is shown on a display, and what light shows as given codes.

`srgb` is the sRGB curve: light of 1 is white, and what is brighter is white as well. `aces` is the rendering of the Academy Color Encoding
System 2.0 for a display of 100 nits: highlights roll off.
"""

from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from .. import colour
from . import aces

View = Literal["srgb", "aces"]
VIEWS: tuple[View, ...] = get_args(View)
Floats = NDArray[np.float32]


def looking(pixels: Floats, exposure: float = 0.0, view: View = "srgb") -> NDArray[np.uint8]:
    """`uint8[h, w, 3]` for looking, of light `[h, w, 1, 3 or 4]`; exposure in stops. Quick, and within a code or two of `exact_codes`."""
    return colour.looking(pixels, exposure) if view == "srgb" else aces.looking(pixels, exposure)


def exact_codes(light: Floats, top: int, view: View = "srgb") -> NDArray[np.uint16]:
    """Codes 0..top of light `[h, w, 3]`, rounded, by the view's own definition; what is no number is black."""
    if view == "srgb":
        return colour.exact_codes(light, top)
    return np.rint(np.clip(aces.displayed(light), 0, 1) * top).astype(np.uint16)


def light_of(codes: Floats, view: View = "srgb") -> Floats:
    """The light `[h, w, c]` that a view shows as codes 0..1."""
    if view == "srgb":
        return np.asarray(colour.linear_from_srgb(codes), np.float32)
    return aces.light_of(codes)
