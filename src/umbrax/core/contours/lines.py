"""Lines round a matte, smoothed and with even steps."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..kernels.contours import traced

Points = NDArray[np.float64]
STEP = 0.5  # pixels from point to point
SMOOTH = 0.5  # sigma in pixels along a line of what takes the steps of pixels out of it


@dataclass(frozen=True)
class Line:
    """Points `[n, 2]` (x, y) in pixels, one after the other; a closed line goes on from the last to the first."""

    points: Points
    closed: bool

    @cached_property
    def lengths(self) -> NDArray[np.float64]:
        """From each point to the next; of a closed line from the last to the first as well."""
        after = np.roll(self.points, -1, axis=0) if self.closed else self.points[1:]
        return np.asarray(np.hypot(*(after - self.points[: len(after)]).T))

    @cached_property
    def length(self) -> float:
        return float(self.lengths.sum())

    def turned_back(self) -> "Line":
        """The same line the other way."""
        return Line(self.points[::-1].copy(), self.closed)

    def from_point(self, index: int) -> "Line":
        """A closed line that begins at another of its points."""
        return Line(np.roll(self.points, -index, axis=0), True) if self.closed else self

    def nearest(self, x: float, y: float) -> tuple[int, float]:
        """The point next to a place, and how far away it is."""
        away = np.hypot(self.points[:, 0] - x, self.points[:, 1] - y)
        return int(away.argmin()), float(away.min())


def evened(line: Line, step: float = STEP) -> Line:
    """The same line with points at even steps along it."""
    points = np.vstack([line.points, line.points[:1]]) if line.closed else line.points
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    count = max(2, round(along[-1] / step))
    at = np.linspace(0, along[-1], count + (0 if line.closed else 1), endpoint=not line.closed)
    return Line(np.column_stack([np.interp(at, along, points[:, 0]), np.interp(at, along, points[:, 1])]), line.closed)


def smoothed(line: Line, sigma: float = SMOOTH) -> Line:
    """The same line without the steps that pixels leave in it; the ends of an open one stay."""
    if len(line.points) < 4 or sigma < 1e-3:
        return line
    ends = line.points[[0, -1]]
    from scipy.ndimage import gaussian_filter1d  # when it is asked for: every command would wait for it

    points = np.asarray(gaussian_filter1d(line.points, sigma / STEP, axis=0, mode="wrap" if line.closed else "nearest"))
    if not line.closed:
        points[[0, -1]] = ends
    return Line(points, line.closed)


def lines_round(matte: NDArray[np.float32], level: float, smallest: float, smooth: float = SMOOTH) -> list[Line]:
    """The lines along which a matte `float32[h, w]` is `level`, the longest first; without those shorter than `smallest` pixels.

    They go clockwise on the screen round what is full. Outside of the matte is nothing.
    """
    found = [smoothed(evened(Line(points, True)), smooth) for points in traced(matte, level) if len(points) > 3]
    return sorted((line for line in found if line.length >= smallest), key=lambda line: -line.length)
