"""Light of which nothing is brighter than a limit, and light that is laid where a rim is."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part, ready
from .vectors import choose

Pixels = NDArray[np.float32]
Plane = NDArray[np.float32]


@part
def _larger(a: Any, b: Any) -> Any:
    return choose(a > b, a, b)


@part
def _limited(r: Any, g: Any, b: Any, most: Any, weight: Any) -> Any:
    """What is left of a pixel without negatives."""
    share = most / _larger(_larger(_larger(r, g), b), np.float32(1e-20))
    return choose(share < np.float32(1.0), share, np.float32(1.0)) * weight


@kernel("void(f4[:,:,::1], f4[:,::1], f4, f4[:,:,::1])")
def _limit(light: Any, weight: Any, most: Any, out: Any) -> None:
    zero = np.float32(0.0)
    channels, to, width = light.shape[2], out.shape[2], light.shape[1]
    for y in prange(np.int64(light.shape[0])):
        p, o, w = light[y].reshape(width * channels), out[y].reshape(width * to), weight[y]
        if channels == 4 and to == 4:  # written out for what is usual, and alpha looked at, so that neighbours are done at once
            for x in range(width):
                i = 4 * x
                r, g, b = _larger(p[i], zero), _larger(p[i + 1], zero), _larger(p[i + 2], zero)
                share = _limited(r, g, b, most, w[x])
                o[i], o[i + 1], o[i + 2], o[i + 3] = r * share, g * share, b * share, zero * p[i + 3]
            continue
        for x in range(width):
            i, j = channels * x, to * x
            r, g, b = _larger(p[i], zero), _larger(p[i + 1], zero), _larger(p[i + 2], zero)
            share = _limited(r, g, b, most, w[x])
            o[j], o[j + 1], o[j + 2] = r * share, g * share, b * share
            if to == 4:
                o[j + 3] = zero


def limited(light: Pixels, most: float, weight: Pixels | None = None, channels: int = 3) -> Pixels:
    """Light `[h, w, 3 or 4]` without negatives, its largest channel at most so much, in its own colour, x a weight `[h, w]`.

    Of four `channels` the last is 0: so many are blurred faster than three.
    """
    out = blank(*light.shape[:2], channels)
    everywhere = np.ones(light.shape[:2], np.float32) if weight is None else ready(weight)
    _limit(ready(light), everywhere, np.float32(most), out)
    return out


@kernel("void(f4[:,:,::1], f4[:,::1], b1, f4[:,:,::1])")
def _on_rim(light: Any, rim: Any, bright: Any, out: Any) -> None:
    one, width = np.float32(1.0), light.shape[1]
    for y in prange(np.int64(light.shape[0])):
        p, m, o = light[y].reshape(width * 4), rim[y], out[y].reshape(width * 4)
        for x in range(width):
            i = 4 * x
            r, g, b = p[i] * m[x], p[i + 1] * m[x], p[i + 2] * m[x]
            o[i], o[i + 1], o[i + 2], o[i + 3] = r, g, b, choose(bright, min(max(r, max(g, b)), one), m[x])


def on_rim(light: Pixels, rim: Pixels, by_brightness: bool) -> Pixels:
    """Light `[h, w, 4]` x a rim `[h, w]` as RGBA; its alpha is the rim, or how bright it is there, so that black is laid nowhere."""
    out = blank(*light.shape)
    _on_rim(ready(light), ready(rim), by_brightness, out)
    return out


@kernel("void(f4[:,::1], f4[:,::1], f4, f4[:,::1])")
def _rim(inside: Any, solid: Any, width: Any, out: Any) -> None:
    zero, one, two, three = np.float32(0.0), np.float32(1.0), np.float32(2.0), np.float32(3.0)
    for y in prange(np.int64(inside.shape[0])):
        d, s, o = inside[y], solid[y], out[y]
        for x in range(d.shape[0]):
            t, fall = two * s[x] - one, one - choose(d[x] > zero, d[x], zero) / width
            t, fall = choose(t > zero, t, zero), choose(fall > zero, fall, zero)
            t = choose(t < one, t, one)
            o[x] = fall * t * t * (three - two * t)


def rim_inside(distance: Plane, solid: Plane, width: float) -> Plane:
    """max(0, 1 - distance inside / width) `[h, w]`, faded out, 3 t^2 - 2 t^3, where what is `solid` is only half so or less."""
    out = np.empty_like(distance)
    _rim(ready(distance), ready(solid), np.float32(width), out)
    return out
