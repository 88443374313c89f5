"""Noise that is the same for the same place, seed and frame, whatever window is asked for.

Bits come from a permuted congruential generator's output function (M. E. O'Neill, PCG, 2014) used as a hash, as M. Jarzynski and
M. Olano (Hash Functions for GPU Rendering, 2020) propose.
"""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..colour import LUMA_BT709
from . import blank, kernel, part, ready
from .powers import power
from .vectors import choose

Pixels = NDArray[np.float32]


@part
def _hashed(value: Any) -> Any:
    state = np.uint32(np.uint32(value) * np.uint32(747796405) + np.uint32(2891336453))
    word = np.uint32(np.uint32((state >> np.uint32(np.uint32(state >> np.uint32(28)) + np.uint32(4))) ^ state) * np.uint32(277803737))
    return np.uint32((word >> np.uint32(22)) ^ word)


@part
def _normal(bits: Any) -> Any:
    """The sum of six 10-bit uniform numbers, of mean 0 and deviation 1: normal but for what is beyond four deviations."""
    low = np.uint32(1023)
    one = _hashed(bits)
    two = _hashed(one)
    total = np.int32(one & low) + np.int32((one >> np.uint32(10)) & low) + np.int32((one >> np.uint32(20)) & low)
    total += np.int32(two & low) + np.int32((two >> np.uint32(10)) & low) + np.int32((two >> np.uint32(20)) & low)
    return (np.float32(total) - np.float32(3069.0)) * np.float32(1.0 / (np.sqrt(0.5) * 1024.0))


@kernel("void(i8, i8, u4, f4, f4, f4[:,:,::1])")
def _alike(x0: Any, y0: Any, seed: Any, shared: Any, own: Any, out: Any) -> None:
    apart, width = np.uint32(2654435769), out.shape[1]
    for y in prange(np.int64(out.shape[0])):
        row, o = _hashed(np.uint32(np.uint32(y0 + y) ^ seed)), out[y].reshape(3 * width)
        for x in range(width):
            place = np.uint32(_hashed(np.uint32(np.uint32(x0 + x) + row)))
            every = shared * _normal(place)
            o[3 * x] = every + own * _normal(np.uint32(place + apart))
            o[3 * x + 1] = every + own * _normal(np.uint32(place + np.uint32(2) * apart))
            o[3 * x + 2] = every + own * _normal(np.uint32(place + np.uint32(3) * apart))


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4, f4[::1], f4[:,:,::1])")
def _add_grain(pixels: Any, grain: Any, response: Any, luma: Any, out: Any) -> None:
    zero, one, width = np.float32(0.0), np.float32(1.0), pixels.shape[1]
    for y in prange(np.int64(pixels.shape[0])):
        p, n, o = pixels[y].reshape(4 * width), grain[y].reshape(3 * width), out[y].reshape(4 * width)
        for x in range(width):
            i, j = 4 * x, 3 * x
            r, g, b, alpha = p[i], p[i + 1], p[i + 2], p[i + 3]
            share = alpha
            if response > zero:
                bright = luma[0] * r + luma[1] * g + luma[2] * b
                bright = choose(bright > zero, bright, zero) / choose(alpha > zero, alpha, one) * np.float32(1 / 0.18)
                share = alpha * power(bright, response, zero)
            o[i], o[i + 1], o[i + 2], o[i + 3] = r + n[j] * share, g + n[j + 1] * share, b + n[j + 2] * share, alpha


def with_grain(pixels: Pixels, grain: Pixels, response: float, luma: tuple[float, float, float] = LUMA_BT709) -> Pixels:
    """RGBA `float32[h, w, 4]` plus grain `[h, w, 3]` x alpha x (luma / 0.18)^response, of the colour without its alpha."""
    out = blank(*pixels.shape)
    _add_grain(ready(pixels), ready(grain), np.float32(response), np.array(luma, np.float32), out)
    return out


def alike(x0: int, y0: int, width: int, height: int, shared: float, own: float, seed: int) -> Pixels:
    """Normal numbers of mean 0 for the pixels from (x0, y0) on, `float32[height, width, 3]`: `shared` of one for all channels and `own`
    of one for each, each of which has a deviation of 1."""
    out = blank(height, width, 3)
    _alike(x0, y0, np.uint32(seed & 0xFFFFFFFF), np.float32(shared), np.float32(own), out)
    return out


def mixed_seed(*numbers: int) -> int:
    """One seed of several whole numbers: neighbours among them lie far apart."""
    value = 0x9E3779B9
    for one in numbers:
        value = ((value ^ (one & 0xFFFFFFFF)) * 0x85EBCA6B + 0xC2B2AE35) & 0xFFFFFFFF
        value ^= value >> 15
    return value
