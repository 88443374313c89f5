"""Pixels at the rim of an element that are covered in part, and of which a renderer that looks at the middle of a pixel tells nothing."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, ready
from .edge_light import OPAQUE

Values = NDArray[np.float32]
REACH = 2  # pixels on each side in which something is told


@kernel("void(f4[:,:,::1], u1[:,::1], f4[:,::1], f4, i8[:,::1])")
def _beside(light: Any, untold: Any, order: Any, least: Any, out: Any) -> None:
    height, width = untold.shape
    for row in prange(np.int64(height)):
        y = np.int64(row)
        for x in range(width):
            out[y, x] = y * width + x
            alpha, own = light[y, x, 3], order[y, x]
            if untold[y, x] == 0 or not (alpha > 0 and alpha < np.float32(OPAQUE)):
                continue
            closest, most = np.int64(99), np.float32(0.0)
            for v in range(max(np.int64(0), y - REACH), min(np.int64(height), y + REACH + 1)):
                for u in range(max(0, x - REACH), min(width, x + REACH + 1)):
                    away, covered = (v - y) * (v - y) + (u - x) * (u - x), light[v, u, 3]
                    if untold[v, u] or (own < np.float32(np.inf) and not abs(order[v, u] - own) < least):
                        continue
                    if away < closest or (away == closest and covered > most):
                        closest, most, out[y, x] = away, covered, v * width + u


def told_beside(light: Values, untold: NDArray[np.bool_], order: Values, least: float) -> NDArray[np.int64]:
    """Of each pixel of RGBA `light` the number, counted row by row, of the one that says what is in it: where it is covered in part and
    nothing is told of it, the nearest within two pixels of which something is told, and of several the most covered; else itself.

    Where `order` `float32[h, w]` tells how far away it is, only what differs from that by less than `least`.
    """
    out = np.empty(untold.shape, np.int64)
    _beside(ready(light), ready(untold, np.uint8), ready(order), np.float32(least), out)
    return out
