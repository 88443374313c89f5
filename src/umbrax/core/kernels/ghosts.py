"""Light put again somewhere else: each point mirrored at a centre and put down on a coarse grid."""

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..picture import Window
from . import ready, row_kernel
from .points import Points

Pixels = NDArray[np.float32]


@row_kernel("void(f8[::1], f8[::1], f4[:,::1], f8, f8, f8[::1], f8, i8, i8, f8, f8, f4[:,:,::1])")
def _put(xs: Any, ys: Any, light: Any, cx: Any, cy: Any, factors: Any, step: Any, left: Any, top: Any, fade: Any, far: Any,
         out: Any) -> None:  # fmt: skip
    one = np.float32(1.0)
    for n in range(light.shape[0]):
        for c in range(3):
            k, p = factors[c], light[n, c]
            if fade > 0:
                d = min(abs(k) * np.hypot(cx - xs[n], cy - ys[n]) / far, 1.0)
                p *= np.float32(1.0 - fade * d * d * (3.0 - 2.0 * d))
            gx, gy = (cx + k * (cx - xs[n])) / step - 0.5, (cy + k * (cy - ys[n])) / step - 0.5
            i, j = np.int64(np.floor(gx)), np.int64(np.floor(gy))
            fx, fy = np.float32(gx - i), np.float32(gy - j)
            at, below = out[j - top], out[j - top + 1]
            i -= left
            at[i, c] += p * (one - fy) * (one - fx)
            at[i + 1, c] += p * (one - fy) * fx
            below[i, c] += p * fy * (one - fx)
            below[i + 1, c] += p * fy * fx


def mirrored(
    points: Points, centre: tuple[float, float], factors: tuple[float, float, float], step: int, fade: float, far: float
) -> tuple[Pixels, Window]:  # fmt: skip
    """Points of light, each p put at c + k (c - p) for its channel's factor k: the sum of what falls on each pixel of a grid of `step`
    pixels, and the window of the grid that holds it all. Of one that falls x `far` from the centre 1 - fade x^2 (3 - 2 x) is left,
    from there on 1 - fade."""
    low, high = [], []
    for middle, places in zip(centre, (points.x, points.y), strict=True):
        ends = [(middle + k * (middle - end)) / step - 0.5 for k in factors for end in (float(places.min()), float(places.max()))]
        low.append(math.floor(min(ends)))
        high.append(math.floor(max(ends)) + 2)
    window = Window(low[0], low[1], high[0], high[1])
    out = np.zeros((window.height, window.width, 3), np.float32)
    _put(points.x, points.y, ready(points.light), *centre, np.array(factors, np.float64), float(step), window.x0, window.y0,
         float(fade), float(far), out)  # fmt: skip
    return out, window
