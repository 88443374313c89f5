"""Lines along which a matte has one value: marching squares (W. E. Lorensen and H. E. Cline, Marching Cubes, 1987, in the plane)."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from . import part, row_kernel

Points = NDArray[np.float64]
# sides of a cell: 0 above, 1 right, 2 below, 3 left; for each way its corners can lie inside (a 1, b 2, c 4, d 8, from the upper left
# clockwise) where lines enter and where each leaves, what is inside on their right
LEAVES = np.full((16, 4), -1, np.int8)
for corners, ways in {
    1: ((0, 3),), 2: ((1, 0),), 4: ((2, 1),), 8: ((3, 2),), 3: ((1, 3),), 6: ((2, 0),), 12: ((3, 1),), 9: ((0, 2),),
    7: ((2, 3),), 11: ((1, 2),), 13: ((0, 1),), 14: ((3, 0),), 5: ((0, 3), (2, 1)), 10: ((1, 0), (3, 2)),
}.items():  # fmt: skip
    for enter, leave in ways:
        LEAVES[corners, enter] = leave
JOINED = {5: ((0, 1), (2, 3)), 10: ((3, 0), (1, 2))}  # where the middle of such a cell lies inside
LEAVES_JOINED = LEAVES.copy()
for corners, ways in JOINED.items():
    LEAVES_JOINED[corners] = -1
    for enter, leave in ways:
        LEAVES_JOINED[corners, enter] = leave
STEPS = np.array([[-1, 0], [0, 1], [1, 0], [0, -1]], np.int64)  # the cell beyond a side: down, right


@part
def _corners(matte: Any, level: Any, y: Any, x: Any) -> Any:
    return (
        np.int64(matte[y, x] >= level) + 2 * np.int64(matte[y, x + 1] >= level)
        + 4 * np.int64(matte[y + 1, x + 1] >= level) + 8 * np.int64(matte[y + 1, x] >= level)
    )  # fmt: skip


@row_kernel("i8(f4[:,::1], f4, i1[:,::1], i1[:,::1], i8[:,::1], u1[:,::1], f8[:,::1], i8[::1])")
def _trace(matte: Any, level: Any, leaves: Any, joined: Any, steps: Any, seen: Any, points: Any, starts: Any) -> Any:
    """Fill `points` and where each line starts; the number of lines, or -1 where there is no more room."""
    height, width = matte.shape
    count, lines, most, lines_most = 0, 0, points.shape[0], starts.shape[0] - 1
    for y in range(height - 1):
        for x in range(width - 1):
            c = _corners(matte, level, y, x)
            if c == 0 or c == 15:
                continue
            for first in range(4):
                if leaves[c, first] < 0 and joined[c, first] < 0:
                    continue
                v, u, side = y, x, first
                begin = count
                while True:
                    k = _corners(matte, level, v, u)
                    middle = (matte[v, u] + matte[v, u + 1] + matte[v + 1, u + 1] + matte[v + 1, u]) / 4
                    leave = joined[k, side] if middle >= level else leaves[k, side]
                    if leave < 0 or (seen[v, u] >> side) & 1:
                        break
                    seen[v, u] |= np.uint8(1 << side)
                    if count >= most or lines >= lines_most:
                        return -1
                    # where the line leaves the cell, between the two corners of that side
                    v0, u0 = v + np.int64(leave == 2), u + np.int64(leave == 1)
                    v1, u1 = v + np.int64(leave != 0), u + np.int64(leave != 3)
                    low, high = np.float64(matte[v0, u0]), np.float64(matte[v1, u1])
                    t = (level - low) / (high - low)
                    points[count, 0] = u0 + t * (u1 - u0) + 0.5
                    points[count, 1] = v0 + t * (v1 - v0) + 0.5
                    count += 1
                    v, u, side = v + steps[leave, 0], u + steps[leave, 1], (leave + 2) % 4
                if count > begin:
                    lines += 1
                    starts[lines] = count
    return lines


def traced(matte: NDArray[np.float32], level: float) -> list[Points]:
    """Closed lines `[n, 2]` (x, y) along which a matte `float32[h, w]` is `level`, in its pixels; what is inside lies on their right
    as one goes along them, so they go clockwise on the screen round what is full. Outside of the matte is nothing."""
    around = np.zeros((matte.shape[0] + 2, matte.shape[1] + 2), np.float32)
    around[1:-1, 1:-1] = matte
    room = 1 << 14
    while True:
        points, starts = np.zeros((room, 2)), np.zeros(room // 4, np.int64)
        lines = _trace(around, np.float32(level), LEAVES, LEAVES_JOINED, STEPS, np.zeros(around.shape, np.uint8), points, starts)
        if lines >= 0:
            return [points[starts[n] : starts[n + 1]] - 1 for n in range(lines)]
        room *= 4
