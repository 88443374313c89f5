"""Light drawn out along straight lines: a lattice of lines in one direction, along which it falls off, and back to pixels.

Only lines that hold light are there, so a few lamps cost little. A lattice lies still in the frame and begins where the light does:
a window comes out as the whole does bit for bit.
"""

import math
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Window
from . import blank, kernel, ready, row_kernel
from .points import Points
from .vectors import choose

Pixels = NDArray[np.float32]
TINY = np.float32(1e-20)  # light as which less is none


@row_kernel("void(f8[::1], f8[::1], f4[:,::1], i8, i4[::1], i8, f4[:,:,::1])")
def _put_on_lines(along: Any, across: Any, light: Any, first: Any, slots: Any, begin: Any, lines: Any) -> None:
    """Each point's light, its place counted along and across the lines, on the four points of the lattice around it."""
    one = np.float32(1.0)
    for n in range(light.shape[0]):
        s, t = along[n], across[n]
        i, j = np.int64(math.floor(s)), np.int64(math.floor(t))
        fs, ft = np.float32(s - i), np.float32(t - j)
        for down in range(2):
            wt = ft if down else one - ft
            line = lines[slots[j + down - first]]
            for c in range(3):
                line[i - begin, c] += wt * (one - fs) * light[n, c]
                line[i - begin + 1, c] += wt * fs * light[n, c]


@kernel("void(f4[:,:,::1], f4[::1], f4, b1, f4[:,:,::1])")
def _fall_along(lines: Any, keep: Any, share: Any, both: Any, out: Any) -> None:
    """sum over k >= 0 of (1 - keep) keep^k x the light k points before, and with `both` the same from the other side."""
    zero, one = np.float32(0.0), np.float32(1.0)
    count = lines.shape[1]
    k0, k1, k2 = keep[0], keep[1], keep[2]
    g0, g1, g2 = share * (one - k0), share * (one - k1), share * (one - k2)
    for n in prange(np.int64(lines.shape[0])):
        line, o = lines[n].reshape(3 * count), out[n].reshape(3 * count)
        r, g, b = zero, zero, zero
        for x in range(count):
            i = 3 * x
            r, g, b = r * k0 + line[i], g * k1 + line[i + 1], b * k2 + line[i + 2]
            r, g, b = choose(r > TINY, r, zero), choose(g > TINY, g, zero), choose(b > TINY, b, zero)
            o[i], o[i + 1], o[i + 2] = g0 * r, g1 * g, g2 * b
        if both:
            r, g, b = zero, zero, zero
            for x in range(count):
                i = 3 * (count - 1 - x)
                r, g, b = r * k0 + line[i], g * k1 + line[i + 1], b * k2 + line[i + 2]
                r, g, b = choose(r > TINY, r, zero), choose(g > TINY, g, zero), choose(b > TINY, b, zero)
                o[i] += g0 * r
                o[i + 1] += g1 * g
                o[i + 2] += g2 * b


@kernel("void(f4[:,:,::1], i8[:,::1], f8, f8, f8, f8, i8, f4[:,:,::1])")
def _add_from_lines(lines: Any, runs: Any, ux: Any, uy: Any, x0: Any, y0: Any, begin: Any, out: Any) -> None:
    """To each pixel what the lines beside its centre hold there: only the pixels are looked at that lie at lines which follow one
    another, `runs` of the number of the first, how many, and where in `lines` they begin."""
    one, width = np.float32(1.0), out.shape[1]
    for y in prange(np.int64(out.shape[0])):
        row = out[y].reshape(3 * width)
        for n in range(runs.shape[0]):
            number, count, slot = runs[n, 0], runs[n, 1], runs[n, 2]
            # across the lines a pixel's centre lies at (y0 + y) ux - (x0 + x) uy - number
            middle = (y0 + y) * ux - number
            start, end = np.int64(0), np.int64(width)
            if abs(uy) > 1e-9:
                one_end, other_end = (middle + 1.0) / uy - x0, (middle - count) / uy - x0
                start = max(start, np.int64(math.floor(min(one_end, other_end))))
                end = min(end, np.int64(math.floor(max(one_end, other_end))) + np.int64(2))
            for x in range(start, end):
                t = middle - (x0 + x) * uy
                j = np.int64(math.floor(t))
                if j < -1 or j >= count:
                    continue
                s = (x0 + x) * ux + (y0 + y) * uy
                i = np.int64(math.floor(s))
                fs, ft = np.float32(s - i), np.float32(t - j)
                above = (one - ft) if j >= 0 else np.float32(0.0)
                below = ft if j + 1 < count else np.float32(0.0)
                first, second = lines[slot + max(j, 0)], lines[slot + min(j + 1, count - 1)]
                i -= begin
                for c in range(3):
                    upper = (one - fs) * first[i, c] + fs * first[i + 1, c]
                    lower = (one - fs) * second[i, c] + fs * second[i + 1, c]
                    row[3 * x + c] += above * upper + below * lower


def _span(box: Window, ux: float, uy: float) -> tuple[int, int]:
    """The first and the last whole place along a direction beside what lies in a window."""
    places = [x * ux + y * uy for x in (box.x0 + 0.5, box.x1 - 0.5) for y in (box.y0 + 0.5, box.y1 - 0.5)]
    return math.floor(min(places)), math.floor(max(places)) + 1


def add_arms(points: Points, angle: float, both: bool, keep: Pixels, share: float, window: Window, out: Pixels) -> None:
    """Add to `out` `[h, w, 3]`, on a window, what points of light send out at an angle.

    Degrees counter-clockwise from the right; with `both` the other way as well. Of each point's light `share` goes each way, and
    `keep[c]` of what there is is left after every pixel of the way.
    """
    if not points.light.size or window.empty:
        return
    ux, uy = math.cos(math.radians(angle)), -math.sin(math.radians(angle))
    along, across = points.x * ux + points.y * uy, points.y * ux - points.x * uy
    number = np.floor(across).astype(np.int64)
    first = int(number.min())
    holds = np.zeros(int(number.max()) - first + 2, np.bool_)
    holds[number - first] = True
    holds[number - first + 1] = True
    slots = np.where(holds, np.cumsum(holds) - 1, -1).astype(np.int32)
    low, high = _span(window, ux, uy)
    begin = min(low, math.floor(along.min()))
    end = max(high, math.floor(along.max()) + 1)
    lines = np.zeros((int(holds.sum()), end - begin + 1, 3), np.float32)
    _put_on_lines(along, across, ready(points.light), first, slots, begin, lines)
    fallen = blank(*lines.shape)
    _fall_along(lines, ready(keep), np.float32(share), both, fallen)
    edges = np.diff(np.concatenate([[0], holds.astype(np.int64), [0]]))
    starts, ends = np.flatnonzero(edges == 1), np.flatnonzero(edges == -1)
    runs = np.ascontiguousarray(np.column_stack([starts + first, ends - starts, slots[starts]]).astype(np.int64))
    _add_from_lines(fallen, runs, ux, uy, window.x0 + 0.5, window.y0 + 0.5, begin, out)
