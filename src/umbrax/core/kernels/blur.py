"""Gaussian blur whose cost does not grow with its size.

From a sigma of 5 on the picture is reduced by a whole step s with a cubic B-spline, filtered there by a short kernel,
and enlarged by a cubic B-spline. Variances add under convolution, so the short kernel gets what is left of the wanted
variance, and its fourth cumulant makes up for that of the splines (Unser, Aldroubi, Eden 1993, "B-spline signal
processing", gives the splines; their cumulants are those of sums of boxes).
The cells lie at multiples of s of the frame, so a window's result equals the whole's.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from . import coarse, ready

Pixels = NDArray[np.float32]
Taps = NDArray[np.float32]
STEPS_PER_SIGMA = 2.5
REACH = 4.2  # in sigmas: what is cut off is below 1.5e-4 of the peak, a third of what is allowed
EXCESS = 8 / 120  # what two cubic splines lack of a Gaussian's fourth cumulant: 1/120 for each of their eight boxes


@dataclass(frozen=True)
class Axis:
    """The taps along one axis: down to cells, between cells, up to pixels `[step, 4]`."""

    step: int
    down: Taps
    between: Taps
    up: Taps

    @property
    def centre(self) -> int:
        """The index of the middle tap between cells; taps are padded at their end."""
        return int(np.argmax(self.between))


def _cubic(t: NDArray[np.float64]) -> NDArray[np.float64]:
    a = np.abs(t)
    return np.where(a < 1, 2 / 3 - a * a + a**3 / 2, np.where(a < 2, (2 - a) ** 3 / 6, 0.0))


def _gaussian_taps(variance: float, excess: float = 0.0) -> Taps:
    """Normalised taps of a Gaussian with a fourth cumulant `excess` (Gram-Charlier: 1 + k4/24 s^4 He4(x/s)).

    Taps are samples at pixel centres, as scipy.ndimage takes them; padded to a multiple of four.
    """
    sigma = float(np.sqrt(variance))
    radius = max(1, int(np.ceil(REACH * sigma)))
    z = np.arange(-radius, radius + 1, dtype=np.float64) / sigma
    weights = np.exp(-0.5 * z * z) * (1 + excess / (24 * variance**2) * (z**4 - 6 * z**2 + 3))
    return np.pad(weights / weights.sum(), (0, -len(weights) % 4)).astype(np.float32)


@lru_cache(maxsize=256)
def _axis(sigma: float) -> Axis:
    step = int(sigma / STEPS_PER_SIGMA)
    if step < 2:
        itself = np.array([0, 0, 1, 0], np.float32)  # a cell is the pixel after its place
        between = _gaussian_taps(sigma**2) if sigma > 0 else np.array([1, 0, 0, 0], np.float32)
        return Axis(1, itself, between, np.array([[0, 1, 0, 0]], np.float32))
    fine = np.arange(4 * step) + 0.5 - 2 * step
    down = _cubic(fine / step)
    down /= down.sum()
    left = sigma**2 - float((down * fine**2).sum()) - step**2 / 3
    up = _cubic((np.arange(step)[:, None] + 0.5) / step - np.arange(-1, 3))
    up /= up.sum(axis=1, keepdims=True)
    return Axis(step, down.astype(np.float32), _gaussian_taps(left / step**2, EXCESS), up.astype(np.float32))


def reach(sigma: float) -> int:
    """How many pixels around a pixel can have a part in its blurred value."""
    if sigma <= 0:
        return 0
    axis = _axis(sigma)
    return axis.centre + 1 if axis.step == 1 else (axis.centre + 5) * axis.step


def gaussian(
    pixels: Pixels,
    sigma_x: float,
    sigma_y: float,
    origin: tuple[int, int],
    out: tuple[int, int, int, int],
    extend: bool,
) -> Pixels:
    """Blur `float32[h, w, c]` and return the window `out` (x0, y0, x1, y1) of the result.

    `origin`: frame coordinates of the first pixel. Outside the pixels stands 0, or the border goes on (`extend`).
    Sigmas are in pixels; 0 leaves an axis as it is. Error against the exact Gaussian: at most 5e-4 of the peak.
    """
    x0, y0, x1, y1 = out
    x, y = _axis(sigma_x), _axis(sigma_y)
    shape = (y1 - y0, x1 - x0)
    if x.step == y.step == 1:  # a cell is a pixel
        at_y, at_x = y0 - y.centre - origin[1], x0 - x.centre - origin[0]
        return coarse.filter_cells(ready(pixels), y.between, at_y, x.between, at_x, shape, extend)
    # the cells that the result is enlarged from, and around them those they are filtered from
    left, right, top, bottom = x0 // x.step - 1, (x1 - 1) // x.step + 3, y0 // y.step - 1, (y1 - 1) // y.step + 3
    rows, columns = bottom - top, right - left
    wide = (rows + len(y.between) - 1, columns + len(x.between) - 1)
    start_y, start_x = (top - y.centre - 2) * y.step - origin[1], (left - x.centre - 2) * x.step - origin[0]
    cells = coarse.reduce_to_cells(ready(pixels), y.down, start_y, x.down, start_x, wide, extend)
    cells = coarse.filter_cells(cells, y.between, 0, x.between, 0, (rows, columns), False)
    at_y, at_x = y0 - (top + 1) * y.step, x0 - (left + 1) * x.step
    return coarse.enlarge_cells(cells, y.up, at_y, x.up, at_x, shape)
