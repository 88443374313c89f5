"""A picture bent by a lens: where each pixel comes from, and what stands there."""

from typing import Any

import numpy as np
from numba import prange

from . import kernel
from .cubic import cubic_pixel


@kernel("void(f4[:,::1], f8, f8, f8, f8, f8, f8, f8, b1, f4[:,:,::1])", contract=True, four=True)
def bend(pixels: Any, x0: Any, y0: Any, cx: Any, cy: Any, unit: Any, k1: Any, k2: Any, goes_on: Any, out: Any) -> None:
    """out(c + p) = in(c + p (1 + k1 r^2 + k2 r^4)), r = |p| / unit; D. C. Brown, Decentering Distortion of Lenses, 1966, radial terms.

    RGBA, the rows of `pixels` laid flat. (`cx`, `cy`) is the centre in the pixels of `out`, `x0`, `y0` where `out` begins in those of
    `pixels`. Past the border it goes on or is empty. Alpha stays in 0..1.
    """
    zero, one, per = np.float32(0.0), np.float32(1.0), 1.0 / (unit * unit)
    for y in prange(np.int64(out.shape[0])):
        o, py = out[y], y + 0.5 - cy
        for x in range(np.uint64(o.shape[0])):
            px = np.float64(x) + 0.5 - cx
            r2 = (px * px + py * py) * per
            k = 1.0 + k1 * r2 + k2 * r2 * r2
            # of the first of the four taps
            u, v = cx + px * k + x0 - 1.5, cy + py * k + y0 - 1.5
            o[x, 0], o[x, 1], o[x, 2], alpha = cubic_pixel(pixels, u, v, goes_on, zero)
            o[x, 3] = alpha
            if (alpha > one) | (alpha < zero):
                o[x, 3] = one if alpha > one else zero
