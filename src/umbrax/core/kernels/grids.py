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
from .vectors import add_repeated, lay_light

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
def _add_enlarged(line: Any, first: Any, step: Any, near: Any, far: Any, row: Any) -> None:
    """A row of cells, straight between their centres, added to one of pixels: between the first two cells from the pixel `first` on. `near`
    and `far`: for each pixel between two cells, three times, what of either cell it holds. The line goes on for a number after the cells."""
    width, cells = row.shape[0] // 3, line.shape[0] // 3 - 1
    # between these cells all pixels are in the row
    low = max(np.int64(0), -(first // step))
    high = max(low, min(cells, (width - first) // step))
    if step == 1:
        to, of = row[3 * (first + low) : 3 * (first + high)], line[3 * low : 3 * high]
        for i in range(to.shape[0]):
            to[i] += of[i]
    elif step == 2:
        for i in range(low, high):
            add_repeated(line, 3 * i, near, far, 0, row, 3 * (first + 2 * i), 2)
    elif step == 3:
        for i in range(low, high):
            add_repeated(line, 3 * i, near, far, 0, row, 3 * (first + 3 * i), 3)
    else:
        for i in range(low, high):
            for n in range(0, 3 * step - 11, 12):
                add_repeated(line, 3 * i, near, far, n, row, 3 * (first + step * i) + n, 4)
    done = 3 * step if step < 4 else 12 * (step // 4)
    for n in range(3 * step):
        g, f, c = near[n], far[n], n % 3
        begin, end = max(np.int64(0), -((first + n // 3) // step)), min(cells, (width - first - n // 3 + step - 1) // step)
        for side in range(2):
            for i in range(max(begin, high) if side else begin, end if side else min(end, high if n >= done else low)):
                row[3 * (first + step * i) + n] += g * line[3 * i + c] + f * line[3 * i + 3 + c]


def _weights_of(table: NDArray[np.int64]) -> tuple[Pixels, Pixels]:
    """For each grid, three times for each pixel between the centres of two cells, what of the cell before and of that after it holds."""
    steps = table[:, STEP, None]
    phases = np.arange(3 * int(steps.max(initial=1))) // 3
    far = ((phases + 0.5 * (1 - steps % 2)) / steps).astype(np.float32)
    return 1 - far, far


@kernel("void(f4[::1], i8[:,::1], f4[:,::1], f4[:,::1], i8, i8, f4[:,:,::1], i8, i8, i8, i8, f4, f4[:,:,::1])")
def _enlarge(
    grids: Any, table: Any, near: Any, far: Any, x0: Any, y0: Any, below: Any, top: Any, left: Any, height: Any, width: Any, amount: Any,
    out: Any,
) -> None:  # fmt: skip
    """The sum of grids from a pixel (x0, y0) on: into `out`, or where that is RGBA `amount` of it added to `below` where it stands there."""
    one, onto = np.float32(1.0), out.shape[2] == 4
    longest = np.int64(0)
    for n in range(table.shape[0]):
        longest = max(longest, 3 * table[n, WIDE])
    for y in prange(np.int64(out.shape[0])):
        room, space = np.empty(longest + 7, np.float32), np.empty(3 * width, np.float32)
        row = space[: 3 * width]  # by another name: what an intrinsic gets is taken anew in every turn
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
                _add_enlarged(line, step * (table[n, X0] - 1) + step // 2 - x0, step, near[n], far[n], row)
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
        near, far = _weights_of(self.table)
        _enlarge(self.cells, self.table, near, far, part.x0, part.y0, below, top, left, part.height, part.width, amount, out)
