"""What lies behind what is nearer, where the picture does not show it: it is seen through the rim of what a lens spreads."""

import math
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import cv2
import numpy as np
from numba import get_num_threads
from numpy.typing import NDArray

from ..kernels.behind import extents, find_nearest

Values = NDArray[np.float32]
LEAST = 0.5  # pixels of radius by which something has to be farther to count as behind
NEXT = 1.5  # pixels more than it is spread by within which it is sought
FARTHER = 0.1  # and by which part of its radius
FIRST, TIMES, MORE = 0.5, 2.0, 1.0  # borders between slices of depth, in pixels of radius: r, 2 r + 1, ...


def borders(most: float) -> Values:
    """Radii at which one slice of depth ends and the next begins, from the nearest to the farthest.

    Slices are what can lie in front of one another: thin where the picture is sharp, wider where it is not.
    """
    found = [FIRST]
    while found[-1] < most:
        found.append(found[-1] * TIMES + MORE)
    far = np.array(found, np.float32)
    return np.concatenate([-far[::-1], far])


def nearest_behind(order: Values, size: Values, between: Values) -> NDArray[np.int64]:
    """For each pixel near something that is farther which pixel of that is next to it, counted row by row; -1 where there is none.

    `order` `float32[h, w]` rises with the distance, `between` are the borders of slices in it, `size` is how far pixels are spread: what
    is hidden is only sought as far as it can be seen, where what is nearer is spread over it, or it over what is nearer.
    """
    found = np.full(order.shape, -1, np.int64)
    low, high = float(order.min()), float(order.max())
    used = between[(between > low) & (between < high)]
    reach = math.ceil(float(size.max(initial=0)) + NEXT) + 1

    def of_slice(before: float, border: float, extent: tuple[int, int, int, int]) -> None:
        top, left = max(0, extent[0] - reach), max(0, extent[1] - reach)
        near = order[top : extent[2] + reach, left : extent[3] + reach]
        farther = np.flatnonzero(near >= np.float32(border))
        if not farther.size:
            return
        distance, label = cv2.distanceTransformWithLabels(
            (near < np.float32(border)).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
        )
        find_nearest(
            (before, border), order, size, (top, left), np.asarray(distance), np.asarray(label), farther, (LEAST, FARTHER), NEXT, found
        )  # fmt: skip

    slices = zip([-np.inf, *used.tolist()], used.tolist(), extents(order, (LEAST, FARTHER), used), strict=False)
    with ThreadPoolExecutor(get_num_threads()) as threads:  # distances are measured on one processor; no slice looks at another
        list(threads.map(lambda one: of_slice(*one), [one for one in slices if one[2][2]]))
    return found


def with_behind(values: NDArray[Any], found: NDArray[np.int64]) -> NDArray[Any]:
    """Values `[h, w, ...]` as two layers `[2, h, w, ...]`: what is seen, and what was found behind it, 0 where nothing was."""
    out = np.zeros((2, *values.shape), values.dtype)
    out[0] = values
    at = np.flatnonzero(found >= 0)
    out[1].reshape(-1, *values.shape[2:])[at] = values.reshape(-1, *values.shape[2:])[found.reshape(-1)[at]]
    return out
