"""Signed distance to the contour of a soft matte, in pixels, positive inside.

For a binary matte it is the exact Euclidean distance between pixel centres less half a pixel. A pixel on the edge
moves the contour by what it is covered: along an axis-aligned edge the result is exact for any coverage.
"""

from typing import Any

import cv2
import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, ready

Plane = NDArray[np.float32]
FAR = 1e9
DOWN, ACROSS = 4, 32  # pixels of a block


@kernel("void(f4[:,::1], f4, i8[:,::1], f4[:,::1])")
def _marks(matte: Any, side: Any, rows: Any, depths: Any) -> None:
    """How deep each pixel lies beyond the contour, seen from one side; -FAR where it says nothing about the contour.

    A partly covered pixel of the near side counts as well where the contour runs between it and a neighbour.
    """
    height, width = matte.shape
    half, zero = np.float32(0.5), np.float32(0.0)
    for y in prange(np.int64(height)):
        around = np.empty(ACROSS + 2, np.float32)
        for block in range(rows.shape[0]):
            if y < rows[block, 0] or y >= rows[block, 1]:
                continue
            start, end = block * ACROSS, min(width, (block + 1) * ACROSS)
            count = end - start
            # a neighbour outside the array is the pixel itself, which crosses nothing
            above, below = matte[max(y - 1, 0), start:end], matte[min(y + 1, height - 1), start:end]
            around[0], around[count + 1] = matte[y, max(start - 1, 0)], matte[y, min(end, width - 1)]
            m, o = matte[y, start:end], depths[y, start:end]
            for x in range(count):
                around[x + 1] = m[x]
            left, right = around[:count], around[2 : count + 2]
            for x in range(count):
                depth = (half - m[x]) * side
                crossed = max(max((half - left[x]) * side, (half - right[x]) * side), max((half - above[x]) * side, (half - below[x]) * side))
                says = depth >= zero or (depth > -half and crossed >= zero)
                o[x] = depth if says else np.float32(-FAR)


@kernel("void(f4[:,::1], f4, i8[:,::1], f4[:,::1], f4[:,::1])")
def _up_and_down(marks: Any, reach: Any, rows: Any, squares: Any, depths: Any) -> None:
    """For each pixel the nearest contour in its column: distance squared to the pixel that marks it, and its depth.

    Whatever is nearest to a pixel from above is nearest to the one below it or that one is itself, so one way down and one
    up tell all; a mark farther than `reach` is forgotten, so that no window sees more than another.
    """
    width = marks.shape[1]
    far, one, zero = np.float32(FAR), np.float32(1.0), np.float32(0.0)
    for block in prange(np.int64(rows.shape[0])):
        top, bottom = rows[block, 0], rows[block, 1]
        start, end = block * ACROSS, min(width, (block + 1) * ACROSS)
        away, deep = np.empty(ACROSS, np.float32), np.zeros(ACROSS, np.float32)
        away[:] = far
        for y in range(top, bottom):
            mark, count, depth = marks[y, start:end], squares[y, start:end], depths[y, start:end]
            for x in range(end - start):
                c, d = away[x] + one, deep[x]
                own = -mark[x] < c - d
                c, d = zero if own else c, mark[x] if own else d
                gone = c > reach
                c, d = far if gone else c, zero if gone else d
                away[x], deep[x], count[x], depth[x] = c, d, c, d
        for x in range(ACROSS):
            away[x], deep[x] = far, zero
        for y in range(bottom - 1, top - 1, -1):
            mark, count, depth = marks[y, start:end], squares[y, start:end], depths[y, start:end]
            for x in range(end - start):
                c, d = away[x] + one, deep[x]
                gone = c > reach
                c, d = far if gone else c, zero if gone else d
                lower = c - d < count[x] - depth[x]
                n, k = c if lower else count[x], d if lower else depth[x]
                count[x], depth[x] = n * n if n < far else far, k
                own = -mark[x] < c - d
                away[x], deep[x] = zero if own else c, mark[x] if own else d


@kernel("void(f4[:,::1], f4[:,::1], f4[:,::1], f4, i8, f4, u1[:,::1], f4[:,::1])")
def _sideways(matte: Any, squares: Any, depths: Any, side: Any, reach: Any, limit: Any, active: Any, out: Any) -> None:
    """The nearest contour over all columns within reach; blocks that follow each other are gone over at once."""
    height, width = matte.shape
    half, far = np.float32(0.5), np.float32(FAR)
    blocks = active.shape[1]
    for y in prange(np.int64(height)):
        square, deep = np.empty(width + 2 * reach, np.float32), np.empty(width + 2 * reach, np.float32)
        square[:], deep[:] = far, np.float32(0.0)
        best, block = np.empty(width, np.float32), 0
        while block < blocks:
            if active[y // DOWN, block] == 0:
                block += 1
                continue
            start = block * ACROSS
            while block < blocks and active[y // DOWN, block] != 0:
                block += 1
            end = min(width, block * ACROSS)
            low, high = max(start - reach, 0), min(end + reach, width)
            square[low + reach : high + reach] = squares[y, low:high]
            deep[low + reach : high + reach] = depths[y, low:high]
            count, middle = end - start, start + reach
            here, own, b = square[middle : middle + count], deep[middle : middle + count], best[:count]
            for x in range(count):
                b[x] = np.sqrt(here[x]) - own[x]
            for dx in range(1, reach + 1):
                s, left, right = np.float32(dx * dx), middle - dx, middle + dx
                square_left, deep_left = square[left : left + count], deep[left : left + count]
                square_right, deep_right = square[right : right + count], deep[right : right + count]
                for x in range(count):
                    b[x] = min(b[x], min(np.sqrt(square_left[x] + s) - deep_left[x], np.sqrt(square_right[x] + s) - deep_right[x]))
            o, m = out[y, start:end], matte[y, start:end]
            for x in range(count):
                if (m[x] - half) * side >= np.float32(0.0):
                    o[x] = side * min(max(b[x], np.float32(0.0)), limit)


@kernel("void(f4[:,:,::1], f4, f4[:,::1], f4[:,::1], u1[:,::1], u1[:,::1])")
def _sides(planes: Any, limit: Any, matte: Any, out: Any, inside: Any, outside: Any) -> None:
    """The first plane by itself, the distance of whatever is far from its contour, and which blocks hold pixels of either side."""
    height, width = matte.shape
    half = np.float32(0.5)
    for row in prange(np.int64(inside.shape[0])):
        for block in range(inside.shape[1]):
            start, end = block * ACROSS, min(width, (block + 1) * ACROSS)
            low, high = np.float32(FAR), np.float32(-FAR)
            for y in range(row * DOWN, min(height, (row + 1) * DOWN)):
                p, m, o = planes[y, start:end], matte[y, start:end], out[y, start:end]
                for x in range(end - start):
                    m[x] = p[x, 0]
                for x in range(end - start):
                    o[x] = limit if m[x] >= half else -limit
                    low, high = min(low, m[x]), max(high, m[x])
            # a pixel that is partly covered may mark the contour for both sides
            inside[row, block] = 1 if high > np.float32(0.0) else 0
            outside[row, block] = 1 if low < np.float32(1.0) else 0


def _grown(blocks: Any, rows: int, columns: int) -> Any:
    return cv2.dilate(blocks, np.ones((2 * rows + 1, 2 * columns + 1), np.uint8))


def _rows_of(blocks: Any, reach: int, height: int) -> Any:
    """For each column of blocks the first row that counts and the one behind the last; none where no block is set."""
    rows = np.zeros((blocks.shape[1], 2), np.int64)
    there = blocks.any(axis=0)
    rows[:, 0] = np.where(there, np.maximum(blocks.argmax(axis=0) * DOWN - reach, 0), 0)
    rows[:, 1] = np.where(there, np.minimum((blocks.shape[0] - blocks[::-1].argmax(axis=0)) * DOWN + reach, height), 0)
    return rows


def signed_distance(matte: Plane, radius: float) -> Plane:
    """Distance `float32[h, w]` from each pixel's centre to the contour matte = 0.5, limited to +-(radius + 1).

    `matte` is `float32[h, w]`, or `float32[h, w, c]` of which the first plane is it. Outside the array nothing is known:
    callers hand in `radius + 2` pixels more on each side. Only blocks of pixels that the contour is within reach of are
    looked at closely.
    """
    planes = ready(matte if matte.ndim == 3 else matte[..., None])
    height, width = planes.shape[:2]
    m = np.empty((height, width), np.float32)
    reach = int(np.ceil(radius)) + 2
    limit = np.float32(radius + 1)
    out, marks, squares, depths = np.empty_like(m), np.empty_like(m), np.empty_like(m), np.empty_like(m)
    blocks = (-(-height // DOWN), -(-width // ACROSS))
    inside, outside = np.empty(blocks, np.uint8), np.empty(blocks, np.uint8)
    _sides(planes, limit, m, out, inside, outside)
    down, across = -(-reach // DOWN), -(-reach // ACROSS)
    for side, near, far in ((np.float32(1.0), inside, outside), (np.float32(-1.0), outside, inside)):
        active = near & _grown(far, down, across)
        if not active.any():
            continue
        rows = _rows_of(_grown(active, 0, across), reach, height)
        _marks(m, side, rows, marks)
        _up_and_down(marks, np.float32(reach), rows, squares, depths)
        _sideways(m, squares, depths, side, reach, limit, active, out)
    return out
