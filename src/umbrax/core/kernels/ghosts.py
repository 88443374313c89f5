"""Light put again somewhere else: each point mirrored at a centre and put down on a coarse grid, spread there over a disc; and such grids
made large again."""

import math
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numba import get_num_threads, prange
from numpy.typing import NDArray

from ..picture import Picture, Window
from . import blank, kernel, part, ready
from .drawing import Drawing
from .points import Points, points_of
from .vectors import lay_light

Pixels = NDArray[np.float32]
# of a grid: where it begins, its height and width, the column and row of its first cell, and its step
BEGIN, TALL, WIDE, X0, Y0, STEP = range(6)
FEW = 6  # rows of discs for each cell of a grid: a filter by way of frequencies takes about so long


@kernel("void(f8[::1], f8[::1], f4[:,::1], f8, f8, f8[:,::1], i8[:,::1], f8, f8, f4[::1])")
def _put(xs: Any, ys: Any, light: Any, cx: Any, cy: Any, factors: Any, table: Any, fade: Any, far: Any, out: Any) -> None:
    """Onto each grid of the table, mirrored by its three factors."""
    one = np.float32(1.0)
    for copy in prange(np.int64(table.shape[0])):
        begin, wide, left, top, step = table[copy, BEGIN], table[copy, WIDE], table[copy, X0], table[copy, Y0], table[copy, STEP]
        for n in range(light.shape[0]):
            for c in range(3):
                k, p = factors[copy, c], light[n, c]
                if fade > 0:
                    d = min(abs(k) * np.hypot(cx - xs[n], cy - ys[n]) / far, 1.0)
                    p *= np.float32(1.0 - fade * d * d * (3.0 - 2.0 * d))
                gx, gy = (cx + k * (cx - xs[n])) / step - 0.5, (cy + k * (cy - ys[n])) / step - 0.5
                i, j = np.int64(np.floor(gx)), np.int64(np.floor(gy))
                fx, fy = np.float32(gx - i), np.float32(gy - j)
                at = begin + 3 * ((j - top) * wide + i - left) + c
                below = at + 3 * wide
                out[at] += p * (one - fy) * (one - fx)
                out[at + 3] += p * (one - fy) * fx
                out[below] += p * fy * (one - fx)
                out[below + 3] += p * fy * fx


def mirrored(
    points: Points, centre: tuple[float, float], copies: Sequence[tuple[tuple[float, float, float], int]], fade: float, far: float
) -> list[Picture]:  # fmt: skip
    """Points of light, each p put at c + k (c - p) for its channel's factor k: of each copy, its factors and the step of its grid in pixels,
    the sum of what falls on each cell, on the window of the grid that holds it all. Of one that falls x `far` from the centre
    1 - fade x^2 (3 - 2 x) is left, from there on 1 - fade."""
    windows = [_window_of(points, centre, factors, step) for factors, step in copies]
    table, room = _table(windows, [step for _, step in copies])
    out = np.zeros(room, np.float32)
    _put(points.x, points.y, ready(points.light), *centre, np.array([factors for factors, _ in copies], np.float64), table, float(fade),
         float(far), out)  # fmt: skip
    return [
        Picture(out[begin : begin + 3 * at.area].reshape(at.height, at.width, 3), at)
        for at, begin in zip(windows, table[:, BEGIN].tolist(), strict=True)
    ]


def _window_of(points: Points, centre: tuple[float, float], factors: tuple[float, float, float], step: int) -> Window:
    low, high = [], []
    for middle, places in zip(centre, (points.x, points.y), strict=True):
        ends = [(middle + k * (middle - end)) / step - 0.5 for k in factors for end in (float(places.min()), float(places.max()))]
        low.append(math.floor(min(ends)))
        high.append(math.floor(max(ends)) + 2)
    return Window(low[0], low[1], high[0], high[1])


def _table(windows: Sequence[Window], steps: Sequence[int]) -> tuple[NDArray[np.int64], int]:
    """Grids one after the other, three numbers a cell; and how many numbers they are."""
    table, begin = np.zeros((len(windows), 6), np.int64), 0
    for n, (at, step) in enumerate(zip(windows, steps, strict=True)):
        table[n] = begin, at.height, at.width, at.x0, at.y0, step
        begin += 3 * at.area
    return table, begin


@kernel("void(i8[::1], i8[::1], f4[:,::1], f4[:,::1], i8[::1], f4[:,:,::1])", contract=True)
def _put_discs(begins: Any, columns: Any, light: Any, disc: Any, halves: Any, out: Any) -> None:
    """Points, row by row, each spread over a disc: a row of that reaches so far on both sides as `halves` says. Rows of `out` begin by as
    many above those of the points as the disc reaches, and columns count in it."""
    height, width, reach = out.shape[0], out.shape[1], disc.shape[0] // 2
    for y in prange(np.int64(height)):
        red, green, blue = np.empty(width, np.float32), np.empty(width, np.float32), np.empty(width, np.float32)
        for i in range(width):
            red[i], green[i], blue[i] = np.float32(0.0), np.float32(0.0), np.float32(0.0)
        for k in range(disc.shape[0]):
            row, half = np.int64(y) - k, halves[k]
            if row >= 0 and row < begins.shape[0] - 1:
                part = disc[k, reach - half : reach + half + 1]
                for n in range(begins[row], begins[row + 1]):
                    first, r, g, b = columns[n] - half, light[n, 0], light[n, 1], light[n, 2]
                    to_red, to_green, to_blue = red[first:], green[first:], blue[first:]
                    for i in range(part.shape[0]):
                        to_red[i] += r * part[i]
                        to_green[i] += g * part[i]
                        to_blue[i] += b * part[i]
        o = out[y].reshape(3 * width)
        for x in range(width):
            o[3 * x], o[3 * x + 1], o[3 * x + 2] = red[x], green[x], blue[x]


def spread_over(grids: Sequence[tuple[Picture, Pixels, Pixels]]) -> list[Picture]:
    """Every cell of each grid of light, times its tint, spread over its disc `float32[2 r + 1, 2 r + 1]`, symmetric and nowhere below 0."""
    cells = [points_of(grid.pixels, grid.window) for grid, _, _ in grids]
    spread = [
        _one_by_one(found, grid.window, disc, tint) if len(found.x) * len(disc) < FEW * grid.window.grown(len(disc) // 2).area else None
        for found, (grid, disc, tint) in zip(cells, grids, strict=True)
    ]
    many = [one for one, done in zip(grids, spread, strict=True) if done is None]
    if not many:
        return [done for done in spread if done is not None]
    with ThreadPoolExecutor(get_num_threads()) as threads:  # a filter runs on one processor; the largest, which is the last, first
        filtered = list(threads.map(_filtered, many[::-1]))
    return [filtered.pop() if done is None else done for done in spread]


def _one_by_one(cells: Points, at: Window, disc: Pixels, tint: Pixels) -> Picture:
    reach = disc.shape[0] // 2
    wide = at.grown(reach)
    begins = np.searchsorted(cells.y, np.arange(at.y0, at.y1 + 1))
    out = blank(wide.height, wide.width, 3)
    columns = np.floor(cells.x).astype(np.int64) - wide.x0
    _put_discs(begins, columns, cells.light * tint, ready(disc), np.count_nonzero(disc, axis=1) // 2, out)
    return Picture(out, wide)


def _filtered(one: tuple[Picture, Pixels, Pixels]) -> Picture:
    grid, disc, tint = one
    reach = disc.shape[0] // 2
    padded = np.pad(grid.pixels, ((reach, reach), (reach, reach), (0, 0)))
    # what a filter by way of frequencies leaves below 0 is none
    return Picture(np.maximum(cv2.filter2D(padded, -1, disc, borderType=cv2.BORDER_CONSTANT), 0) * tint, grid.window.grown(reach))


@part
def _add_enlarged(line: Any, first: Any, step: Any, row: Any) -> None:
    """A row of cells, straight between their centres, added to one of pixels: between the first two cells from the pixel `first` on."""
    width, cells = row.shape[0] // 3, line.shape[0] // 3 - 1
    low = max(np.int64(0), -(first // step))
    high = max(low, min(cells, (width - first) // step))
    if step == 1:
        to, of = row[3 * (first + low) : 3 * (first + high)], line[3 * low : 3 * high]
        for i in range(to.shape[0]):
            to[i] += of[i]
    elif step == 2:
        # the usual step by itself: the compiler sees neighbours
        to, of, after = row[3 * (first + 2 * low) : 3 * (first + 2 * high)], line[3 * low : 3 * high], line[3 * low + 3 : 3 * high + 3]
        near, far = np.float32(0.75), np.float32(0.25)
        for m in range(of.shape[0] // 3):
            i, k = 6 * m, 3 * m
            for c in range(3):
                to[i + c] += near * of[k + c] + far * after[k + c]
                to[i + 3 + c] += far * of[k + c] + near * after[k + c]
    done = high if step <= 2 else low
    for phase in range(step):
        f = np.float32((phase + 0.5) / step)
        g = np.float32(1.0) - f
        # the cells at either end, of whose pixels not all are in the row, and with other steps all of them
        begin, end = max(np.int64(0), -((first + phase) // step)), min(cells, (width - first - phase + step - 1) // step)
        for side in range(2):
            for i in range(max(begin, done) if side else begin, end if side else min(end, low)):
                to, cell = 3 * (first + phase + step * i), 3 * i
                row[to] += g * line[cell] + f * line[cell + 3]
                row[to + 1] += g * line[cell + 1] + f * line[cell + 4]
                row[to + 2] += g * line[cell + 2] + f * line[cell + 5]


@kernel("void(f4[::1], i8[:,::1], i8, i8, f4[:,:,::1], i8, i8, i8, i8, f4, f4[:,:,::1])")
def _enlarge(
    grids: Any, table: Any, x0: Any, y0: Any, below: Any, top: Any, left: Any, height: Any, width: Any, amount: Any, out: Any
) -> None:  # fmt: skip
    """The sum of grids from a pixel (x0, y0) on: into `out`, or where that is RGBA `amount` of it added to `below` where it stands there."""
    one, onto = np.float32(1.0), out.shape[2] == 4
    longest = np.int64(0)
    for n in range(table.shape[0]):
        longest = max(longest, 3 * table[n, WIDE])
    for y in prange(np.int64(out.shape[0])):
        room, row = np.empty(longest + 6, np.float32), np.empty(3 * width, np.float32)
        o, turn = out[y].reshape(out.shape[1] * out.shape[2]), np.int64(y) - top
        within = turn >= 0 and turn < height
        if within:
            for i in range(3 * width):
                row[i] = np.float32(0.0)
            for n in range(table.shape[0]):
                begin, tall, wide, step = table[n, BEGIN], table[n, TALL], table[n, WIDE], table[n, STEP]
                at = (y0 + turn + 0.5) / step - 0.5 - table[n, Y0]
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
                _add_enlarged(line, step * (table[n, X0] - 1) + step // 2 - x0, step, row)
        lay_light(row, within, onto, below[y].reshape(below.shape[1] * below.shape[2]), amount, left, o)


@dataclass(frozen=True, eq=False)
class Enlarged(Drawing):
    """The sum of grids of light, made large where it is wanted: between the centres of cells it is straight, outside nothing."""

    cells: Pixels
    table: NDArray[np.int64]

    @property
    def nbytes(self) -> int:
        return self.cells.nbytes

    def _draw(self, part: Window, amount: np.float32, below: Pixels, top: int, left: int, out: Pixels) -> None:
        _enlarge(self.cells, self.table, part.x0, part.y0, below, top, left, part.height, part.width, amount, out)


def enlarged(grids: Sequence[tuple[Picture, int]]) -> Enlarged:
    """Grids of light, each with its step in pixels, to be drawn as their sum."""
    table, _ = _table([grid.window for grid, _ in grids], [step for _, step in grids])
    return Enlarged(ready(np.concatenate([grid.pixels.reshape(-1) for grid, _ in grids])), table)
