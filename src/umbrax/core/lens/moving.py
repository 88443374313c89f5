"""A picture as a shutter shows it that stays open while things move."""

import math

import numpy as np
from numpy.typing import NDArray

from ..kernels import blank, ready
from ..kernels.behind import holds_nothing
from ..kernels.edge_light import told_by_light
from ..kernels.radii import surrounded
from ..kernels.spreading import spread_lines
from ..picture import Picture, Sides
from .behind import FARTHER, LEAST, nearest_behind, with_behind
from .spreading import by_blocks, padded

Values = NDArray[np.float32]
SLICES = 16  # of depth, that can lie in front of one another


def smeared(own: Picture, way: Values, order: Values, on: Sides) -> Picture:
    """RGBA with every pixel spread evenly along its `way` `float32[h, w, 2]` (right, down) in pixels, its place in the middle of it.

    `order` `float32[h, w]` rises with the distance, infinite where nothing stands; `on` says of which sides the picture goes on past
    its window, where it is cut off and does not end. Grown by how far anything is spread.
    """
    nothing = holds_nothing(own.pixels)
    place = _in_slices(order, nothing)
    told = told_by_light(own.pixels, place, LEAST, FARTHER)
    place, way = place.reshape(-1)[told], way.reshape(-1, 2)[told]
    way[nothing] = 0
    reach = math.ceil(float(np.abs(way).max(initial=0)) / 2) + 1
    light, place, _ = surrounded(own.pixels, place, reach, on)
    place, way = np.minimum(place, np.float32(SLICES + 1)), padded(way, reach, on)
    between = np.arange(1, SLICES + 1, dtype=np.float32)
    far = (np.hypot(way[..., 0], way[..., 1]) / 2).astype(np.float32, copy=False)
    found = nearest_behind(place, far, between)
    there = np.stack([np.ones(found.shape, np.bool_), found >= 0])
    ways = with_behind(way, found)
    most = np.where(there, np.ceil(np.abs(ways[..., 1]) / 2) + 1, -1).astype(np.int32)
    slices = np.minimum(place, SLICES).astype(np.int32)  # by the borders 1, 2, ...
    out = blank(*light.shape)
    spread_lines(
        ready(with_behind(light, found)), ready(ways), with_behind(slices, found),
        ready(there, np.uint8), by_blocks(most), SLICES + 1, reach, out,
    )  # fmt: skip
    np.minimum(out[..., 3], 1, out=out[..., 3])
    return Picture(out, own.window.grown(reach), own.edge)


def _in_slices(order: Values, nothing: NDArray[np.bool_]) -> Values:
    """An order in slices, from 0 to `SLICES`, by what there is; what is endless comes after all of them."""
    known = np.isfinite(order) & ~nothing
    low, high = float(order.min(where=known, initial=np.inf)), float(order.max(where=known, initial=-np.inf))
    step = max(high - low, 1e-3) / SLICES
    places: Values = (order - np.float32(low if known.any() else 0)) / np.float32(step)
    return np.minimum(places, np.float32(SLICES + 1))
