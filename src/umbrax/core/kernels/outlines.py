"""Filling a closed outline: how much of each pixel it covers, exactly."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, ready


@kernel("void(f8[:,::1], f8[:,::1])")
def _accumulate(points: Any, sums: Any) -> None:
    """Each edge adds to the pixels it runs through the area right of it, and to the next pixel the rest of its height.

    Running sums along a row then give the signed area covered (Green's theorem, pixel by pixel).
    """
    width, count = sums.shape[1] - 2, points.shape[0]
    for row in prange(np.int64(sums.shape[0])):
        line = sums[row]
        for i in range(count):
            following = i + 1 if i + 1 < count else 0
            x0, y0, x1, y1, sign = points[i, 0], points[i, 1], points[following, 0], points[following, 1], 1.0
            if y0 > y1:
                x0, y0, x1, y1, sign = x1, y1, x0, y0, -1.0
            top, bottom = max(y0, float(row)), min(y1, float(row + 1))
            if bottom <= top:
                continue
            slope = (x1 - x0) / (y1 - y0)
            xa, xb = x0 + (top - y0) * slope, x0 + (bottom - y0) * slope
            left, right, tall = min(xa, xb), max(xa, xb), sign * (bottom - top)
            if right <= 0.0:
                line[0] += tall
                continue
            if left >= width:
                continue
            spread = right - left
            if left < 0.0:
                line[0] += tall * (-left / spread)
            begin, end = int(np.floor(max(left, 0.0))), int(np.ceil(min(right, float(width))))
            for x in range(begin, max(end, begin + 1)):
                a, b = max(left, float(x)), min(right, float(x + 1))
                share = tall if spread == 0.0 else tall * (b - a) / spread
                middle = (a + b) / 2 - x
                line[x] += share * (1.0 - middle)
                line[x + 1] += share * middle


def filled(points: NDArray[np.float64], width: int, height: int) -> NDArray[np.float32]:
    """Coverage `float32[h, w]` of a closed outline of points `[n, 2]` (x, y) in pixels; where it winds twice it counts once."""
    sums = np.zeros((height, width + 2), np.float64)
    _accumulate(ready(points, np.float64), sums)
    # what adding and taking away again leaves is no cover
    covered = np.round(np.abs(np.cumsum(sums[:, :width], axis=1)), 9)
    return np.minimum(covered, 1, out=covered).astype(np.float32)
