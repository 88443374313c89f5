"""Making one place like another: the slope that takes one average to the other."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..colour import LUMA_BT709
from ..errors import UmbraxError

Three = tuple[float, float, float]
LEAST = 1e-4  # of an average that is to be multiplied


def average(pixels: NDArray[np.float32]) -> Three:
    """The mean colour of RGBA `float32[h, w, 4]` by its alpha, without it."""
    total = float(pixels[..., 3].sum(dtype=np.float64))
    if total <= 0:
        raise UmbraxError("nothing-here", "nothing is there; touch something that the picture shows")
    red, green, blue = pixels[..., :3].sum(axis=(0, 1), dtype=np.float64) / total
    return float(red), float(green), float(blue)


def matching_slope(here: Three, there: Three, how: Literal["neutral", "whole"], luma: Three = LUMA_BT709) -> Three:
    """The slope that makes `here` like `there`: in colour alone, the luma of `here` kept, or in brightness as well."""
    if min(here) < LEAST or min(there) < LEAST:
        raise UmbraxError("too-dark", "one of the two is black in a channel, and no gain makes it like the other; touch brighter places")
    own, other = np.array(here), np.array(there)
    wanted = other if how == "whole" else other * (own @ luma) / (other @ luma)
    slope = wanted / own
    return float(slope[0]), float(slope[1]), float(slope[2])
