"""The part of a plane of light outside of which it is dark, and what is made of that: once, as long as the plane lives.

While a treatment is played with, its light mostly stays what it was, and only what is done with it changes. Pictures never change, so what
was found in one holds; it goes with it.
"""

import weakref
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from typing import Any, TypeVar

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Picture, Window
from . import kernel, ready
from .vectors import lit_ends

Pixels = NDArray[np.float32]
Made = TypeVar("Made")
Known = dict[str, tuple[Hashable, Any]]  # by a name, what it was made with and what it is
FEW = 8  # one pixel in so many is few: a copy of those is kept with the plane


@dataclass
class _Found:
    """What was found in a plane: the first column and row that hold anything, and those after the last."""

    plane: weakref.ref[Pixels]
    sides: tuple[int, int, int, int]
    part: Picture | None = None
    made: Known = field(default_factory=dict)

    def within(self, window: Window) -> Window:
        """What of the plane's window holds anything."""
        left, top, right, bottom = self.sides
        return Window(window.x0 + left, window.y0 + top, window.x0 + right, window.y0 + bottom)


_found: dict[int, _Found] = {}  # by the id of the plane's pixels
_parts: dict[int, _Found] = {}  # by that of the pixels of a part that is kept


@kernel("void(f4[:,:,::1], i8[:,::1])")
def _ends(light: Any, ends: Any) -> None:
    length = light.shape[1] * light.shape[2]
    for y in prange(np.int64(light.shape[0])):
        ends[y, 0], ends[y, 1] = lit_ends(light[y].reshape(length))


def keep_ends(light: Pixels, ends: NDArray[np.int64]) -> None:
    """Keep what part of a plane is not 0, by the first and the last number of each row that are not (`lit_ends`)."""
    rows, channels, sides = np.flatnonzero(ends[:, 0] >= 0), light.shape[2], (0, 0, 0, 0)
    if rows.size:
        left, right = int(ends[rows, 0].min()) // channels, -(-int(ends[rows, 1].max()) // channels)
        sides = left, int(rows[0]), right, int(rows[-1]) + 1
    number = id(light)
    _found[number] = _Found(weakref.ref(light, lambda _: _forget(number)), sides)


def _forget(number: int) -> None:
    found = _found.pop(number, None)
    if found is not None and found.part is not None:
        _parts.pop(id(found.part.pixels), None)


def _in(light: Pixels) -> _Found:
    found = _found.get(id(light))
    if found is None or found.plane() is not light:
        ends = np.empty((light.shape[0], 2), np.int64)
        _ends(ready(light), ends)
        keep_ends(light, ends)
    return _found[id(light)]


def lit_window(light: Pixels, window: Window) -> Window:
    """The part of a window outside of which a plane `float32[h, w, c]` on it is 0 in every channel."""
    return _in(light).within(window)


def lit_part(plane: Picture) -> Picture:
    """What of a plane is not 0 in every channel; of few pixels the same picture each time."""
    light = plane.pixels
    found = _in(light)
    window, part = found.within(plane.window), found.part
    if part is None or part.window != window:
        part = Picture(light, plane.window, plane.edge).crop(window)
        if found.part is None and not window.empty and window.area * FEW <= plane.window.area:
            part = Picture(part.pixels.copy(), window, plane.edge)  # never a view, which would keep the plane
            found.part, _parts[id(part.pixels)] = part, found
    return part


def once_of(part: Pixels, name: str, settings: Hashable, make: Callable[[], Made]) -> Made:
    """What is made of the pixels of a part that is kept, made again only with other settings; of other pixels it is made each time."""
    found = _parts.get(id(part))
    return make() if found is None else once_in(found.made, name, settings, make)


def once_of_plane(plane: Pixels, name: str, settings: Hashable, make: Callable[[], Made]) -> Made:
    """As `once_of`, of all of a plane: for what takes little room beside it."""
    return once_in(_in(plane).made, name, settings, make)


def once_in(known: Known, name: str, settings: Hashable, make: Callable[[], Made]) -> Made:
    """What `known` has by a name, made again only with other settings."""
    before = known.get(name)
    if before is not None and before[0] == settings:
        kept: Made = before[1]
        return kept
    made = make()
    known[name] = settings, made
    return made
