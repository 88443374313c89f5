"""What lies behind what is nearer, where the picture does not show it: it is seen through the rim of what a lens spreads."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float32]
LEAST = 0.5  # pixels of radius by which something has to be farther to count as behind
FARTHER = 0.1  # and by which part of its radius
FIRST, TIMES, MORE = 0.5, 2.0, 1.0  # borders between slices of depth, in pixels of radius: r, 2 r + 1, ...


class Behind(NamedTuple):
    """Light and alpha `float32[h, w, 4]` and radius `float32[h, w]` of what is taken to lie behind, where `there`."""

    light: Values
    radius: Values
    there: NDArray[np.bool_]


def borders(most: float) -> Values:
    """Radii at which one slice of depth ends and the next begins, from the nearest to the farthest.

    Slices are what can lie in front of one another: thin where the picture is sharp, wider where it is not.
    """
    found = [FIRST]
    while found[-1] < most:
        found.append(found[-1] * TIMES + MORE)
    far = np.array(found, np.float32)
    return np.concatenate([-far[::-1], far])


def behind(light: Values, radius: Values, between: Values) -> Behind:
    """For each pixel near something farther the nearest pixel that is farther: its light and how far that is spread.

    `between` are the borders of the slices. Only as far as it can be seen: what is nearer is spread over it, or it over what is nearer.
    """
    height, width = radius.shape
    found, out = np.full(radius.shape, -1, np.int64), np.zeros_like(light)
    size = np.abs(radius)
    own = radius + np.maximum(np.float32(LEAST), np.float32(FARTHER) * size)
    low, high = float(radius.min()), float(radius.max())
    before = -np.inf
    for border in between[(between > low) & (between < high)]:
        mine = (own <= border) & (own > before)
        before = border
        if not mine.any():
            continue
        farther = radius >= border
        distance, label = cv2.distanceTransformWithLabels((~farther).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
        place = np.zeros(int(label.max()) + 1, np.int64)
        place[label[farther]] = np.flatnonzero(farther)
        ys, xs = np.nonzero(mine)
        nearest = place[label[ys, xs]]
        seen = distance[ys, xs] <= np.maximum(size[ys, xs], size.reshape(-1)[nearest]) + 1.5
        found[ys[seen], xs[seen]] = nearest[seen]
    there = found >= 0
    out[there] = light.reshape(height * width, 4)[found[there]]
    return Behind(out, np.where(there, radius.reshape(-1)[found], 0).astype(np.float32), there)
