"""Depth that was smoothed between near and far, or measured along the ray."""

import cv2
import numpy as np
from numpy.typing import NDArray

from ..kernels import ready
from ..kernels.edges import depth_by_ids, snap
from ..picture import Edge, Picture, Window
from ..pictures.data_values import is_nothing

Values = NDArray[np.float32]
REACH = 2  # pixels on each side that near and far are taken from
EDGE = 0.25  # relative difference of two depths from which an edge lies between them
STEEP = 0.7  # of what lies around, that an edge holds by itself
SNAP_REACH = 4  # pixels on each side that tell an edge from a slope
RIM = 2  # pixels from which a rim takes its depth whose middle saw nothing
SEEN = 0.02  # of a pixel from which a thing counts in it
ALONE = 0.98  # and from which it has it to itself
BETWEEN = 0.08  # the part of that difference, at either side, that still counts as the side


def snapped(depth: Values) -> Values:
    """Depth `float32[h, w]` in which no pixel lies between near and far: at an edge it takes the nearer in value of the two.

    Near and far are those of 5 x 5. They are an edge where 9 x 9 hold hardly more; on a slope they would hold twice as much.
    """
    whole = np.where(np.isfinite(depth), depth, np.float32(1e30))
    return snap(depth, _least_and_most(whole, REACH), _least_and_most(whole, SNAP_REACH), EDGE, STEEP, BETWEEN)


def _least_and_most(values: Values, reach: int) -> tuple[Values, Values]:
    around = np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)
    return np.asarray(cv2.erode(values, around)), np.asarray(cv2.dilate(values, around))


def axis_depth(depth: Values, offsets: tuple[float, float], focal_px: float) -> Values:
    """Distance along the ray `float32[h, w]` as distance along the axis: `d / sqrt(1 + (x^2 + y^2) / f^2)`, by Pythagoras.

    `offsets` are x and y of the first pixel's centre from the centre of the picture, in pixels, as is the focal length.
    """
    height, width = depth.shape
    x = (np.arange(width) + offsets[0]) / focal_px
    y = (np.arange(height) + offsets[1]) / focal_px
    return np.asarray(depth / np.sqrt(1 + x[None, :] ** 2 + y[:, None] ** 2), np.float32)


def known_depth(z: Values) -> Values:
    """Depth with infinity where nothing is; a pixel whose middle saw nothing beside one that saw something is at its rim."""
    far = np.where(is_nothing(z), np.float32(np.inf), z)
    if not far.size:
        return far
    beside = cv2.erode(far, np.ones((2 * RIM + 1, 2 * RIM + 1), np.uint8), borderType=cv2.BORDER_REPLICATE)
    return np.where(np.isfinite(far), far, beside)


def depth_on(depth: Picture, window: Window) -> Values:
    """Depth `float32[h, w]` on a window of a picture of it: as a distance, and infinite where nothing stands or nothing is known."""
    edge: Edge = "extend" if depth.edge == "extend" and not depth.window.empty else "far"
    z = Picture(depth.pixels, depth.window, edge).crop(window).pixels[..., 0]
    return np.where(is_nothing(z), np.float32(np.inf), np.abs(z))


def by_ids(depth: Values, ids: NDArray[np.uint32], coverage: Values) -> Values:
    """Depth `float32[h, w]` in which a pixel that several things share has the depth of the nearest of them.

    `ids` and `coverage` are the ranks `[rank, h, w]` of an ID layer. A renderer that filters depth, or looks at the middle of a pixel
    only, gives a depth there that is that of none of them, or of the one behind.
    """
    out = np.empty_like(depth)
    depth_by_ids(ready(depth), ids, coverage, np.float32(SEEN), np.float32(ALONE), out)
    return out
