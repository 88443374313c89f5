"""Reducing by area, by weight and by nearest."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, ready

Pixels = NDArray[np.float32]


@kernel("void(f4[:,:,::1], i8, f4[:,:,::1])")
def _area(pixels: Any, n: Any, out: Any) -> None:
    channels = pixels.shape[2]
    share = np.float32(1.0) / np.float32(n * n)
    for y in prange(np.int64(out.shape[0])):
        o = out[y]
        for x in range(o.shape[0]):
            for c in range(channels):
                o[x, c] = np.float32(0.0)
        for j in range(n):
            row = pixels[y * n + j]
            for x in range(o.shape[0]):
                cells = row[x * n : x * n + n]
                for i in range(n):
                    for c in range(channels):
                        o[x, c] += cells[i, c]
        for x in range(o.shape[0]):
            for c in range(channels):
                o[x, c] *= share


def reduce_area(pixels: Pixels, n: int) -> Pixels:
    """The mean of each n x n block. Both sizes must be whole multiples of n; n = 1 returns the input."""
    if n == 1:
        return pixels
    out = blank(pixels.shape[0] // n, pixels.shape[1] // n, pixels.shape[2])
    _area(ready(pixels), n, out)
    return out


def reduce_nearest(pixels: Pixels, n: int) -> Pixels:
    """The pixel right of and below the middle of each n x n block: depth and IDs must never be averaged."""
    return pixels if n == 1 else np.ascontiguousarray(pixels[n // 2 :: n, n // 2 :: n])
