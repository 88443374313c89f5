"""Where a plane differs from one value, bit for bit."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel


@kernel(*(f"void({bits}[:,::1], {bits}, i8[::1], i8[::1])" for bits in ("u1", "u2", "u4")))
def _differing(plane: Any, value: Any, first: Any, last: Any) -> None:
    """The first and last differing column of each row; first = width where there is none."""
    height, width = plane.shape
    for y in prange(height):
        row = plane[y]
        left = np.int64(0)
        while left < width and row[left] == value:
            left += 1
        right = width - np.int64(1)
        while right > left and row[right] == value:
            right -= 1
        first[y], last[y] = left, right


def differing_box(plane: NDArray[Any], value: Any) -> tuple[int, int, int, int]:
    """(x0, y0, x1, y1) around all values of `uint[h, w]` that are not `value`; zeros where there are none."""
    first, last = np.empty(plane.shape[0], np.int64), np.empty(plane.shape[0], np.int64)
    _differing(plane, plane.dtype.type(value), first, last)
    rows = np.flatnonzero(first < plane.shape[1])
    if not len(rows):
        return 0, 0, 0, 0
    return int(first[rows].min()), int(rows[0]), int(last[rows].max()) + 1, int(rows[-1]) + 1
