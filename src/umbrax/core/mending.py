"""Putting right what a pass has wrong: bad light, indices and depths between two, a picture beside its place."""

import cv2
import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float32]
REACH = 2  # pixels on each side that take part
FIREFLY = 20.0  # light below this is never called a firefly
TIMES = 20.0  # and a firefly is this many times the median around it


def largest(values: Values) -> Values:
    """The largest channel of each pixel; numpy's own reduction over so short an axis takes ten times as long."""
    out = values[..., 0]
    for channel in range(1, values.shape[2]):
        out = np.maximum(out, values[..., channel])
    return out


def fireflies(values: Values) -> NDArray[np.bool_]:
    """Single bright pixels of `float32[h, w, c]`: finite light far above the median of 5 x 5."""
    light = largest(np.where(np.isfinite(values), values, 0))
    if light.max(initial=0) < FIREFLY:
        return np.zeros(light.shape, bool)
    around = cv2.medianBlur(np.ascontiguousarray(light), 2 * REACH + 1)
    return np.asarray((light > FIREFLY) & (light > TIMES * np.maximum(around, 0.1)))


def impossible(light: Values) -> NDArray[np.bool_]:
    """Pixels of `float32[h, w, c]` with a value that is not finite, below zero, or a firefly."""
    return np.asarray((~np.isfinite(light) | (light < 0)).any(axis=2) | fireflies(light))


def mended(light: Values) -> Values:
    """Light with impossible pixels replaced by the median of the possible ones in 5 x 5; 0 where there are none."""
    bad = impossible(light)
    if not bad.any():
        return light
    out = light.copy()
    for y, x in np.argwhere(bad):
        ys, xs = slice(max(0, y - REACH), y + REACH + 1), slice(max(0, x - REACH), x + REACH + 1)
        good = light[ys, xs][~bad[ys, xs]]
        out[y, x] = np.median(good, axis=0) if len(good) else 0
    return out


def by_majority(index: Values) -> Values:
    """An index pass `float32[h, w]` with whole numbers only: what lies between takes the commonest whole number in 5 x 5."""
    whole = np.abs(index - np.rint(index)) <= 1e-3
    out = np.rint(index)
    for y, x in np.argwhere(~whole):
        ys, xs = slice(max(0, y - REACH), y + REACH + 1), slice(max(0, x - REACH), x + REACH + 1)
        numbers, counts = np.unique(out[ys, xs][whole[ys, xs]], return_counts=True)
        if len(numbers):
            out[y, x] = numbers[counts.argmax()]
    return np.asarray(out, np.float32)


EDGE = 0.25  # relative difference of two depths from which an edge lies between them
STEEP = 0.7  # of what lies around, that an edge holds by itself
SNAP_REACH = 4  # pixels on each side that tell an edge from a slope
BETWEEN = 0.08  # the part of that difference, at either side, that still counts as the side


def snapped(depth: Values) -> Values:
    """Depth `float32[h, w]` in which no pixel lies between near and far: at an edge it takes the nearer in value of the two.

    Near and far are those of 5 x 5. They are an edge where 9 x 9 hold hardly more; on a slope they would hold twice as much.
    """
    whole = np.where(np.isfinite(depth), depth, np.float32(1e30))
    low, high = _least_and_most(whole, REACH)
    lower, higher = _least_and_most(whole, SNAP_REACH)
    gap = high - low
    edge = (gap > EDGE * np.maximum(np.abs(low), 1e-3)) & (gap > STEEP * (higher - lower))
    between = edge & (whole > low + BETWEEN * gap) & (whole < high - BETWEEN * gap)
    # the mean of a depth and infinity is far nearer to the depth, and belongs to neither
    endless = (high > 1e29) & (whole < 1e29) & (whole > 1.5 * np.abs(low) + 1)
    side = np.where((whole - low <= high - whole) & ~endless, low, high)
    return np.asarray(np.where(between | endless, np.where(side > 1e29, np.inf, side), depth), np.float32)


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


def shifted(values: Values, right: float, down: float) -> Values:
    """A picture `float32[h, w, c]` moved by any part of a pixel, bilinear; at the border its last pixels go on."""
    for axis, by in ((1, right), (0, down)):
        whole = int(np.floor(by))
        part = np.float32(by - whole)
        near = _moved(values, axis, whole)
        values = near if part == 0 else (1 - part) * near + part * _moved(values, axis, whole + 1)
    return np.ascontiguousarray(values, np.float32)


def _moved(values: Values, axis: int, by: int) -> Values:
    indices = np.clip(np.arange(values.shape[axis]) - by, 0, values.shape[axis] - 1)
    return np.take(values, indices, axis=axis)
