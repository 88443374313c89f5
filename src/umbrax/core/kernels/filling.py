"""Replacing what is not known by what surrounds it: pushed down a pyramid and pulled up again."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Window
from . import blank, kernel, ready
from .octaves import Octaves
from .pyramid import MARGIN, down

Pixels = NDArray[np.float32]


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def _weighted(pixels: Any, known: Any, out: Any) -> None:
    channels = pixels.shape[2]
    for y in prange(np.int64(out.shape[0])):
        p, k, o = pixels[y], known[y], out[y]
        for x in range(o.shape[0]):
            for c in range(channels):
                o[x, c] = p[x, c] * k[x, 0]
            o[x, channels] = k[x, 0]


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def _pulled(fine: Any, enlarged: Any, out: Any) -> None:
    """What is known divided by how much, mixed by that with what comes from the coarser level."""
    zero, one, least = np.float32(0.0), np.float32(1.0), np.float32(1e-6)
    channels = out.shape[2]
    for y in prange(np.int64(out.shape[0])):
        f, e, o = fine[y], enlarged[y], out[y]
        for x in range(o.shape[0]):
            weight = f[x, channels]
            certain = min(max(weight, zero), one)
            for c in range(channels):
                value = f[x, c] / weight if weight > least else zero
                o[x, c] = value * certain + e[x, c] * (one - certain)


def fill(pixels: Pixels, window: Window, known: Pixels) -> Pixels:
    """Replace what is not known (known = 0) by what surrounds it, blending by `known` in 0..1 (push and pull).

    Values come from the finest level at which something is known; where nothing is known anywhere, 0.
    """
    levels: list[tuple[Pixels, Window]] = [(blank(window.height, window.width, pixels.shape[2] + 1), window)]
    _weighted(ready(pixels), ready(known), levels[0][0])
    while max(levels[-1][1].width, levels[-1][1].height) > 4 + 2 * MARGIN and len(levels) < 14:
        fine, at = levels[-1]
        cover = at.scaled(2).grown(MARGIN)
        coarse = blank(cover.height, cover.width, fine.shape[2])
        down(fine, 2 * cover.y0 - at.y0, 2 * cover.x0 - at.x0, np.ones(fine.shape[2], np.float32), coarse)
        levels.append((coarse, cover))
    coarsest, at = levels[-1]
    weight = coarsest[..., -1:]
    values = ready(coarsest[..., :-1] / np.where(weight > 1e-6, weight, 1) * (weight > 1e-6))
    none = np.zeros((1, 1, pixels.shape[2]), np.float32)
    for fine, target in reversed(levels[:-1]):
        values, at = _mixed(fine, Octaves(values, at, 1.0, none, target, np.empty(0, np.float32)).drawn(target)), target
    return values


def _mixed(fine: Pixels, enlarged: Pixels) -> Pixels:
    out = blank(*enlarged.shape)
    _pulled(fine, enlarged, out)
    return out


@kernel("void(f4[:,:,::1], f4[::1], b1, f4[:,:,::1])")
def _darkness(value: Any, tint: Any, apart: Any, out: Any) -> None:
    zero, one, third = np.float32(0.0), np.float32(1.0), np.float32(1.0 / 3.0)
    for y in prange(np.int64(out.shape[0])):
        v, o = value[y], out[y]
        for x in range(o.shape[0]):
            red, green, blue = min(max(v[x, 0], zero), one), min(max(v[x, 1], zero), one), min(max(v[x, 2], zero), one)
            least = min(red, min(green, blue))
            if not apart:
                if max(red, max(green, blue)) > least:
                    least = (red + green + blue) * third
                red = green = blue = least
            o[x, 0] = red - least + (one - red) * tint[0]
            o[x, 1] = green - least + (one - green) * tint[1]
            o[x, 2] = blue - least + (one - blue) * tint[2]
            o[x, 3] = one - least


def darkness(value: Pixels, tint: Pixels, apart: bool) -> Pixels:
    """RGBA that darkens as a value of `float32[h, w, 3 or more]` in 0..1 does, what it takes away replaced by as much of the tint.

    `apart`: laid by multiply, value x below for each colour by itself, alpha the most that is taken of one; otherwise alpha is
    1 - the mean, for over.
    """
    out = blank(*value.shape[:2], 4)
    _darkness(ready(value), ready(tint), apart, out)
    return out
