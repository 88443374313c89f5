"""Light put again somewhere else: each point mirrored at a centre, put down on a coarse grid, and spread there over a disc."""

import math
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numba import get_num_threads, prange
from numpy.typing import NDArray

from ..picture import Picture, Window
from . import LINE, blank, grids, kernel, ready
from .grids import Enlarged
from .points import Points, points_of
from .vectors import add_sixteen

Pixels = NDArray[np.float32]
TOGETHER = 4_000_000  # cells of grids that are made at once
FEW = 6  # rows of discs for each cell of a grid: a filter by way of frequencies takes about so long


@kernel("void(f8[::1], f8[::1], f4[:,::1], f8, f8, f8[:,::1], i8[:,::1], f8, f8, f4[::1])")
def _put(xs: Any, ys: Any, light: Any, cx: Any, cy: Any, factors: Any, table: Any, fade: Any, far: Any, out: Any) -> None:
    """Onto each grid of the table, mirrored by its three factors."""
    one = np.float32(1.0)
    for copy in prange(np.int64(table.shape[0])):
        begin, wide, step = table[copy, grids.BEGIN], table[copy, grids.WIDE], table[copy, grids.STEP]
        left, top = table[copy, grids.X0], table[copy, grids.Y0]
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


@dataclass(frozen=True)
class Copy:
    """Each point p of light put at c + k (c - p), for each channel a factor k of its own, on a grid of `step` pixels, there spread over a
    disc `float32[2 r + 1, 2 r + 1]`, symmetric and nowhere below 0, and multiplied by a tint."""

    factors: tuple[float, float, float]
    step: int
    disc: Pixels
    tint: Pixels

    @property
    def reach(self) -> int:
        return len(self.disc) // 2


@dataclass(frozen=True)
class Mirrored:
    """The sum of what falls on each cell of a grid, on a window that holds it all, and the cells that hold any."""

    grid: Picture
    cells: Points


def _mirrored(
    points: Points, centre: tuple[float, float], copies: Sequence[Copy], windows: Sequence[Window], fade: float, far: float
) -> list[Mirrored]:  # fmt: skip
    """Each copy on its grid."""
    table, room = grids.table_of(windows, [copy.step for copy in copies])

    def put() -> list[Mirrored]:
        out = np.zeros(room, np.float32)
        _put(points.x, points.y, ready(points.light), *centre, np.array([copy.factors for copy in copies], np.float64), table, float(fade),
             float(far), out)  # fmt: skip
        return [Mirrored(Picture(part, at), points_of(part, at)) for part, at in zip(grids.parts_of(out, table), windows, strict=True)]

    # neither the size of a disc nor its tint is in it, which are dragged most
    settings = centre, tuple((copy.factors, copy.step) for copy in copies), fade, far
    return points.once("mirrored", settings, 3 * room, put)


def _window_of(extremes: Sequence[tuple[float, float]], centre: tuple[float, float], copy: Copy) -> Window:
    """Of the grid of a copy what holds all of it; `extremes` of the points, along x and y."""
    low, high = [], []
    for middle, both in zip(centre, extremes, strict=True):
        ends = [(middle + k * (middle - end)) / copy.step - 0.5 for k in copy.factors for end in both]
        low.append(math.floor(min(ends)))
        high.append(math.floor(max(ends)) + 2)
    return Window(low[0], low[1], high[0], high[1])


@kernel("void(i8[::1], i8[::1], f4[:,::1], f4[:,::1], i8[::1], f4[:,:,::1])", contract=True)
def _put_discs(begins: Any, columns: Any, light: Any, disc: Any, halves: Any, out: Any) -> None:
    """Points, row by row, each spread over a disc: a row of that reaches so far on both sides as `halves` says, and ends with LINE zeros.
    Rows of `out` begin by as many above those of the points as the disc reaches, and columns count in it."""
    height, width, reach = out.shape[0], out.shape[1], disc.shape[0] // 2
    room = width + LINE
    for y in prange(np.int64(height)):
        sums = np.empty(3 * room, np.float32)  # cut up: what an intrinsic gets is taken anew in every turn
        red, green, blue = sums[:room], sums[room : 2 * room], sums[2 * room :]
        for i in range(room):
            red[i], green[i], blue[i] = np.float32(0.0), np.float32(0.0), np.float32(0.0)
        for k in range(disc.shape[0]):
            row, half = np.int64(y) - k, halves[k]
            if row >= 0 and row < begins.shape[0] - 1:
                part = disc[k]
                for n in range(begins[row], begins[row + 1]):
                    first, r, g, b = columns[n] - half, light[n, 0], light[n, 1], light[n, 2]
                    for i in range(0, 2 * half + 1, LINE):
                        add_sixteen(part, reach - half + i, r, red, first + i)
                        add_sixteen(part, reach - half + i, g, green, first + i)
                        add_sixteen(part, reach - half + i, b, blue, first + i)
        o = out[y].reshape(3 * width)
        for x in range(width):
            o[3 * x], o[3 * x + 1], o[3 * x + 2] = red[x], green[x], blue[x]


def spread_over(light: Sequence[Mirrored], copies: Sequence[Copy], outs: Sequence[Pixels]) -> None:
    """Every cell of each grid of light, times its tint, spread over its disc, into an array that is larger by its reach on every side."""
    todo: list[tuple[Picture, Copy, Pixels]] = []
    for mirrored, copy, out in zip(light, copies, outs, strict=True):
        grid, cells = mirrored.grid, mirrored.cells
        if len(cells.x) * len(copy.disc) < FEW * grid.window.grown(copy.reach).area:
            begins = np.searchsorted(cells.y, np.arange(grid.window.y0, grid.window.y1 + 1))
            columns = np.floor(cells.x).astype(np.int64) - grid.window.x0 + copy.reach
            halves = np.count_nonzero(copy.disc, axis=1) // 2
            rows = np.pad(copy.disc, ((0, 0), (0, LINE)))
            _put_discs(begins, columns, cells.light * copy.tint, rows, halves, out)
        else:
            todo.append((grid, copy, out))
    if todo:
        with ThreadPoolExecutor(get_num_threads()) as threads:  # a filter runs on one processor; the largest, which is the last, first
            list(threads.map(_filter, reversed(todo)))


def _filter(what: tuple[Picture, Copy, Pixels]) -> None:
    grid, copy, out = what
    padded = np.pad(grid.pixels, ((copy.reach, copy.reach), (copy.reach, copy.reach), (0, 0)))
    # what a filter by way of frequencies leaves below 0 is none
    out[:] = np.maximum(cv2.filter2D(padded, -1, copy.disc, borderType=cv2.BORDER_CONSTANT), 0) * copy.tint


def reflected(
    points: Points, centre: tuple[float, float], copies: Sequence[Copy], fade: float, far: float, window: Window
) -> Enlarged:  # fmt: skip
    """Copies of points of light, mirrored at a centre, to be drawn within a window. Of what falls x `far` from the centre
    1 - fade x^2 (3 - 2 x) is left, from there on 1 - fade."""
    extremes = [(float(places.min()), float(places.max())) for places in (points.x, points.y)]
    placed = [(copy, _window_of(extremes, centre, copy)) for copy in copies]
    seen = [(copy, at) for copy, at in placed if not at.grown(copy.reach + 1).magnified(copy.step).intersect(window).empty]
    table, room = grids.table_of([at.grown(copy.reach) for copy, at in seen], [copy.step for copy, _ in seen])
    cells = blank(room)
    outs = grids.parts_of(cells, table)
    for few in _few_at_a_time([at.area for _, at in seen]):
        some, windows = [copy for copy, _ in seen[few]], [at for _, at in seen[few]]
        spread_over(_mirrored(points, centre, some, windows, fade, far), some, outs[few])
    return Enlarged(cells, table)


def _few_at_a_time(areas: Sequence[int]) -> Iterator[slice]:
    """Grids that follow one another and take little memory together, or one that takes more."""
    begin = 0
    for end in range(1, len(areas) + 1):
        if end == len(areas) or sum(areas[begin : end + 1]) > TOGETHER:
            yield slice(begin, end)
            begin = end
