"""The picture of an aperture, row by row, at many sizes."""

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

PER_PIXEL = 16  # sizes a pixel of radius
SHARP = 0.5  # radius in pixels up to which a point stays in its pixel
RING = 0.8  # of the radius, where the bright rim begins
STEPS = 8192  # at which the outline is known
Line = NDArray[np.float64]


class Aperture(NamedTuple):
    """`left[k, d]` and `right[k, d]`: of the size k / `PER_PIXEL` pixels, where in the row d - `middle` it begins and ends, from the
    centre of the pixel in the middle, as means over the part of the row that it covers; `of_row[k, d]`: that part; `light[k]`: one over
    its area."""

    left: NDArray[np.float32]
    right: NDArray[np.float32]
    of_row: NDArray[np.float32]
    light: NDArray[np.float32]


def aperture(radius: float, blades: int, turn: float, squeeze: float) -> Aperture:
    """All sizes up to `radius` pixels at least of a disc, or of a polygon whose corners lie on it.

    `turn` in degrees counter-clockwise; `squeeze` is its width over its height, which is twice the radius.
    """
    return _aperture(1 << max(2, int(np.ceil(np.log2(max(radius, 1.0))))), blades if blades > 2 else 0, turn if blades > 2 else 0.0, squeeze)


@lru_cache(maxsize=8)
def _aperture(radius: int, blades: int, turn: float, squeeze: float) -> Aperture:
    sizes = np.maximum(np.arange(radius * PER_PIXEL + 2) / PER_PIXEL, SHARP)[:, None]
    middle = radius + 1
    ends = (np.arange(2 * middle + 2) - middle - 0.5) / sizes
    y = np.linspace(-1, 1, STEPS + 1)
    left, right = _polygon(y, blades, turn) if blades else _disc(y)
    there = right >= left
    left, right = np.where(there, left, 0), np.where(there, right, 0)
    lines = (right - left, (left + right) / 2, there.astype(np.float64))  # width, middle, and whether there is any
    wide, sided, covered = (np.diff(np.interp(ends, y, _sum_along(y, values)), axis=1) for values in lines)
    half, middle_of = (values / np.maximum(covered, 1e-12) for values in (wide / 2, sided))
    begin, end = ((middle_of + side * half) * squeeze * sizes for side in (-1, 1))
    part = np.minimum(covered * sizes, 1)
    area = ((end - begin) * part).sum(axis=1)
    return Aperture(*(values.astype(np.float32) for values in (begin, end, part, 1 / area)))


def _sum_along(y: Line, values: Line) -> Line:
    """The integral of values from the first place on, by trapezia."""
    return np.concatenate([[0.0], np.cumsum((values[1:] + values[:-1]) / 2 * np.diff(y))])


def _disc(y: Line) -> tuple[Line, Line]:
    half = np.sqrt(np.maximum(1 - y * y, 0))
    return -half, half


def _polygon(y: Line, blades: int, turn: float) -> tuple[Line, Line]:
    """Between the edges of a polygon on the unit circle, whose first corner is at the top; y goes down."""
    corners = np.radians(90 + turn) + 2 * np.pi * np.arange(blades + 1) / blades
    xs, ys = np.cos(corners), -np.sin(corners)
    left, right = np.full(y.shape, np.inf), np.full(y.shape, -np.inf)
    for x0, y0, x1, y1 in zip(xs[:-1], ys[:-1], xs[1:], ys[1:], strict=True):
        if abs(y1 - y0) > 1e-12:
            t = (y - y0) / (y1 - y0)
            x, on = x0 + t * (x1 - x0), (t >= 0) & (t <= 1)
            left, right = np.where(on, np.minimum(left, x), left), np.where(on, np.maximum(right, x), right)
    return left, right
