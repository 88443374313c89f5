"""Impossible light: what is not finite, below zero, or a single pixel far too bright."""

import cv2
import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float32]
REACH = 2  # pixels on each side that take part
FIREFLY = 20.0  # light below this is never taken for a firefly
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
    with np.errstate(over="ignore"):  # so many times the largest floats are infinite, and nothing is above that
        return np.asarray((light > FIREFLY) & (light > TIMES * np.maximum(around, 0.1)))


def impossible(light: Values) -> NDArray[np.bool_]:
    """Pixels of `float32[h, w, c]` with a value that is not finite, below zero, or a firefly."""
    return np.asarray((~np.isfinite(light) | (light < 0)).any(axis=2) | fireflies(light))


def repaired(light: Values) -> Values:
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
