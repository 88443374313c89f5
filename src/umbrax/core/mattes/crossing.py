"""Crossing mattes of several layers, such as an object with a material: what of it is nothing but borders they share.

Coverages of two layers tell how much of a pixel each holds, not how much of it both hold at once. By the bounds of Frechet for
two events, what both hold lies between max(0, a + b - total) and min(a, b); the crossed matte is the latter. Where an object that
is not of brass stands beside brass, the rim that they share is min(a, b) > 0 although nothing there is both.
"""

from functools import reduce

import cv2
import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.float32]
NEAR = 2  # pixels: a rim of what is surely both lies so close to it


def border_leak(coverages: list[Plane], totals: list[Plane]) -> float:
    """The part of a crossed matte, 0..1, that lies away from everything that is surely in all of its mattes.

    `coverages` and the sums of their layers `totals` are `float32[h, w]` each.
    """
    crossed = reduce(np.minimum, coverages)
    area = float(crossed.sum())
    if area <= 0:
        return 0.0
    total = reduce(np.maximum, totals)
    sure = reduce(np.add, coverages) - (len(coverages) - 1) * total
    size = 2 * NEAR + 1
    near = cv2.dilate((sure > 0.5).astype(np.uint8), np.ones((size, size), np.uint8)) > 0
    # what is surely both is there by itself, however thin
    loose = np.where(near, 0, crossed - np.clip(sure, 0, crossed))
    return float(loose.sum()) / area
