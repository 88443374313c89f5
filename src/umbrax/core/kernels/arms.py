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
from .vectors import choose

Pixels = NDArray[np.float32]
TINY = np.float32(1e-20)  # light as which less is none


@row_kernel("void(f4[:,:,::1], f8, f8, f8, f8, i8, b1[::1])")
def _lines_of(light: Any, ux: Any, uy: Any, x0: Any, y0: Any, first: Any, holds: Any) -> None:
    """Which lines have a part of some pixel."""
    for y in range(light.shape[0]):
        for x in range(light.shape[1]):
            p = light[y, x]
            if p[0] != 0 or p[1] != 0 or p[2] != 0:
                line = np.int64(math.floor((y0 + y) * ux - (x0 + x) * uy)) - first
                holds[line] = True
                holds[line + 1] = True


@row_kernel("void(f4[:,:,::1], f8, f8, f8, f8, i8, i4[::1], i8, f4[:,:,::1])")
def _put_on_lines(
    light: Any, ux: Any, uy: Any, x0: Any, y0: Any, first: Any, places: Any, begin: Any, lines: Any
) -> None:  # fmt: skip
    """Each pixel's light on the four points of the lattice around its centre."""
    for y in range(light.shape[0]):
        for x in range(light.shape[1]):
            p = light[y, x]
            if p[0] != 0 or p[1] != 0 or p[2] != 0:
                s, t = (x0 + x) * ux + (y0 + y) * uy, (y0 + y) * ux - (x0 + x) * uy
                i, j = np.int64(math.floor(s)), np.int64(math.floor(t))
                fs, ft = np.float32(s - i), np.float32(t - j)
                for down in range(2):
                    wt = ft if down else np.float32(1.0) - ft
                    line = lines[places[j + down - first]]
                    for along in range(2):
                        w = wt * (fs if along else np.float32(1.0) - fs)
                        point = line[i + along - begin]
                        for c in range(3):
                            point[c] += w * p[c]


@kernel("void(f4[:,:,::1], f4[::1], f4, b1, f4[:,:,::1])")
def _fall_along(lines: Any, keep: Any, share: Any, both: Any, out: Any) -> None:
    """sum over k >= 0 of (1 - keep) keep^k x the light k points before, and with `both` the same from the other side."""
    zero, one = np.float32(0.0), np.float32(1.0)
    count = lines.shape[1]
    for n in prange(np.int64(lines.shape[0])):
        line, o = lines[n], out[n]
        for c in range(3):
            k, gain, light = keep[c], share * (one - keep[c]), zero
            for x in range(count):
                light = light * k + line[x, c]
                light = choose(light > TINY, light, zero)
                o[x, c] = gain * light
            light = zero
            if both:
                for x in range(count):
                    back = count - 1 - x
                    light = light * k + line[back, c]
                    light = choose(light > TINY, light, zero)
                    o[back, c] += gain * light


@kernel("void(f4[:,:,::1], f8, f8, f8, f8, i8, i4[::1], i8, f4[:,:,::1])")
def _add_from_lines(
    lines: Any, ux: Any, uy: Any, x0: Any, y0: Any, first: Any, places: Any, begin: Any, out: Any
) -> None:  # fmt: skip
    """Between the four points around each pixel's centre; a line that is not there holds nothing."""
    one = np.float32(1.0)
    for y in prange(np.int64(out.shape[0])):
        for x in range(out.shape[1]):
            t = (y0 + y) * ux - (x0 + x) * uy
            j = np.int64(math.floor(t)) - first
            if j < -1 or j >= places.shape[0]:
                continue
            upper = places[j] if j >= 0 else np.int32(-1)
            lower = places[j + 1] if j + 1 < places.shape[0] else np.int32(-1)
            if upper < 0 and lower < 0:
                continue
            s = (x0 + x) * ux + (y0 + y) * uy
            i = np.int64(math.floor(s))
            fs, ft = np.float32(s - i), np.float32(t - math.floor(t))
            i -= begin
            for c in range(3):
                light = np.float32(0.0)
                if upper >= 0:
                    light += (one - ft) * ((one - fs) * lines[upper, i, c] + fs * lines[upper, i + 1, c])
                if lower >= 0:
                    light += ft * ((one - fs) * lines[lower, i, c] + fs * lines[lower, i + 1, c])
                out[y, x, c] += light


def _span(box: Window, ux: float, uy: float) -> tuple[int, int]:
    """The first and the last but one whole place along a direction of what lies in a window."""
    places = [x * ux + y * uy for x in (box.x0 + 0.5, box.x1 - 0.5) for y in (box.y0 + 0.5, box.y1 - 0.5)]
    return math.floor(min(places)), math.floor(max(places)) + 2


def add_arms(light: Pixels, at: Window, angle: float, both: bool, keep: Pixels, share: float, window: Window, out: Pixels) -> None:
    """Add to `out` `[h, w, 3]`, on a window, what light `[h, w, 3]` on the window `at` sends out at an angle.

    Degrees counter-clockwise from the right; with `both` the other way as well. Of each pixel's light `share` goes each way, and
    `keep[c]` of what there is is left after every pixel of the way.
    """
    if at.empty or window.empty:
        return
    ux, uy = math.cos(math.radians(angle)), -math.sin(math.radians(angle))
    first, last = _span(at, -uy, ux)
    holds = np.zeros(last - first + 1, np.bool_)
    light = ready(light)
    place = (ux, uy, at.x0 + 0.5, at.y0 + 0.5, first)
    _lines_of(light, *place, holds)
    if not holds.any():
        return
    places = np.where(holds, np.cumsum(holds) - 1, -1).astype(np.int32)
    spans = [_span(box, ux, uy) for box in (at, window)]
    begin, end = min(one for one, _ in spans), max(other for _, other in spans)
    lines = np.zeros((int(holds.sum()), end - begin + 1, 3), np.float32)
    _put_on_lines(light, *place, places, begin, lines)
    fallen = blank(*lines.shape)
    _fall_along(lines, ready(keep), np.float32(share), both, fallen)
    _add_from_lines(fallen, ux, uy, window.x0 + 0.5, window.y0 + 0.5, first, places, begin, out)
