"""Two-dimensional filters by way of a coarser grid: reduce, filter there, enlarge.

Cell j of a grid with step s has its centre at s j; four cells on each side of a pixel take part in both directions.
Rows are cut into as many blocks as there are threads; a row's value does not depend on how.
"""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import LINE, blank, blocks_of, kernel, part, ready
from .vectors import weigh_pixels

Pixels = NDArray[np.float32]
Taps = NDArray[np.float32]
PIECE = 2048  # floats of a row worked on at once: with four sums they stay in the fastest cache


@part
def _limited(index: Any, size: Any) -> Any:
    return min(max(index, np.int64(0)), size - np.int64(1))


@part
def _weight(weight: Any, index: Any, size: Any, extend: Any) -> Any:
    return weight if extend or (index >= 0 and index < size) else np.float32(0.0)


@part
def _lines(count: Any, length: Any) -> Any:
    """Rows for passing results in; each begins on a cache line."""
    stride = (length + LINE - 1) // LINE * LINE
    raw = np.empty(count * stride + LINE, np.float32)
    start = (LINE - (raw.ctypes.data >> 2) % LINE) % LINE
    return raw[start : start + count * stride].reshape(count, stride)


@part
def _go_on(line: Any, low: Any, high: Any, across: Any, channels: Any) -> None:
    """What stands at either end goes on past it."""
    for x in range(low):
        for c in range(channels):
            line[x * channels + c] = line[low * channels + c]
    for x in range(high, across):
        for c in range(channels):
            line[x * channels + c] = line[(high - 1) * channels + c]


@part
def _add_rows(a: Any, b: Any, c: Any, d: Any, w0: Any, w1: Any, w2: Any, w3: Any, fresh: Any, out: Any) -> None:
    if fresh:
        for x in range(out.shape[0]):
            out[x] = w0 * a[x] + w1 * b[x] + w2 * c[x] + w3 * d[x]
    else:
        for x in range(out.shape[0]):
            out[x] += w0 * a[x] + w1 * b[x] + w2 * c[x] + w3 * d[x]


@kernel("void(f4[:,:,::1], f4[:,::1], i8, i8, f4[::1], i8, b1, i8, f4[:,:,::1])", contract=True)
def _reduce(pixels: Any, taps_y: Any, step_y: Any, y0: Any, taps_x: Any, x0: Any, extend: Any, blocks: Any, out: Any) -> None:
    """taps_y[k] are the weights of a step of rows for the k-th of the cells they belong to, the newest first."""
    height, width, channels = pixels.shape
    rows, columns = out.shape[0], out.shape[1]
    step_x = taps_x.shape[0] // 4
    across = (columns + 3) * step_x
    low, high = max(np.int64(0), -x0), min(np.int64(across), width - x0)
    left, length = (low + x0) * channels, (high - low) * channels
    each = (rows + blocks - 1) // blocks
    source, result = pixels.reshape(height, width * channels), out.reshape(rows, columns * channels)
    fourfold = np.empty(taps_x.shape[0] * 4, np.float32)
    for i in range(fourfold.shape[0]):
        fourfold[i] = taps_x[i >> 2]
    for block in prange(blocks):
        first, last = block * each, min(rows, (block + 1) * each)
        sums, line = _lines(4, across * channels), np.empty(columns * channels, np.float32)
        sums[:] = np.float32(0.0)
        for cell in range(first, last + 3):
            for start in range(0, length, PIECE):
                end = min(length, start + PIECE)
                for i in range(0, taps_y.shape[1], 4):
                    y = y0 + cell * step_y + i
                    a = source[_limited(y, height), left + start : left + end]
                    b = source[_limited(y + 1, height), left + start : left + end]
                    c = source[_limited(y + 2, height), left + start : left + end]
                    d = source[_limited(y + 3, height), left + start : left + end]
                    for k in range(4):
                        w0 = _weight(taps_y[k, i], y, height, extend)
                        w1 = _weight(taps_y[k, i + 1], y + 1, height, extend)
                        w2 = _weight(taps_y[k, i + 2], y + 2, height, extend)
                        w3 = _weight(taps_y[k, i + 3], y + 3, height, extend)
                        o = sums[(cell - k) & 3, low * channels + start : low * channels + end]
                        _add_rows(a, b, c, d, w0, w1, w2, w3, k == 0 and i == 0, o)
            row = cell - 3
            if row < first:
                continue
            done = sums[row & 3]
            if extend:
                _go_on(done, low, high, across, channels)
            for j in range(columns):
                if channels == 4:
                    weigh_pixels(done, j * step_x * 4, fourfold, 0, taps_x.shape[0], line, j * 4)
                else:
                    for n in range(channels):
                        total = np.float32(0.0)
                        for t in range(taps_x.shape[0]):
                            total += taps_x[t] * done[(j * step_x + t) * channels + n]
                        line[j * channels + n] = total
            o = result[row]
            for x in range(o.shape[0]):
                o[x] = line[x]


@kernel("void(f4[:,:,::1], f4[::1], i8, f4[::1], i8, b1, i8, f4[:,:,::1])", contract=True)
def _filter(cells: Any, taps_y: Any, y0: Any, taps_x: Any, x0: Any, extend: Any, blocks: Any, out: Any) -> None:
    """Both ways at once; `y0`, `x0`: the cell under the first taps of the first row and column."""
    rows, columns, channels = out.shape
    height, width = cells.shape[0], cells.shape[1]
    across = columns + taps_x.shape[0] - 1
    low = min(max(np.int64(0), -x0), across - 1)
    high = max(low + 1, min(across, width - x0))
    left, length = _limited(low + x0, width) * channels, (high - low) * channels
    source, result = cells.reshape(height, width * channels), out.reshape(rows, columns * channels)
    each = (rows + blocks - 1) // blocks
    for block in prange(blocks):
        line = np.zeros(across * channels, np.float32)
        inside = line[low * channels : high * channels]
        for j in range(block * each, min(rows, (block + 1) * each)):
            o = result[j]
            n = o.shape[0]
            for t in range(0, taps_y.shape[0], 4):
                y = y0 + j + t
                w0, w1 = _weight(taps_y[t], y, height, extend), _weight(taps_y[t + 1], y + 1, height, extend)
                w2, w3 = _weight(taps_y[t + 2], y + 2, height, extend), _weight(taps_y[t + 3], y + 3, height, extend)
                a, b = source[_limited(y, height), left : left + length], source[_limited(y + 1, height), left : left + length]
                c, d = source[_limited(y + 2, height), left : left + length], source[_limited(y + 3, height), left : left + length]
                _add_rows(a, b, c, d, w0, w1, w2, w3, t == 0, inside)
            if extend:
                _go_on(line, low, high, across, channels)
            for t in range(0, taps_x.shape[0], 4):
                w0, w1, w2, w3 = taps_x[t], taps_x[t + 1], taps_x[t + 2], taps_x[t + 3]
                a, b = line[t * channels : t * channels + n], line[(t + 1) * channels : (t + 1) * channels + n]
                c, d = line[(t + 2) * channels : (t + 2) * channels + n], line[(t + 3) * channels : (t + 3) * channels + n]
                _add_rows(a, b, c, d, w0, w1, w2, w3, t == 0, o)


@kernel("void(f4[:,:,::1], f4[:,::1], i8, f4[:,::1], i8, i8, f4[:,:,::1])", contract=True)
def _enlarge(cells: Any, taps_y: Any, y0: Any, taps_x: Any, x0: Any, blocks: Any, out: Any) -> None:
    """taps[phase] are the weights of the four cells around a pixel that lies `phase` pixels into its step."""
    height, width, channels = out.shape
    step_y, step_x = taps_y.shape[0], taps_x.shape[0]
    each = (height + blocks - 1) // blocks
    source, result = cells.reshape(cells.shape[0], cells.shape[1] * channels), out.reshape(height, width * channels)
    fourfold = np.empty(step_x * 16, np.float32)
    for i in range(fourfold.shape[0]):
        fourfold[i] = taps_x[i >> 4, (i >> 2) & 3]
    by_tap = np.empty((4, step_x), np.float32)
    for t in range(4):
        by_tap[t] = taps_x[:, t]
    for block in prange(blocks):
        wide, made = _lines(4, width * channels), np.int64(0)
        y, end = block * each, min(height, (block + 1) * each)
        while y < end:
            cell, phase = (y + y0) // step_y, (y + y0) % step_y
            several = min(step_y - phase, end - y)
            for row in range(max(made, cell), cell + 4):
                near, o = source[row], wide[row & 3]
                at, turn, x = x0 // step_x, x0 % step_x, np.int64(0)
                while x < width:
                    count = min(step_x - turn, width - x)
                    if channels == 1:
                        a, b, c, d, part = near[at], near[at + 1], near[at + 2], near[at + 3], o[x : x + count]
                        w0, w1, w2, w3 = by_tap[0, turn:], by_tap[1, turn:], by_tap[2, turn:], by_tap[3, turn:]
                        for i in range(count):
                            part[i] = w0[i] * a + w1[i] * b + w2[i] * c + w3[i] * d
                    elif channels == 4:
                        for i in range(count):
                            weigh_pixels(near, at * 4, fourfold, (turn + i) * 16, 4, o, (x + i) * 4)
                    else:
                        for i in range(count):
                            for n in range(channels):
                                total = np.float32(0.0)
                                for t in range(4):
                                    total += taps_x[turn + i, t] * near[(at + t) * channels + n]
                                o[(x + i) * channels + n] = total
                    x, at, turn = x + count, at + 1, np.int64(0)
            made = cell + 4
            for start in range(0, width * channels, PIECE):
                stop = min(width * channels, start + PIECE)
                a, b = wide[cell & 3, start:stop], wide[(cell + 1) & 3, start:stop]
                c, d = wide[(cell + 2) & 3, start:stop], wide[(cell + 3) & 3, start:stop]
                for i in range(several):
                    w = taps_y[phase + i]
                    _add_rows(a, b, c, d, w[0], w[1], w[2], w[3], True, result[y + i, start:stop])
            y += several


def reduce_to_cells(
    pixels: Pixels, taps_y: Taps, first_y: int, taps_x: Taps, first_x: int, shape: tuple[int, int], extend: bool
) -> Pixels:  # fmt: skip
    """`shape` cells of `float32[h, w, c]`; taps of four steps each; `first`: the pixel under a cell row's first tap.

    Outside the pixels stands 0, or the border goes on (`extend`).
    """
    step = len(taps_y) // 4
    by_cell = np.zeros((4, -(-step // 4) * 4), np.float32)
    by_cell[:, :step] = taps_y.reshape(4, step)
    out = blank(*shape, pixels.shape[2])
    _reduce(ready(pixels), by_cell, step, first_y, ready(taps_x), first_x, extend, blocks_of(shape[0]), out)
    return out


def filter_cells(
    cells: Pixels, taps_y: Taps, first_y: int, taps_x: Taps, first_x: int, shape: tuple[int, int], extend: bool
) -> Pixels:  # fmt: skip
    """`shape` values of `float32[h, w, c]`; taps in multiples of four along both axes; `first`: the cell under the first of them.

    Outside the cells stands 0, or the border goes on (`extend`).
    """
    out = blank(*shape, cells.shape[2])
    _filter(ready(cells), ready(taps_y), first_y, ready(taps_x), first_x, extend, blocks_of(shape[0]), out)
    return out


def enlarge_cells(cells: Pixels, taps_y: Taps, first_y: int, taps_x: Taps, first_x: int, shape: tuple[int, int]) -> Pixels:
    """`shape` pixels; taps `[step, 4]`; `first`: how many pixels the first one lies after the step of cell 0."""
    out = blank(*shape, cells.shape[2])
    _enlarge(cells, ready(taps_y), first_y, ready(taps_x), first_x, blocks_of(shape[0]), out)
    return out
