"""A picture bent by a lens: where each pixel comes from, and what stands there."""

from typing import Any

import numpy as np
from numba import prange

from . import kernel
from .cubic import cubic_taps


@kernel("void(f4[:,:,::1], f8, f8, f8, f8, f8, f8, f8, b1, f4[:,:,::1])")
def bend(pixels: Any, x0: Any, y0: Any, cx: Any, cy: Any, unit: Any, k1: Any, k2: Any, goes_on: Any, out: Any) -> None:
    """out(c + p) = in(c + p (1 + k1 r^2 + k2 r^4)), r = |p| / unit; D. C. Brown, Decentering Distortion of Lenses, 1966, radial terms.

    (`cx`, `cy`) is the centre in the pixels of `out`, `x0`, `y0` where `out` begins in those of `pixels`. Past the border it goes on or
    is empty. The fourth channel stays in 0..1.
    """
    height, width, channels = pixels.shape
    zero, one = np.float32(0.0), np.float32(1.0)
    for y in prange(np.int64(out.shape[0])):
        for x in range(out.shape[1]):
            px, py = x + 0.5 - cx, y + 0.5 - cy
            r2 = (px * px + py * py) / (unit * unit)
            k = 1.0 + k1 * r2 + k2 * r2 * r2
            sx, sy = cx + px * k + x0 - 0.5, cy + py * k + y0 - 0.5
            ix, iy = np.int64(np.floor(sx)), np.int64(np.floor(sy))
            wx, wy = cubic_taps(np.float32(sx - ix)), cubic_taps(np.float32(sy - iy))
            for c in range(channels):
                total = zero
                for j in range(4):
                    v, row = iy + j - 1, zero
                    if not goes_on and (v < 0 or v >= height):
                        continue
                    v = min(max(v, np.int64(0)), np.int64(height - 1))
                    for i in range(4):
                        u = ix + i - 1
                        if goes_on or (u >= 0 and u < width):
                            row += wx[i] * pixels[v, min(max(u, np.int64(0)), np.int64(width - 1)), c]
                    total += wy[j] * row
                out[y, x, c] = min(max(total, zero), one) if c == 3 else total
