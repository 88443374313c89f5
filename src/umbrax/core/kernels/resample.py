"""Reducing by area, by share and by nearest."""

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


@kernel("void(f4[:,:,::1], i8, f4[:,:,::1])")
def _shares(planes: Any, n: Any, out: Any) -> None:
    zero, one, least = np.float32(0.0), np.float32(1.0), np.float32(1e-6)
    per = one / np.float32(n * n)
    for y in prange(np.int64(out.shape[0])):
        o = out[y]
        for x in range(o.shape[0]):
            coverage, share, total, covered = zero, zero, zero, zero
            for j in range(n):
                cells = planes[y * n + j, x * n : x * n + n]
                for i in range(n):
                    coverage += cells[i, 0]
                    share += cells[i, 1]
                    total += cells[i, 2]
                    covered += cells[i, 1] * cells[i, 2]
            total, covered = total * per, covered * per
            mean = covered / total if total > least else share * per
            o[x, 0], o[x, 1], o[x, 2] = coverage * per, min(max(mean, zero), one), total


def reduce_shares(planes: Pixels, n: int) -> Pixels:
    """Coverage and sum of a matte `float32[h, w, 3]` by area, the share by area of what is covered: a reduced rim keeps it."""
    if n == 1:
        return planes
    out = blank(planes.shape[0] // n, planes.shape[1] // n, 3)
    _shares(ready(planes), n, out)
    return out


def reduce_nearest(pixels: Pixels, n: int) -> Pixels:
    """The pixel right of and below the middle of each n x n block: depth and IDs must never be averaged."""
    return pixels if n == 1 else np.ascontiguousarray(pixels[n // 2 :: n, n // 2 :: n])
