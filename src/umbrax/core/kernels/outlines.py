"""Filling a closed outline: how much of each pixel it covers, exactly."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, ready
from .covering import edge_over_row


@kernel("void(f8[:,::1], f8[:,::1])")
def _accumulate(points: Any, sums: Any) -> None:
    width, count = sums.shape[1] - 2, points.shape[0]
    for row in prange(np.int64(sums.shape[0])):
        line = sums[row]
        for i in range(count):
            following = i + 1 if i + 1 < count else 0
            edge_over_row(points[i, 0], points[i, 1], points[following, 0], points[following, 1], row, width, line)


def filled(points: NDArray[np.float64], width: int, height: int) -> NDArray[np.float32]:
    """Coverage `float32[h, w]` of a closed outline of points `[n, 2]` (x, y) in pixels; where it winds twice it counts once."""
    sums = np.zeros((height, width + 2), np.float64)
    _accumulate(ready(points, np.float64), sums)
    # what adding and taking away again leaves is no cover
    covered = np.round(np.abs(np.cumsum(sums[:, :width], axis=1)), 9)
    return np.minimum(covered, 1, out=covered).astype(np.float32)
