"""Scene-linear light to 8-bit display values by a table over the bits of the float."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, ready

# 10 mantissa bits over 2^-14 .. 1: a step is at most 1/2048 of the value, far below half an 8-bit code
SHIFT, LOWEST = 13, 113 << 10
ENTRIES = (127 << 10) - LOWEST + 1


@kernel("void(f4[:,:,::1], f4, u1[::1], u1[:,:,::1])")
def _to_eight_bits(pixels: Any, gain: Any, table: Any, out: Any) -> None:
    low, one = np.float32(6.103515625e-05), np.float32(1.0)
    channels = pixels.shape[2]
    for y in prange(np.int64(out.shape[0])):
        p, o = pixels[y], out[y]
        for x in range(o.shape[0]):
            for c in range(3):
                v = p[x, c if channels > 2 else 0] * gain
                lit = v if v > low else low  # NaN falls to black as well
                limited = lit if lit < one else one
                o[x, c] = table[(np.float32(limited).view(np.int32) >> SHIFT) - LOWEST]


def middle_values() -> NDArray[np.float64]:
    """The light value in the middle of each table entry, to be encoded once by whoever makes the table."""
    bits = (np.arange(ENTRIES, dtype=np.int64) + LOWEST) << SHIFT
    bits[:-1] += 1 << (SHIFT - 1)
    return bits.astype(np.int32).view(np.float32).astype(np.float64)


def eight_bits(pixels: NDArray[np.float32], gain: float, table: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """`uint8[h, w, 3]` for looking: light x gain, limited to 0..1, through the table; one channel shows as grey."""
    out = np.empty((*pixels.shape[:2], 3), np.uint8)
    _to_eight_bits(ready(pixels), np.float32(gain), table, out)
    return out
