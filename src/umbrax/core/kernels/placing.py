"""Resampling a picture at other places: along one axis with taps of its own for each pixel, and along any direction."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, ready
from .covering import edge_over_row
from .cubic import cubic_pixel

Pixels = NDArray[np.float32]
Taps = tuple[NDArray[np.int64], NDArray[np.float32]]
ROUNDED = 1e-12  # areas that touch nothing are summed up to this at the most: what stands nowhere is nothing, and no trace of something


@kernel("void(f4[:,::1], i8[::1], f4[:,::1], f4[:,::1])")
def _rows(pixels: Any, starts: Any, weights: Any, out: Any) -> None:
    for y in prange(np.int64(out.shape[0])):
        o, first, count = out[y], starts[y], weights.shape[1]
        for x in range(o.shape[0]):
            o[x] = np.float32(0.0)
        for t in range(count):
            w, row = weights[y, t], pixels[first + t]
            if w != np.float32(0.0):
                for x in range(o.shape[0]):
                    o[x] += w * row[x]


@kernel("void(f4[:,:,::1], i8[::1], f4[:,::1], f4[:,:,::1])")
def _columns(pixels: Any, starts: Any, weights: Any, out: Any) -> None:
    channels = out.shape[2]
    for y in prange(np.int64(out.shape[0])):
        p, o = pixels[y], out[y]
        for x in range(o.shape[0]):
            first = starts[x]
            for c in range(channels):
                total = np.float32(0.0)
                for t in range(weights.shape[1]):
                    w = weights[x, t]
                    if w != np.float32(0.0):
                        total += w * p[first + t, c]
                o[x, c] = total


@kernel("void(f4[:,::1], i8[::1], f4[:,::1], f4[:,:,::1])", four=True)
def _columns_rgba(pixels: Any, starts: Any, weights: Any, out: Any) -> None:
    """The same of four channels, rows laid flat; places count without a sign, which spares a check of each."""
    c1, c2, c3, c4 = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4)
    for y in prange(np.int64(out.shape[0])):
        p, o = pixels[y], out[y]
        for x in range(np.uint64(o.shape[0])):
            k = np.uint64(starts[x]) * c4
            r = g = b = a = np.float32(0.0)
            for t in range(np.uint64(weights.shape[1])):
                w = weights[x, t]
                if w != np.float32(0.0):
                    r, g, b, a = r + w * p[k], g + w * p[k + c1], b + w * p[k + c2], a + w * p[k + c3]
                k += c4
            o[x, 0], o[x, 1], o[x, 2], o[x, 3] = r, g, b, a


@kernel("void(f4[:,:,::1], f8[::1], f8, f8, f4[:,::1], f4[:,:,::1])")
def _sampled(pixels: Any, matrix: Any, x0: Any, y0: Any, table: Any, out: Any) -> None:
    """`matrix`: from a pixel of the result to a place in `pixels`; `table`: the taps at so many phases between two pixels."""
    phases, taps = np.float64(table.shape[0] - 2), table.shape[1]
    channels, back = out.shape[2], table.shape[1] // 2 - 1
    for y in prange(np.int64(out.shape[0])):
        o = out[y]
        across, down = np.empty(taps, np.float32), np.empty(taps, np.float32)
        for x in range(o.shape[0]):
            fx, fy = np.float64(x) + x0, np.float64(y) + y0
            u = matrix[0] * fx + matrix[1] * fy + matrix[2]
            v = matrix[3] * fx + matrix[4] * fy + matrix[5]
            i, j = np.int64(np.floor(u)), np.int64(np.floor(v))
            at_u, at_v = (u - np.float64(i)) * phases, (v - np.float64(j)) * phases
            pu, pv = np.int64(at_u), np.int64(at_v)
            wu, wv = np.float32(at_u - np.float64(pu)), np.float32(at_v - np.float64(pv))
            for t in range(taps):
                across[t] = table[pu, t] + (table[pu + 1, t] - table[pu, t]) * wu
                down[t] = table[pv, t] + (table[pv + 1, t] - table[pv, t]) * wv
            for c in range(channels):
                total = np.float32(0.0)
                for s in range(taps):
                    row = pixels[j - back + s]
                    line = np.float32(0.0)
                    for t in range(taps):
                        line += across[t] * row[i - back + t, c]
                    total += down[s] * line
                o[x, c] = total


@kernel("void(f4[:,::1], f8[::1], f8, f8, b1, f4, b1, f4[:,:,::1])", contract=True, four=True)
def _sampled_rgba(pixels: Any, matrix: Any, x0: Any, y0: Any, goes_on: Any, outside: Any, limits: Any, out: Any) -> None:
    """As `_sampled`, cubic and of four channels, its rows laid flat."""
    a, d = matrix[0], matrix[3]
    zero, one = np.float32(0.0), np.float32(1.0)
    for y in prange(np.int64(out.shape[0])):
        o = out[y]
        fy = np.float64(y) + y0
        u0, v0 = matrix[1] * fy + matrix[2] - 1.0, matrix[4] * fy + matrix[5] - 1.0
        for x in range(np.uint64(o.shape[0])):
            fx = np.float64(x) + x0
            u, v = a * fx + u0, d * fx + v0
            o[x, 0], o[x, 1], o[x, 2], alpha = cubic_pixel(pixels, u, v, goes_on, outside)
            o[x, 3] = alpha
            if limits and (alpha > one) | (alpha < zero):
                by = one / alpha if alpha > one else zero
                for c in range(np.uint64(3)):
                    o[x, c] *= by
                o[x, 3] = one if alpha > one else zero


@kernel("void(f4[:,:,::1], f8[::1], i8, i8, f4[:,:,::1])")
def _averaged(pixels: Any, matrix: Any, x0: Any, y0: Any, out: Any) -> None:
    """`matrix`: from a corner of the result's pixels to a place in `pixels`. A pixel there becomes a parallelogram here."""
    channels = out.shape[2]
    wide = int(np.ceil(abs(matrix[0]) + abs(matrix[1]))) + 2
    tall = int(np.ceil(abs(matrix[3]) + abs(matrix[4]))) + 2
    per = 1.0 / (matrix[0] * matrix[4] - matrix[1] * matrix[3])
    for y in prange(np.int64(out.shape[0])):
        o, line, total = out[y], np.empty(wide + 2), np.empty(channels)
        us, vs = np.empty(4), np.empty(4)
        for x in range(o.shape[0]):
            for k in range(4):
                fx, fy = float(x + x0 + (1 if k == 1 or k == 2 else 0)), float(y + y0 + (1 if k >= 2 else 0))
                us[k] = matrix[0] * fx + matrix[1] * fy + matrix[2]
                vs[k] = matrix[3] * fx + matrix[4] * fy + matrix[5]
            i, j = int(np.floor(us.min())), int(np.floor(vs.min()))
            for c in range(channels):
                total[c] = 0.0
            for row in range(j, min(j + tall, int(np.ceil(vs.max())))):
                line[:] = 0.0
                for k in range(4):
                    n = (k + 1) & 3
                    edge_over_row(us[k] - i, vs[k], us[n] - i, vs[n], row, wide, line)
                covered = 0.0
                for t in range(min(wide, int(np.ceil(us.max())) - i)):
                    covered += line[t]
                    for c in range(channels):
                        total[c] += covered * pixels[row, i + t, c]
            for c in range(channels):
                mean = -total[c] * per
                o[x, c] = np.float32(mean if abs(mean) > ROUNDED else 0.0)


@kernel("void(f4[:,:,::1])")
def _associated(pixels: Any) -> None:
    zero, one = np.float32(0.0), np.float32(1.0)
    last = pixels.shape[2] - 1
    for y in prange(np.int64(pixels.shape[0])):
        p = pixels[y]
        for x in range(p.shape[0]):
            alpha = p[x, last]
            if alpha > one:
                for c in range(last):
                    p[x, c] /= alpha
                p[x, last] = one
            elif alpha < zero:
                for c in range(last + 1):
                    p[x, c] = zero


def along_rows(pixels: Pixels, taps: Taps) -> Pixels:
    """Row j of the result is the sum of `weights[j, t]` times row `starts[j] + t` of `float32[h, w, c]`."""
    starts, weights = taps
    out = blank(len(starts), pixels.shape[1], pixels.shape[2])
    flat = (ready(pixels).reshape(pixels.shape[0], -1), out.reshape(len(starts), -1))
    _rows(flat[0], ready(starts, np.int64), ready(weights), flat[1])
    return out


def along_columns(pixels: Pixels, taps: Taps) -> Pixels:
    """The same across: column i of the result from columns `starts[i] + t`."""
    starts, weights = taps
    out = blank(pixels.shape[0], len(starts), pixels.shape[2])
    where = (ready(starts, np.int64), ready(weights))
    if pixels.shape[2] == 4:
        _columns_rgba(ready(pixels).reshape(pixels.shape[0], -1), *where, out)
    else:
        _columns(ready(pixels), *where, out)
    return out


def sampled(pixels: Pixels, matrix: NDArray[np.float64], origin: tuple[int, int], shape: tuple[int, int], table: Pixels) -> Pixels:
    """`shape` pixels, the first at `origin`; `matrix` `[6]` leads from a pixel of the result to one of `pixels`, whole numbers to
    whole numbers. All taps must lie within the pixels. `table` `[phases + 2, taps]`: its last row stands for the next pixel's."""
    out = blank(*shape, pixels.shape[2])
    _sampled(ready(pixels), ready(matrix, np.float64), float(origin[0]), float(origin[1]), ready(table), out)
    return out


def sampled_rgba(
    pixels: Pixels, matrix: NDArray[np.float64], origin: tuple[int, int], shape: tuple[int, int], outside: float | None, limits: bool
) -> Pixels:  # fmt: skip
    """The same by the cubic of `float32[h, w, 4]`, several times as fast, and with taps anywhere: what stands `outside` the pixels is
    this value, or their border without one. With `limits` alpha is limited as by `limit_alpha`."""
    out = blank(*shape, 4)
    if pixels.size == 0:
        out[...] = outside or 0.0
        return out
    rows = ready(pixels).reshape(pixels.shape[0], -1)
    beyond = (outside is None, np.float32(outside or 0.0))
    _sampled_rgba(rows, ready(matrix, np.float64), float(origin[0]), float(origin[1]), *beyond, limits, out)
    return out


def averaged(pixels: Pixels, matrix: NDArray[np.float64], origin: tuple[int, int], shape: tuple[int, int]) -> Pixels:
    """`shape` pixels, the first at `origin`: each the mean of what its square covers of `pixels`, by area and exactly.

    `matrix` `[6]` leads from a place in the result to one in `pixels`; all that is covered must lie within them.
    """
    out = blank(*shape, pixels.shape[2])
    _averaged(ready(pixels), ready(matrix, np.float64), origin[0], origin[1], out)
    return out


def limit_alpha(pixels: Pixels) -> None:
    """Alpha, last, within 0..1 in place, colours by as much: taps below 0 leave no fringe. The pixels belong to the caller."""
    _associated(pixels)
