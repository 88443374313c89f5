"""A picture as a lens shows it that spreads each of its pixels."""

import math

import numpy as np
from numpy.typing import NDArray

from ..kernels import blank, ready
from ..kernels.behind import holds_nothing
from ..kernels.spreading import BLOCK, layers_of, spread_discs
from ..picture import Picture, Window
from .apertures import PER_PIXEL, RING, SHARP, Aperture
from .behind import borders, nearest_behind

Values = NDArray[np.float32]
Sides = tuple[bool, bool, bool, bool]  # left, top, right, bottom
NONE = -1  # the size of what is not there


def spread_through(own: Picture, radius: Values, shape: Aperture, squeeze: float, rim: float, on: Sides) -> Picture:
    """RGBA with every pixel spread to its `radius` `float32[h, w]` in pixels, negative before the focus; grown by how far that is.

    `on` says of which sides (left, top, right, bottom) the picture goes on past its window, where it is cut off and does not end.
    """
    sizes = np.where(holds_nothing(own.pixels), 0, radius)
    around = math.ceil(float(np.abs(sizes).max(initial=0)) * max(1.0, squeeze)) + 2
    light, radius = padded(own.pixels, around, on), padded(radius[..., None], around, on)[..., 0]
    # what holds nothing spreads nothing, and lies behind all
    between = borders(float(np.abs(radius).max(initial=0)))
    radius = np.where(holds_nothing(light), np.float32(np.inf), radius)
    found = nearest_behind(radius, np.where(np.isfinite(radius), np.abs(radius), 0), between)
    return Picture(_spread(light, radius, found, between, shape, rim), own.window.grown(around), own.edge)


def goes_on(own: Picture, display: Window) -> Sides:
    """On which sides a picture is cut off by the frame, or has no end."""
    w, endless = own.window, own.edge == "extend"
    return endless or w.x0 <= display.x0, endless or w.y0 <= display.y0, endless or w.x1 >= display.x1, endless or w.y1 >= display.y1


def padded(values: Values, around: int, on: Sides) -> Values:
    """Values `[h, w, c]` with so many pixels around: as those at the border where the picture goes on, else nothing."""
    left, top, right, bottom = (around if side else 0 for side in on)
    goes_on = np.pad(values, ((top, bottom), (left, right), (0, 0)), mode="edge")
    return np.pad(goes_on, ((around - top, around - bottom), (around - left, around - right), (0, 0)))


def _spread(light: Values, radius: Values, found: NDArray[np.int64], between: Values, shape: Aperture, rim: float) -> Values:
    height, width = radius.shape
    lights, out = blank(2, height, width, 4), blank(height, width, 4)
    size, slices = np.empty((2, height, width), np.int32), np.empty((2, height, width), np.int32)
    most = np.full((2, height, -(-width // BLOCK)), NONE, np.int32)
    layers_of(ready(light), ready(radius), found, ready(between), PER_PIXEL, np.float32(SHARP), lights, size, slices, most)
    spread_discs(lights, size, slices, most, *shape, len(between) + 1, int(SHARP * PER_PIXEL), np.float32(rim), np.float32(RING), out)
    np.minimum(out[..., 3], 1, out=out[..., 3])
    return out


def by_blocks(values: NDArray[np.int32]) -> NDArray[np.int32]:
    """The largest of each `BLOCK` pixels of a row."""
    layers, height, width = values.shape
    blocks = np.full((layers, height, -(-width // BLOCK) * BLOCK), NONE, np.int32)
    blocks[..., :width] = values
    return np.ascontiguousarray(blocks.reshape(layers, height, -1, BLOCK).max(axis=3))
