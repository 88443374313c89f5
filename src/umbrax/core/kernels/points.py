"""The pixels of a plane of light that hold any, as a list: where few do, what is done with each is done for those alone."""

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from typing import Any, TypeVar

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Picture, Window
from . import blank, kernel, ready
from .lit import Known, once_in, once_of

Pixels = NDArray[np.float32]
Made = TypeVar("Made")
MOST_KEPT = 1_000_000  # numbers of what is made of points that are kept with them


@dataclass(frozen=True, eq=False)
class Points:
    """Centres `float64[n]` in the pixels of the frame, row by row, and light `float32[n, 3]`."""

    x: NDArray[np.float64]
    y: NDArray[np.float64]
    light: Pixels
    _made: Known = field(default_factory=dict, repr=False)

    def once(self, name: str, settings: Hashable, numbers: int, make: Callable[[], Made]) -> Made:
        """What is made of them, made again only with other settings, or where it takes too many `numbers` to be kept."""
        return once_in(self._made, name, settings, make) if numbers <= MOST_KEPT else make()


@kernel("void(f4[:,:,::1], i8[::1])")
def _count(light: Any, counts: Any) -> None:
    for y in prange(np.int64(light.shape[0])):
        line = light[y].reshape(light.shape[1] * 3)
        found = np.int64(0)
        for x in range(light.shape[1]):
            found = found + np.int64((line[3 * x] != 0) | (line[3 * x + 1] != 0) | (line[3 * x + 2] != 0))
        counts[y] = found


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


def points_once(part: Picture) -> Points:
    """Those of the part of a plane that holds any light: once, where that is kept."""
    return once_of(part.pixels, "points", part.window, lambda: points_of(part.pixels, part.window))
