"""IDs as colours, weighted by coverage."""

import math
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part

GOLDEN = 0.6180339887498949


@part
def _colour(value: Any, out: Any) -> None:
    """Hue and lightness from the bits of an ID; ID 0 is black."""
    if value == np.uint32(0):
        out[0] = out[1] = out[2] = np.float32(0.0)
        return
    hue = np.float64(np.uint32(value * np.uint32(2654435761))) / 2**32 + GOLDEN
    lightness = 0.35 + 0.45 * np.float64((value >> np.uint32(7)) % np.uint32(64)) / 63
    for c in range(3):
        out[c] = np.float32(lightness * (0.55 + 0.45 * math.cos((hue + c / 3) * 2 * math.pi)))


@kernel("void(u4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def _hues(ids: Any, coverage: Any, out: Any) -> None:
    for y in prange(np.int64(out.shape[0])):
        o = out[y]
        colour, known = np.zeros(3, np.float32), np.uint32(0)
        for x in range(o.shape[0]):
            o[x, 0] = o[x, 1] = o[x, 2] = np.float32(0.0)
            o[x, 3] = np.float32(1.0)
        for rank in range(ids.shape[0]):
            names, shares = ids[rank, y], coverage[rank, y]
            for x in range(o.shape[0]):
                if names[x] != known:  # neighbours mostly have the same
                    known = names[x]
                    _colour(known, colour)
                if known != np.uint32(0):
                    for c in range(3):
                        o[x, c] += colour[c] * shares[x]


def hues(ids: NDArray[np.uint32], coverage: NDArray[np.float32]) -> NDArray[np.float32]:
    """RGBA `float32[h, w, 4]` of IDs and coverages `[rank, h, w]`: a stable colour for each ID; alpha is 1."""
    out = blank(ids.shape[1], ids.shape[2], 4)
    _hues(np.ascontiguousarray(ids), np.ascontiguousarray(coverage), out)
    return out
