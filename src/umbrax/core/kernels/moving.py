"""Moving the contour of a matte by its signed distance: coverage and share in one pass."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part, ready

Pixels = NDArray[np.float32]


@part
def _ramp(distance: Any, length: Any) -> Any:
    """The coverage of a straight edge at this distance over a ramp of this length, 0..1."""
    value = distance / length + np.float32(0.5)
    return min(max(value, np.float32(0.0)), np.float32(1.0))


@kernel("void(f4[:,:,::1], f4[:,::1], f4, f4, f4[:,:,::1])")
def _moved(planes: Any, distance: Any, by: Any, feather: Any, out: Any) -> None:
    zero, one, half, least = np.float32(0.0), np.float32(1.0), np.float32(0.5), np.float32(1e-3)
    wide = max(feather, one)
    for y in prange(np.int64(planes.shape[0])):
        p, d, o = planes[y], distance[y], out[y]
        for x in range(p.shape[0]):
            total = p[x, 2]
            length = min(max(total, least), one)
            inner = d[x] + (one - length) * half
            coverage = p[x, 0] + _ramp(d[x] + by, wide) - _ramp(d[x], one)
            share = p[x, 1] + _ramp(inner + by, max(length, feather)) - _ramp(inner, length)
            o[x, 0] = min(max(coverage, zero), one)
            o[x, 1] = min(max(share, zero), one)
            o[x, 2] = total


def moved(planes: Pixels, distance: NDArray[np.float32], by: float, feather: float) -> Pixels:
    """Coverage, share and sum `float32[h, w, 3]` with the contour moved outward by so many pixels and feathered over so many."""
    out = blank(*planes.shape)
    _moved(ready(planes), ready(distance), np.float32(by), np.float32(feather), out)
    return out
