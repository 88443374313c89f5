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


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4, f4, i8, i8, f4[:,:,::1])")
def _whiten(white: Any, coloured: Any, core: Any, share: Any, gain: Any, y0: Any, x0: Any, out: Any) -> None:
    width = white.shape[1]
    for y in prange(np.int64(white.shape[0])):
        w, k, p = white[y].reshape(width), core[y].reshape(width), coloured[y].reshape(3 * width)
        o = out[y + y0].reshape(3 * out.shape[1])[3 * x0 : 3 * (x0 + width)]
        for x in range(width):
            i, more = 3 * x, share * w[x] + gain * k[x]
            o[i] = o[i] + (more - share * p[i])
            o[i + 1] = o[i + 1] + (more - share * p[i + 1])
            o[i + 2] = o[i + 2] + (more - share * p[i + 2])


def whiten(white: Pixels, coloured: Pixels, share: float, core: Pixels, gain: float, at: tuple[int, int], out: Pixels) -> None:
    """In a part of `out` `[h, w, 3]` that begins at the row and column `at`, a share of the light that is `coloured` becomes `white`
    `[h, w, 1]`, and white light of a `core` x gain is added."""
    _whiten(ready(white), ready(coloured), ready(core), np.float32(share), np.float32(gain), *at, out)


def tinted(light: Pixels, colour: Sequence[float]) -> Pixels:
    """`float32[h, w, 3 or 4]`: light `[h, w, 1]` x a colour of so many channels."""
    out = blank(*light.shape[:2], len(colour))
    _tint(ready(light), np.array(colour, np.float32), out)
    return out
