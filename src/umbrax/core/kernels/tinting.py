"""Light of one channel in a colour."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, ready

Pixels = NDArray[np.float32]


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[::1], f4, f4[:,:,::1])")
def _tint(light: Any, white: Any, colour: Any, gain: Any, out: Any) -> None:
    width = light.shape[1]
    red, green, blue = colour[0], colour[1], colour[2]
    for y in prange(np.int64(light.shape[0])):
        p, w, o = light[y].reshape(width), white[y].reshape(width), out[y].reshape(3 * width)
        for x in range(width):
            core = gain * w[x]
            o[3 * x], o[3 * x + 1], o[3 * x + 2] = p[x] * red + core, p[x] * green + core, p[x] * blue + core


def tinted(light: Pixels, colour: tuple[float, float, float], white: Pixels | None = None, gain: float = 0.0) -> Pixels:
    """`float32[h, w, 3]`: light `[h, w, 1]` x colour, and `white` `[h, w, 1]` x gain in all channels."""
    light, out = ready(light), blank(*light.shape[:2], 3)
    _tint(light, light if white is None else ready(white), np.array(colour, np.float32), np.float32(0.0 if white is None else gain), out)
    return out
