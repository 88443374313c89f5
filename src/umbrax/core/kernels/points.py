"""The pixels of a plane of light that hold any, as a list: where few do, what is done with each is done for those alone."""

import weakref
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Window
from . import blank, kernel, ready
from .vectors import lit_ends

Pixels = NDArray[np.float32]


@dataclass(frozen=True)
class Points:
    """Centres `float64[n]` in the pixels of the frame, row by row, and light `float32[n, 3]`."""

    x: NDArray[np.float64]
    y: NDArray[np.float64]
    light: Pixels


@kernel("void(f4[:,:,::1], i8[::1])")
def _count(light: Any, counts: Any) -> None:
    for y in prange(np.int64(light.shape[0])):
        line = light[y].reshape(light.shape[1] * 3)
        found = np.int64(0)
        for x in range(light.shape[1]):
            found = found + np.int64((line[3 * x] != 0) | (line[3 * x + 1] != 0) | (line[3 * x + 2] != 0))
        counts[y] = found


@kernel("void(f4[:,:,::1], i8[:,::1])")
def _ends(light: Any, ends: Any) -> None:
    length = light.shape[1] * light.shape[2]
    for y in prange(np.int64(light.shape[0])):
        ends[y, 0], ends[y, 1] = lit_ends(light[y].reshape(length))


Rows = tuple[int, int, int, int]
_found: dict[int, tuple[weakref.ref[Pixels], Rows]] = {}  # by the id of pixels, as long as these live: pictures never change


def lit_window(light: Pixels, window: Window) -> Window:
    """The part of a window outside of which a picture `float32[h, w, c]` on it is 0 in every channel."""
    kept = _found.get(id(light))
    if kept is not None and kept[0]() is light:
        left, top, right, bottom = kept[1]
    else:
        ends = np.empty((light.shape[0], 2), np.int64)
        _ends(ready(light), ends)
        left, top, right, bottom = keep_ends(light, ends)
    return Window(window.x0 + left, window.y0 + top, window.x0 + right, window.y0 + bottom)


def keep_ends(light: Pixels, ends: NDArray[np.int64]) -> Rows:
    """Keep what part of a picture is not 0, by the first and the last number of each row that are not (`lit_ends`): the first column and row
    that hold anything, and those after the last; all 0 where nothing does."""
    rows, channels, part = np.flatnonzero(ends[:, 0] >= 0), light.shape[2], (0, 0, 0, 0)
    if rows.size:
        left, right = int(ends[rows, 0].min()) // channels, -(-int(ends[rows, 1].max()) // channels)
        part = left, int(rows[0]), right, int(rows[-1]) + 1
    number = id(light)
    _found[number] = weakref.ref(light, lambda _: _found.pop(number, None)), part
    return part


@kernel("void(f4[:,:,::1], i8[::1], f8, f8, f8[::1], f8[::1], f4[:,::1])")
def _list(light: Any, begins: Any, x0: Any, y0: Any, xs: Any, ys: Any, found: Any) -> None:
    for y in prange(np.int64(light.shape[0])):
        at = begins[y]
        for x in range(light.shape[1]):
            p = light[y, x]
            if p[0] != 0 or p[1] != 0 or p[2] != 0:
                xs[at], ys[at] = x0 + x, y0 + y
                found[at, 0], found[at, 1], found[at, 2] = p[0], p[1], p[2]
                at += 1


def points_of(light: Pixels, window: Window) -> Points:
    """Those of light `[h, w, 3]` on a window."""
    light, counts = ready(light), np.zeros(light.shape[0], np.int64)
    _count(light, counts)
    total = int(counts.sum())
    xs, ys, found = np.empty(total, np.float64), np.empty(total, np.float64), blank(total, 3)
    _list(light, np.cumsum(counts) - counts, window.x0 + 0.5, window.y0 + 0.5, xs, ys, found)
    return Points(xs, ys, found)
