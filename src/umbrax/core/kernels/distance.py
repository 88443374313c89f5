"""Signed distance to the contour of a soft matte, in pixels, positive inside.

For a binary matte it is the exact Euclidean distance between pixel centres less half a pixel. A pixel on the edge
moves the contour by what it is covered: along an axis-aligned edge the result is exact for any coverage.
"""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, ready

Plane = NDArray[np.float32]
FAR = 1e9


@kernel("void(f4[:,::1], f4, f4[:,::1])")
def _marks(matte: Any, side: Any, depths: Any) -> None:
    """How deep each pixel lies beyond the contour, seen from one side; -FAR where it says nothing about the contour.

    A partly covered pixel of the near side counts as well where the contour runs between it and a neighbour.
    """
    height, width = matte.shape
    half = np.float32(0.5)
    for y in prange(np.int64(height)):
        o = depths[y]
        for x in range(width):
            depth = (half - matte[y, x]) * side
            o[x] = depth
            if depth < np.float32(0.0):
                crossed = (x > 0 and (half - matte[y, x - 1]) * side >= np.float32(0.0)) or (
                    x + 1 < width and (half - matte[y, x + 1]) * side >= np.float32(0.0)
                )
                crossed = crossed or (y > 0 and (half - matte[y - 1, x]) * side >= np.float32(0.0))
                crossed = crossed or (y + 1 < height and (half - matte[y + 1, x]) * side >= np.float32(0.0))
                if depth <= -half or not crossed:
                    o[x] = np.float32(-FAR)


@kernel("void(f4[:,::1], i8, f4[:,::1], f4[:,::1])")
def _up_and_down(marks: Any, reach: Any, squares: Any, depths: Any) -> None:
    """For each pixel the nearest contour in its column: distance squared to the pixel that marks it, and its depth."""
    height, width = marks.shape
    for y in prange(np.int64(height)):
        square, deep = squares[y], depths[y]
        best = np.full(width, np.float32(FAR), np.float32)
        for x in range(width):
            square[x], deep[x] = np.float32(FAR), np.float32(0.0)
        for dy in range(-reach, reach + 1):
            at = y + dy
            if at < 0 or at >= height:
                continue
            row, far, step = marks[at], np.float32(dy * dy), np.float32(abs(dy))
            for x in range(width):
                distance = step - row[x]
                nearer = distance < best[x]
                best[x] = distance if nearer else best[x]
                square[x] = far if nearer else square[x]
                deep[x] = row[x] if nearer else deep[x]


@kernel("void(f4[:,::1], f4[:,::1], f4[:,::1], f4, i8, f4, f4[:,::1])")
def _sideways(matte: Any, squares: Any, depths: Any, side: Any, reach: Any, limit: Any, out: Any) -> None:
    height, width = matte.shape
    half = np.float32(0.5)
    for y in prange(np.int64(height)):
        square, deep, o, m = squares[y], depths[y], out[y], matte[y]
        best = np.full(width, np.float32(FAR), np.float32)
        if square.min() < np.float32(FAR):
            for x in range(width):
                best[x] = np.sqrt(square[x]) - deep[x]
            for dx in range(1, min(reach + 1, width)):
                s = np.float32(dx * dx)
                left, right = square[: width - dx], square[dx:]
                deep_left, deep_right = deep[: width - dx], deep[dx:]
                to_right, to_left = best[dx:], best[: width - dx]
                for x in range(width - dx):
                    to_right[x] = min(to_right[x], np.sqrt(left[x] + s) - deep_left[x])
                for x in range(width - dx):
                    to_left[x] = min(to_left[x], np.sqrt(right[x] + s) - deep_right[x])
        for x in range(width):
            inside = (m[x] - half) * side
            if inside >= np.float32(0.0):
                o[x] = side * min(max(best[x], np.float32(0.0)), limit)


def signed_distance(matte: Plane, radius: float) -> Plane:
    """Distance `float32[h, w]` from each pixel's centre to the contour matte = 0.5, limited to +-(radius + 1).

    Outside the array nothing is known: callers hand in `radius + 2` pixels more on each side.
    """
    m = ready(matte)
    reach = int(np.ceil(radius)) + 2
    out = np.empty_like(m)
    marks, squares, depths = np.empty_like(m), np.empty_like(m), np.empty_like(m)
    for side in (np.float32(1.0), np.float32(-1.0)):
        _marks(m, side, marks)
        _up_and_down(marks, reach, squares, depths)
        _sideways(m, squares, depths, side, reach, np.float32(radius + 1), out)
    return out
