"""Rows of a picture cut into runs: neighbours that a lens spreads alike, to the same size, in the same slice of depth."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part, ready
from .vectors import choose

Values = NDArray[np.float32]
NONE = -1  # the size of what is not there
FOUR, EIGHT = 4.0, 8.0  # pixels of radius from which on sizes come in twice and in four times as large steps: neighbours then have the same


@part
def _sized(radius: Any, between: Any, per_pixel: Any, code: Any, slices: Any) -> None:
    """Of each pixel of a row the step of its size, negative ones from -2 down in front of what is sharp, and its slice."""
    half, one, two, four = np.float32(0.5), np.float32(1.0), np.float32(2.0), np.float32(4.0)
    for x in range(radius.shape[0]):
        r = radius[x]
        far = choose(abs(r) < np.float32(1e30), abs(r), np.float32(0.0))  # what is infinitely far stays in its pixel
        step = choose(far < np.float32(FOUR), one, choose(far < np.float32(EIGHT), two, four))
        k = np.int32(np.int32(far * per_pixel / step + half) * np.int32(step))
        code[x] = choose(r < np.float32(0.0), np.int32(-2) - k, k)
        slices[x] = np.int32(0)
    for border in range(between.shape[0]):
        b = between[border]
        for x in range(radius.shape[0]):
            slices[x] += choose(b < radius[x], np.int32(1), np.int32(0))


@kernel("void(f4[:,:,::1], f4[:,::1], i8[:,::1], f4[::1], f4, f4[:,:,::1], i4[:,:,:,::1], i4[:,::1], i4[:,::1])")
def _cut(light: Any, radius: Any, found: Any, between: Any, per_pixel: Any, back: Any, runs: Any, counts: Any, most: Any) -> None:
    height, width = radius.shape
    flat, lights = radius.reshape(height * width), light.reshape(4 * height * width)
    for y in prange(np.int64(height)):
        code, slices, behind = np.empty(width, np.int32), np.empty(width, np.int32), np.zeros(width, np.float32)
        for layer in range(2):
            if layer == 0:
                _sized(radius[y], between, per_pixel, code, slices)
            else:
                any_there = False
                for x in range(width):
                    at = found[y, x]
                    if at >= 0:
                        any_there = True
                        behind[x] = flat[at]
                        for c in range(4):
                            back[y, x, c] = lights[4 * at + c]
                if any_there:
                    _sized(behind, between, per_pixel, code, slices)
                    for x in range(width):
                        if found[y, x] < 0:
                            code[x], slices[x] = NONE, 0
                else:
                    code[:], slices[:] = np.int32(NONE), np.int32(0)
            last, last_slice, count, farthest = np.int32(NONE - 100), np.int32(-1), 0, np.int32(NONE)
            for x in range(width):
                if code[x] != last or slices[x] != last_slice:
                    last, last_slice = code[x], slices[x]
                    runs[layer, y, count, 0], runs[layer, y, count, 1], runs[layer, y, count, 2] = x, last, last_slice
                    count += 1
                    farthest = max(farthest, last if last >= NONE else np.int32(-2) - last)
            runs[layer, y, count, 0] = width
            counts[layer, y], most[layer, y] = count, farthest


Runs = tuple[Values, NDArray[np.int32], NDArray[np.int32], NDArray[np.int32]]


def runs_of(light: Values, radius: Values, found: NDArray[np.int64], between: Values, per_pixel: int) -> Runs:
    """What is seen, RGBA `float32[h, w, 4]` with its `radius` in pixels, and what was `found` behind it by the numbers of its pixels,
    row by row, as what is spread: the light of what is behind; and of both layers the runs of each row, how many these are, and the
    largest size in it.

    A run is where it begins, its size in steps of 1 / `per_pixel` of a pixel, from -2 down where its aperture is upside down, `NONE` where
    nothing is, and its slice by the borders `between`. After the last one stands the width.
    """
    height, width = radius.shape
    back, runs = blank(height, width, 4), np.empty((2, height, width + 1, 3), np.int32)
    counts, most = np.empty((2, height), np.int32), np.empty((2, height), np.int32)
    _cut(ready(light), ready(radius), found, ready(between), np.float32(per_pixel), back, runs, counts, most)
    return back, runs, counts, most
