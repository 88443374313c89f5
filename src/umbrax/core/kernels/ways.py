"""Which way each pixel goes while a shutter is open, from a pass of motion."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part, ready
from .vectors import choose

Values = NDArray[np.float32]


@part
def _known(value: Any) -> Any:
    return choose(abs(value) < np.float32(np.inf), value, np.float32(0.0))


@kernel("void(f4[:,:,::1], f4[::1], f4, f4[:,:,::1], f4[:,::1])")
def _ways(motion: Any, turn: Any, most: Any, out: Any, length: Any) -> None:
    width, channels = motion.shape[1], motion.shape[2]
    a, b, d, e, one, least = turn[0], turn[1], turn[2], turn[3], np.float32(1.0), np.float32(1e-9)
    for y in prange(np.int64(motion.shape[0])):
        m, o, long = motion[y].reshape(channels * width), out[y].reshape(2 * width), length[y]
        for x in range(width):
            right, down = _known(m[channels * x]), _known(m[channels * x + 1])
            u, v = a * right + b * down, d * right + e * down
            far = np.sqrt(u * u + v * v)
            share = most / choose(far > least, far, least)
            share = choose(share < one, share, one)
            o[2 * x], o[2 * x + 1], long[x] = u * share, v * share, far


def ways_of(motion: Values, turn: Values, most: float) -> tuple[Values, Values]:
    """The first two channels of `float32[h, w, c]`, what is not finite counted as 0, times the 2 x 2 matrix `turn` `[4]`: ways `[h, w, 2]`
    (right, down), none longer than `most`, and how long `[h, w]` each was before."""
    out, length = blank(*motion.shape[:2], 2), blank(*motion.shape[:2])
    _ways(ready(motion), ready(turn), np.float32(most), out, length)
    return out, length
