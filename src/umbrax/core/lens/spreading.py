"""A picture as a lens shows it that spreads each of its pixels."""

import math

import numpy as np
from numpy.typing import NDArray

from ..kernels import blank, ready
from ..kernels.spreading import BLOCK, spread_discs
from ..picture import Picture
from .apertures import PER_PIXEL, RING, SHARP, Aperture
from .behind import behind, borders

Values = NDArray[np.float32]
NONE = -1  # the size of what is not there


def spread_through(own: Picture, radius: Values, shape: Aperture, squeeze: float, rim: float, on: tuple[bool, bool, bool, bool]) -> Picture:
    """RGBA with every pixel spread to its `radius` `float32[h, w]` in pixels, negative before the focus; grown by how far that is.

    `on` says of which sides (left, top, right, bottom) the picture goes on past its window, where it is cut off and does not end.
    """
    sizes = np.where(_empty(own.pixels), 0, radius)
    around = math.ceil(float(np.abs(sizes).max(initial=0)) * max(1.0, squeeze)) + 2
    light, radius = _padded(own.pixels, around, on), _padded(radius[..., None], around, on)[..., 0]
    # what holds nothing spreads nothing, and lies behind all
    nothing = _empty(light)
    between = borders(float(np.abs(radius).max(initial=0)))
    radius = np.where(nothing, np.float32(np.inf), radius)
    hidden = behind(light, radius, between)
    return Picture(
        _spread(np.stack([light, hidden.light]), np.stack([radius, hidden.radius]), np.stack([np.ones_like(nothing), hidden.there]),
                between, shape, rim),
        own.window.grown(around), own.edge,
    )  # fmt: skip


def _empty(light: Values) -> NDArray[np.bool_]:
    return np.asarray(~light.any(axis=2))


def _padded(values: Values, around: int, on: tuple[bool, bool, bool, bool]) -> Values:
    """Values `[h, w, c]` with so many pixels around: as those at the border where the picture goes on, else nothing."""
    left, top, right, bottom = (around if side else 0 for side in on)
    goes_on = np.pad(values, ((top, bottom), (left, right), (0, 0)), mode="edge")
    return np.pad(goes_on, ((around - top, around - bottom), (around - left, around - right), (0, 0)))


def _spread(light: Values, radius: Values, there: NDArray[np.bool_], between: Values, shape: Aperture, rim: float) -> Values:
    endless = np.isinf(radius)
    size = np.rint(np.abs(np.where(endless, 0, radius)) * PER_PIXEL).astype(np.int32)
    most = np.where(there & (size > SHARP * PER_PIXEL), np.ceil(size / PER_PIXEL + 0.5), NONE).astype(np.int32)
    size = np.where(radius < 0, -2 - size, size)
    out = blank(*light.shape[1:])
    spread_discs(
        ready(light), ready(np.where(there, size, NONE), np.int32), ready(np.searchsorted(between, radius), np.int32), _by_blocks(most),
        *shape, len(between) + 1, int(SHARP * PER_PIXEL), 0, True, np.float32(rim), np.float32(RING), out,
    )  # fmt: skip
    np.minimum(out[..., 3], 1, out=out[..., 3])
    return out


def _by_blocks(values: NDArray[np.int32]) -> NDArray[np.int32]:
    """The largest of each `BLOCK` pixels of a row."""
    layers, height, width = values.shape
    blocks = np.full((layers, height, -(-width // BLOCK) * BLOCK), NONE, np.int32)
    blocks[..., :width] = values
    return np.ascontiguousarray(blocks.reshape(layers, height, -1, BLOCK).max(axis=3))
