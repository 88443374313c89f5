"""Sums along a straight line through every pixel."""

import math
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, ready

Pixels = NDArray[np.float32]
TAIL = 2.0  # lengths that an exponential goes on for


@kernel("void(f4[:,:,::1], i8[:,::1], f4[::1], i8, i8, f4[:,:,::1])")
def _summed(pixels: Any, offsets: Any, weights: Any, x0: Any, y0: Any, out: Any) -> None:
    width, channels = out.shape[1], out.shape[2]
    count = width * channels
    for y in prange(np.int64(out.shape[0])):
        o = out[y].reshape(count)
        o[:] = np.float32(0.0)
        for n in range(offsets.shape[0]):
            start = (x0 + offsets[n, 0]) * channels
            row = pixels[y0 + y + offsets[n, 1]].reshape(pixels.shape[1] * channels)[start : start + count]
            w = weights[n]
            for x in range(count):
                o[x] += w * row[x]


def taps(length: float, angle: float, both: bool, exponential: bool) -> tuple[NDArray[np.int64], NDArray[np.float32]]:
    """Where each pixel gets its light from, as whole pixels (right, down), and how much; the weights add up to 1.

    Light goes from a pixel along `angle`, degrees counter-clockwise; so it comes from the other side. Along the axis that the line
    is nearer to it is summed exactly over each pixel, across it linearly between two.
    """
    dx, dy = math.cos(math.radians(angle)), -math.sin(math.radians(angle))
    flat = abs(dx) >= abs(dy)
    along, across = (dx, dy) if flat else (dy, dx)
    step = 1 / abs(along)  # length of the line in a pixel of the long axis
    half = length / 2 if both else length
    far = half * (TAIL if exponential else 1.0)
    last = math.ceil(far / step + 0.5)
    edges = (np.arange(-last if both else 0, last + 1) - 0.5) * step
    begin, end = np.clip(edges, 0 if not both else -far, far), np.clip(edges + step, 0 if not both else -far, far)
    if not both:
        # the pixel itself holds the first half of its own cell and what would lie before it
        begin[0] = 0.0
    if exponential:
        rate = 3 / max(half, 1e-6)

        def held(s: NDArray[np.float64]) -> NDArray[np.float64]:
            return np.asarray(np.sign(s) * (1 - np.exp(-rate * np.abs(s))))

        weight = held(end) - held(begin)
    else:
        weight = end - begin
    places = np.arange(-last if both else 0, last + 1)
    slope = across / abs(along) * places
    floor = np.floor(slope)
    sign = 1 if along > 0 else -1
    offsets: list[tuple[int, int]] = []
    weights: list[float] = []
    for place, low, part, w in zip(places, floor, slope - floor, weight, strict=True):
        for cross, share in ((low, 1 - part), (low + 1, part)):
            if w * share > 0:
                # from where it comes: against the way it goes
                long, short = -int(sign * place), -int(cross)
                offsets.append((long, short) if flat else (short, long))
                weights.append(w * share)
    total = sum(weights)
    if total <= 0:
        return np.zeros((1, 2), np.int64), np.ones(1, np.float32)
    return np.array(offsets, np.int64), (np.array(weights) / total).astype(np.float32)


def smeared(pixels: Pixels, origin: tuple[int, int], size: tuple[int, int], offsets: NDArray[np.int64], weights: Pixels) -> Pixels:
    """The pixels `float32[h, w, c]` summed over offsets, on (height, width) pixels from (x, y) of them on."""
    out = blank(*size, pixels.shape[2])
    _summed(ready(pixels), np.ascontiguousarray(offsets), ready(weights), origin[0], origin[1], out)
    return out
