"""Picture and Window: what every kernel takes and gives.

Coordinates are those of the display window: x to the right, y down, pixel centres at +0.5, windows half open.
At scale 1/n a window's origin is floored and its end ceiled, so odd sizes stay covered.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

Pixels = NDArray[np.float32]
Edge = Literal["empty", "one", "far", "extend"]
Sides = tuple[bool, bool, bool, bool]  # left, top, right, bottom
OUTSIDE: dict[Edge, float | None] = {"empty": 0.0, "one": 1.0, "far": float("inf"), "extend": None}


class Window(NamedTuple):
    """A half-open rectangle of whole pixels; it may start below 0 and end beyond the display window.

    >>> Window(0, 0, 5, 3).scaled(2)
    Window(x0=0, y0=0, x1=3, y1=2)
    >>> Window(-3, 0, 5, 3).scaled(2).x0
    -2
    """

    x0: int
    y0: int
    x1: int
    y1: int

    @property
    def width(self) -> int:
        return max(0, self.x1 - self.x0)

    @property
    def height(self) -> int:
        return max(0, self.y1 - self.y0)

    @property
    def empty(self) -> bool:
        return self.x1 <= self.x0 or self.y1 <= self.y0

    @property
    def area(self) -> int:
        return self.width * self.height

    def grown(self, pixels: int) -> "Window":
        return Window(self.x0 - pixels, self.y0 - pixels, self.x1 + pixels, self.y1 + pixels)

    def grown_within(self, frame: "Window", pixels: int) -> "Window":
        """Grown inside of a frame only: what lies beyond it already stays.

        >>> Window(-2, 3, 5, 9).grown_within(Window(0, 0, 10, 10), 4)
        Window(x0=-2, y0=0, x1=9, y1=10)
        """
        return self.union(self.grown(pixels).intersect(frame))

    def union(self, other: "Window") -> "Window":
        if self.empty:
            return other
        if other.empty:
            return self
        return Window(min(self.x0, other.x0), min(self.y0, other.y0), max(self.x1, other.x1), max(self.y1, other.y1))

    def intersect(self, other: "Window") -> "Window":
        x0, y0 = max(self.x0, other.x0), max(self.y0, other.y0)
        return Window(x0, y0, max(x0, min(self.x1, other.x1)), max(y0, min(self.y1, other.y1)))

    def slices_in(self, outer: "Window") -> tuple[slice, slice]:
        """Its rows and columns in the pixels of a window that holds it."""
        return slice(self.y0 - outer.y0, self.y1 - outer.y0), slice(self.x0 - outer.x0, self.x1 - outer.x0)

    def contains(self, other: "Window") -> bool:
        inside = self.x0 <= other.x0 and self.y0 <= other.y0 and self.x1 >= other.x1 and self.y1 >= other.y1
        return inside or other.empty

    def scaled(self, n: int) -> "Window":
        """This window at scale 1/n: origin floored, end ceiled."""
        return Window(self.x0 // n, self.y0 // n, -(-self.x1 // n), -(-self.y1 // n))

    def magnified(self, n: int) -> "Window":
        """The full-size pixels that this window at scale 1/n stands for."""
        return Window(self.x0 * n, self.y0 * n, self.x1 * n, self.y1 * n)

    def snapped(self, grid: int) -> "Window":
        """The smallest window on a grid of `grid` pixels that holds this one."""
        return self.scaled(grid).magnified(grid)


def union_of(windows: Iterable[Window]) -> Window:
    """The smallest window that holds all the given ones; empty when there are none."""
    result = Window(0, 0, 0, 0)
    for window in windows:
        result = result.union(window)
    return result


@dataclass(frozen=True, slots=True)
class Picture:
    """Pixels `float32[h, w, c]` and where they lie; associated alpha is last when c is 2 or 4.

    `edge` is what stands outside: `empty` (0), `one` (1), `far` (infinity: no depth), or `extend` (the border goes on). c = 1 is a
    matte or a depth, c = 3 a plane of spread light without alpha. A Picture is never changed after it was made.
    """

    pixels: Pixels
    window: Window
    edge: Edge = "empty"

    def __post_init__(self) -> None:
        if self.pixels.ndim != 3 or self.pixels.shape[:2] != (self.window.height, self.window.width):
            raise ValueError(f"expected pixels of {self.window.height} x {self.window.width}, got {self.pixels.shape}")

    @property
    def channels(self) -> int:
        return int(self.pixels.shape[2])

    @property
    def nbytes(self) -> int:
        return self.pixels.nbytes

    def crop(self, window: Window) -> "Picture":
        """These pixels on another window, filled by `edge` where there are none; a view where nothing is filled."""
        if window == self.window:
            return self
        if not window.empty and self.window.contains(window):
            y, x = window.y0 - self.window.y0, window.x0 - self.window.x0
            return Picture(self.pixels[y : y + window.height, x : x + window.width], window, self.edge)
        return Picture(self._filled(window), window, self.edge)

    def cut_off_by(self, frame: Window) -> "Picture":
        """This picture with a border that goes on where a frame cuts it off; where it ends inside of the frame, nothing stands outside."""
        if self.edge == "extend" or self.window.empty:
            return self
        left, top, right, bottom = (0 if cut else 1 for cut in self.goes_on(frame))
        rimmed = Window(self.window.x0 - left, self.window.y0 - top, self.window.x1 + right, self.window.y1 + bottom)
        return Picture(self.crop(rimmed).pixels, rimmed, "extend")

    def goes_on(self, frame: Window) -> Sides:
        """On which sides it goes on: where a frame cuts it off, or on all where it has no end."""
        own, endless = self.window, self.edge == "extend"
        return endless or own.x0 <= frame.x0, endless or own.y0 <= frame.y0, endless or own.x1 >= frame.x1, endless or own.y1 >= frame.y1

    def _filled(self, window: Window) -> Pixels:
        shape = (window.height, window.width, self.channels)
        if window.empty:
            return np.zeros(shape, np.float32)
        if self.edge == "extend" and not self.window.empty:
            return self._going_on(window)
        outside, part = np.float32(OUTSIDE[self.edge] or 0.0), self.window.intersect(window)
        if part.empty:
            return np.full(shape, outside)
        out = np.empty(shape, np.float32)
        top, bottom, left, right = part.y0 - window.y0, part.y1 - window.y0, part.x0 - window.x0, part.x1 - window.x0
        out[:top], out[bottom:] = outside, outside
        out[top:bottom, :left], out[top:bottom, right:] = outside, outside
        out[top:bottom, left:right] = self.crop(part).pixels
        return out

    def _going_on(self, window: Window) -> Pixels:
        """A window that its border pixels go on into."""
        own, out = self.window, np.empty((window.height, window.width, self.channels), np.float32)
        top, first, bottom = _within(window.y0, window.y1, own.y0, own.y1)
        left, start, right = _within(window.x0, window.x1, own.x0, own.x1)
        rows = out[top:bottom]
        rows[:, left:right] = self.pixels[first : first + bottom - top, start : start + right - left]
        rows[:, :left], rows[:, right:] = rows[:, left : left + 1], rows[:, right - 1 : right]
        out[:top], out[bottom:] = out[top], out[bottom - 1]
        return out


def _within(low: int, high: int, first: int, last: int) -> tuple[int, int, int]:
    """Where in low..high what there is of first..last begins, from which of that on, and where it ends; its border where there is none."""
    start, end = max(low, first), min(high, last)
    if start >= end:
        return 0, 0 if high <= first else last - first - 1, 1
    return start - low, start - first, end - low


def nothing(window: Window, channels: int) -> Picture:
    """A picture in which nothing stands: zeros, alpha included."""
    return Picture(np.zeros((window.height, window.width, channels), np.float32), window)
