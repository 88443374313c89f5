"""Moving the contour of a matte by its signed distance: coverage and share in one pass."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part, ready

Pixels = NDArray[np.float32]
ACROSS = 64  # pixels of a row looked at together


@part
def _ramp(distance: Any, length: Any) -> Any:
    """The coverage of a straight edge at this distance over a ramp of this length, 0..1."""
    value = distance / length + np.float32(0.5)
    return min(max(value, np.float32(0.0)), np.float32(1.0))


@part
def _limited(planes: Any, highest: Any, out: Any) -> None:
    for x in range(planes.shape[0]):
        out[x] = min(max(planes[x], np.float32(0.0)), highest[x])


@kernel("void(f4[:,:,::1], f4[:,::1], f4, f4, f4, f4[:,:,::1])")
def _moved(planes: Any, distance: Any, limit: Any, by: Any, feather: Any, out: Any) -> None:
    zero, one, half, least = np.float32(0.0), np.float32(1.0), np.float32(0.5), np.float32(1e-3)
    height, width = distance.shape
    wide = max(feather, one)
    highest = np.full(3 * ACROSS, one)
    highest[2::3] = np.float32(np.inf)
    for y in prange(np.int64(height)):
        for start in range(0, width, ACROSS):
            end = min(width, start + ACROSS)
            p, d, o = planes[y, start:end], distance[y, start:end], out[y, start:end]
            near = limit
            for x in range(d.shape[0]):
                near = min(near, abs(d[x]))
            if near >= limit:
                _limited(p.reshape(-1), highest[: 3 * d.shape[0]], o.reshape(-1))
                continue
            for x in range(d.shape[0]):
                total = p[x, 2]
                length = min(max(total, least), one)
                inner = d[x] + (one - length) * half
                coverage = p[x, 0] + _ramp(d[x] + by, wide) - _ramp(d[x], one)
                share = p[x, 1] + _ramp(inner + by, max(length, feather)) - _ramp(inner, length)
                o[x, 0] = min(max(coverage, zero), one)
                o[x, 1] = min(max(share, zero), one)
                o[x, 2] = total


def moved(planes: Pixels, distance: NDArray[np.float32], limit: float, by: float, feather: float) -> Pixels:
    """Coverage, share and sum `float32[h, w, 3]` with the contour moved outward by so many pixels and feathered over so many.

    Where the distance is `limit` or more, which lies beyond what is moved, both ramps are as full as they were.
    """
    out = blank(*planes.shape)
    _moved(ready(planes), ready(distance), np.float32(limit), np.float32(by), np.float32(feather), out)
    return out
