"""Coarse grids of light, one after the other in memory, made large again: their sum, straight between the centres of cells."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Window
from . import kernel, part
from .drawing import Drawing
from .vectors import lay_light

Pixels = NDArray[np.float32]
# of a grid: where it begins, its height and width, the column and row of its first cell, and its step
BEGIN, TALL, WIDE, X0, Y0, STEP = range(6)


def table_of(windows: Sequence[Window], steps: Sequence[int]) -> tuple[NDArray[np.int64], int]:
    """Grids one after the other, three numbers a cell; and how many numbers they are."""
    table, begin = np.zeros((len(windows), 6), np.int64), 0
    for n, (at, step) in enumerate(zip(windows, steps, strict=True)):
        table[n] = begin, at.height, at.width, at.x0, at.y0, step
        begin += 3 * at.area
    return table, begin


def parts_of(cells: Pixels, table: NDArray[np.int64]) -> list[Pixels]:
    """Each grid of a table, where it lies."""
    return [cells[begin : begin + 3 * tall * wide].reshape(tall, wide, 3) for begin, tall, wide in table[:, [BEGIN, TALL, WIDE]].tolist()]


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
