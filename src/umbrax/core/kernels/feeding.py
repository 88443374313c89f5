"""The feed of spreading light: what is above a soft threshold, in its own colour."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, ready
from .vectors import choose


@kernel("void(f4[:,:,::1], f4, f4, f4, f4[:,:,::1])")
def _feed(pixels: Any, threshold: Any, knee: Any, limit: Any, out: Any) -> None:
    zero, tiny = np.float32(0.0), np.float32(1e-20)
    half_width = threshold * knee
    quarter = np.float32(0.25) / max(half_width, tiny)
    width = pixels.shape[1]
    for y in prange(np.int64(pixels.shape[0])):
        p, o = pixels[y].reshape(width * 4), out[y].reshape(width * 3)
        for x in range(width):
            i, j = 4 * x, 3 * x
            r, g, b = max(p[i], zero), max(p[i + 1], zero), max(p[i + 2], zero)
            peak = max(r, max(g, b))
            above = peak - threshold
            soft = max(above + half_width, zero)
            fed = choose(above >= half_width, above, soft * soft * quarter)
            share = min(fed, limit) / max(peak, tiny)
            o[j], o[j + 1], o[j + 2] = r * share, g * share, b * share


def feed_light(pixels: NDArray[np.float32], threshold: float, knee: float, limit: float) -> NDArray[np.float32]:
    """x softknee(p) / p with p = max RGB: 0 below threshold (1 - knee), p - threshold above threshold (1 + knee).

    Between them a parabola joins both without a corner. Negatives feed nothing; the fed peak is at most `limit`.
    """
    out = blank(*pixels.shape[:2], 3)
    _feed(ready(pixels), np.float32(threshold), np.float32(knee), np.float32(limit), out)
    return out
