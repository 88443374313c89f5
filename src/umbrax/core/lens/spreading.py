"""A picture as a lens shows it that spreads each of its pixels."""

import math

import numpy as np
from numpy.typing import NDArray

from ..kernels import blank, ready
from ..kernels.radii import farthest, surrounded
from ..kernels.runs import NONE, runs_of
from ..kernels.spreading import BLOCK, spread_discs
from ..picture import Picture, Sides
from .apertures import PER_PIXEL, RING, SHARP, Aperture
from .behind import borders, nearest_behind

Values = NDArray[np.float32]


def spread_through(own: Picture, radius: Values, shape: Aperture, squeeze: float, rim: float, on: Sides) -> Picture:
    """RGBA with every pixel spread to its `radius` `float32[h, w]` in pixels, negative before the focus; grown by how far that is.

    `on` says of which sides (left, top, right, bottom) the picture goes on past its window, where it is cut off and does not end.
    """
    reach = farthest(own.pixels, radius)
    around = math.ceil(reach * max(1.0, squeeze)) + 2
    # what holds nothing spreads nothing, and lies behind all
    light, order, size = surrounded(own.pixels, radius, around, on)
    between = borders(reach)
    found = nearest_behind(order, size, between)
    return Picture(_spread(light, order, found, between, shape, rim), own.window.grown(around), own.edge)


def padded(values: Values, around: int, on: Sides) -> Values:
    """Values `[h, w, c]` with so many pixels around: as those at the border where the picture goes on, else nothing."""
    left, top, right, bottom = (around if side else 0 for side in on)
    goes_on = np.pad(values, ((top, bottom), (left, right), (0, 0)), mode="edge")
    return np.pad(goes_on, ((around - top, around - bottom), (around - left, around - right), (0, 0)))


def _spread(light: Values, radius: Values, found: NDArray[np.int64], between: Values, shape: Aperture, rim: float) -> Values:
    out = blank(*light.shape)
    spread_discs(
        ready(light), *runs_of(light, radius, found, between, PER_PIXEL), *shape, len(between) + 1, PER_PIXEL, int(SHARP * PER_PIXEL),
        np.float32(rim), np.float32(RING), out,
    )  # fmt: skip
    np.minimum(out[..., 3], 1, out=out[..., 3])
    return out


def by_blocks(values: NDArray[np.int32]) -> NDArray[np.int32]:
    """The largest of each `BLOCK` pixels of a row."""
    layers, height, width = values.shape
    blocks = np.full((layers, height, -(-width // BLOCK) * BLOCK), NONE, np.int32)
    blocks[..., :width] = values
    return np.ascontiguousarray(blocks.reshape(layers, height, -1, BLOCK).max(axis=3))
