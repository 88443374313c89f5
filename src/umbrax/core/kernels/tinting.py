"""Light of one channel in a colour."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, ready

Pixels = NDArray[np.float32]


@kernel("void(f4[:,:,::1], f4[::1], f4[:,:,::1])")
def _tint(light: Any, colour: Any, out: Any) -> None:
    width = light.shape[1]
    red, green, blue = colour[0], colour[1], colour[2]
    for y in prange(np.int64(light.shape[0])):
        p, o = light[y].reshape(width), out[y].reshape(colour.shape[0] * width)
        if colour.shape[0] == 3:
            for x in range(width):
                o[3 * x], o[3 * x + 1], o[3 * x + 2] = p[x] * red, p[x] * green, p[x] * blue
        else:
            for x in range(width):
                o[4 * x], o[4 * x + 1], o[4 * x + 2], o[4 * x + 3] = p[x] * red, p[x] * green, p[x] * blue, p[x] * colour[3]


@kernel("void(f4[:,:,::1], f4, i8, i8, f4[:,:,::1])")
def _whiten(light: Any, gain: Any, y0: Any, x0: Any, out: Any) -> None:
    width = light.shape[1]
    for y in prange(np.int64(light.shape[0])):
        p, o = light[y].reshape(width), out[y + y0].reshape(3 * out.shape[1])[3 * x0 : 3 * (x0 + width)]
        for x in range(width):
            white = gain * p[x]
            o[3 * x], o[3 * x + 1], o[3 * x + 2] = o[3 * x] + white, o[3 * x + 1] + white, o[3 * x + 2] + white


def add_white(light: Pixels, gain: float, at: tuple[int, int], out: Pixels) -> None:
    """Add light `[h, w, 1]` x gain to all channels of a part of `out` that begins at the row and column `at`."""
    _whiten(ready(light), np.float32(gain), *at, out)


def tinted(light: Pixels, colour: Sequence[float]) -> Pixels:
    """`float32[h, w, 3 or 4]`: light `[h, w, 1]` x a colour of so many channels."""
    out = blank(*light.shape[:2], len(colour))
    _tint(ready(light), np.array(colour, np.float32), out)
    return out
