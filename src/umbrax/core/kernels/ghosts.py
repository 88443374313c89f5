"""Light put again somewhere else: each pixel mirrored at a point and put down on a coarse grid."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..picture import Window
from . import ready, row_kernel

Pixels = NDArray[np.float32]


@row_kernel("void(f4[:,:,::1], f8, f8, f8, f8, f8[::1], f8, i8, i8, f4[:,:,::1])")
def _mirror(light: Any, x0: Any, y0: Any, cx: Any, cy: Any, factors: Any, step: Any, left: Any, top: Any, out: Any) -> None:
    one = np.float32(1.0)
    for y in range(light.shape[0]):
        for x in range(light.shape[1]):
            for c in range(3):
                p = light[y, x, c]
                if p != 0:
                    k = factors[c]
                    gx, gy = (cx + k * (cx - (x0 + x))) / step - 0.5 - left, (cy + k * (cy - (y0 + y))) / step - 0.5 - top
                    i, j = np.int64(np.floor(gx)), np.int64(np.floor(gy))
                    fx, fy = np.float32(gx - i), np.float32(gy - j)
                    out[j, i, c] += p * (one - fy) * (one - fx)
                    out[j, i + 1, c] += p * (one - fy) * fx
                    out[j + 1, i, c] += p * fy * (one - fx)
                    out[j + 1, i + 1, c] += p * fy * fx


def mirrored(light: Pixels, at: Window, centre: tuple[float, float], factors: tuple[float, float, float], step: int) -> tuple[Pixels, Window]:
    """Light `[h, w, 3]` on the window `at`, each pixel p put at c + k (c - p) for its channel's factor k: the sum of what falls on each
    pixel of a grid of `step` pixels, and the window of the grid that holds it all."""
    ends = [
        (centre[axis] + k * (centre[axis] - end)) / step - 0.5
        for axis, low, high in ((0, at.x0 + 0.5, at.x1 - 0.5), (1, at.y0 + 0.5, at.y1 - 0.5))
        for k in factors
        for end in (low, high)
    ]
    xs, ys = ends[:6], ends[6:]
    window = Window(*(int(np.floor(min(one))) for one in (xs, ys)), *(int(np.floor(max(one))) + 2 for one in (xs, ys)))
    out = np.zeros((window.height, window.width, 3), np.float32)
    x0, y0 = at.x0 + 0.5, at.y0 + 0.5
    _mirror(ready(light), x0, y0, *centre, np.array(factors, np.float64), float(step), window.x0, window.y0, out)
    return out, window
