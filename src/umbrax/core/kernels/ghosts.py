"""Light put again somewhere else: each point mirrored at a centre and put down on a coarse grid; and such grids made large again."""

import math
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Picture, Window
from . import blank, kernel, ready, row_kernel
from .points import Points

Pixels = NDArray[np.float32]


@row_kernel("void(f8[::1], f8[::1], f4[:,::1], f8, f8, f8[::1], f8, i8, i8, f8, f8, f4[:,:,::1])")
def _put(xs: Any, ys: Any, light: Any, cx: Any, cy: Any, factors: Any, step: Any, left: Any, top: Any, fade: Any, far: Any,
         out: Any) -> None:  # fmt: skip
    one = np.float32(1.0)
    for n in range(light.shape[0]):
        for c in range(3):
            k, p = factors[c], light[n, c]
            if fade > 0:
                d = min(abs(k) * np.hypot(cx - xs[n], cy - ys[n]) / far, 1.0)
                p *= np.float32(1.0 - fade * d * d * (3.0 - 2.0 * d))
            gx, gy = (cx + k * (cx - xs[n])) / step - 0.5, (cy + k * (cy - ys[n])) / step - 0.5
            i, j = np.int64(np.floor(gx)), np.int64(np.floor(gy))
            fx, fy = np.float32(gx - i), np.float32(gy - j)
            at, below = out[j - top], out[j - top + 1]
            i -= left
            at[i, c] += p * (one - fy) * (one - fx)
            at[i + 1, c] += p * (one - fy) * fx
            below[i, c] += p * fy * (one - fx)
            below[i + 1, c] += p * fy * fx


def mirrored(
    points: Points, centre: tuple[float, float], factors: tuple[float, float, float], step: int, fade: float, far: float
) -> tuple[Pixels, Window]:  # fmt: skip
    """Points of light, each p put at c + k (c - p) for its channel's factor k: the sum of what falls on each pixel of a grid of `step`
    pixels, and the window of the grid that holds it all. Of one that falls x `far` from the centre 1 - fade x^2 (3 - 2 x) is left,
    from there on 1 - fade."""
    low, high = [], []
    for middle, places in zip(centre, (points.x, points.y), strict=True):
        ends = [(middle + k * (middle - end)) / step - 0.5 for k in factors for end in (float(places.min()), float(places.max()))]
        low.append(math.floor(min(ends)))
        high.append(math.floor(max(ends)) + 2)
    window = Window(low[0], low[1], high[0], high[1])
    out = np.zeros((window.height, window.width, 3), np.float32)
    _put(points.x, points.y, ready(points.light), *centre, np.array(factors, np.float64), float(step), window.x0, window.y0,
         float(fade), float(far), out)  # fmt: skip
    return out, window


@kernel("void(f4[::1], i8[:,::1], i8, i8, f4[:,:,::1])")
def _enlarge(grids: Any, table: Any, left: Any, top: Any, out: Any) -> None:
    """`table` of each grid: where in `grids` it begins, its height and width, the column and row of its first cell, and its step."""
    width, half, one = out.shape[1], 0.5, np.float32(1.0)
    longest = np.int64(0)
    for n in range(table.shape[0]):
        longest = max(longest, 3 * table[n, 2])
    for y in prange(np.int64(out.shape[0])):
        row = out[y].reshape(3 * width)
        row[:] = np.float32(0.0)
        room = np.empty(longest + 6, np.float32)
        for n in range(table.shape[0]):
            begin, tall, wide, x0, y0, step = table[n, 0], table[n, 1], table[n, 2], table[n, 3], table[n, 4], table[n, 5]
            at = (top + y + half) / step - half - y0
            j = np.int64(np.floor(at))
            if j < -1 or j >= tall:
                continue
            fy, length = np.float32(at - j), 3 * wide
            # between the two rows of cells beside it, with a cell of nothing at either end
            line = room[: length + 6]
            line[:] = np.float32(0.0)
            between = line[3 : length + 3]
            if j >= 0:
                upper = grids[begin + j * length : begin + (j + 1) * length]
                for i in range(length):
                    between[i] = (one - fy) * upper[i]
            if j + 1 < tall:
                lower = grids[begin + (j + 1) * length : begin + (j + 2) * length]
                for i in range(length):
                    between[i] += fy * lower[i]
            for phase in range(step):
                # pixels between cell i and the next, the phase-th of them: i counts from -1, as cells of `line` do from 0
                first = step * (x0 - 1) + step // 2 + phase - left
                low, high = max(np.int64(0), -(first // step)), min(wide + 1, (width - first + step - 1) // step)
                f = np.float32(0.0) if step == 1 else np.float32((phase + half) / step)
                g = one - f
                for i in range(low, high):
                    to, cell = 3 * (first + step * i), 3 * i
                    row[to] += g * line[cell] + f * line[cell + 3]
                    row[to + 1] += g * line[cell + 1] + f * line[cell + 4]
                    row[to + 2] += g * line[cell + 2] + f * line[cell + 5]


def enlarged(grids: list[tuple[Picture, int]], window: Window) -> Pixels:
    """The sum on a window of grids of light, each with its step in pixels: between the centres of cells it is straight, outside nothing."""
    table, begin = np.zeros((len(grids), 6), np.int64), 0
    for n, (grid, step) in enumerate(grids):
        table[n] = begin, grid.window.height, grid.window.width, grid.window.x0, grid.window.y0, step
        begin += grid.pixels.size
    cells = np.concatenate([grid.pixels.reshape(-1) for grid, _ in grids]) if grids else np.zeros(0, np.float32)
    out = blank(window.height, window.width, 3)
    _enlarge(ready(cells), table, window.x0, window.y0, out)
    return out
