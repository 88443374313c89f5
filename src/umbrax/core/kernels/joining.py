"""Point kernels that mix and add pictures; all work on rows of interleaved RGBA."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part, ready
from .vectors import choose, lay_light

Pixels = NDArray[np.float32]
# Rows are taken as one line of numbers and channels are written out: so the compiler sees neighbours and uses vectors.


@part
def _flat(picture: Any, y: Any) -> Any:
    return picture[y].reshape(picture.shape[1] * picture.shape[2])


@part
def _between(a: Any, b: Any, weight: Any) -> Any:
    mixed = choose(weight > np.float32(0.0), a + (b - a) * weight, a)
    return choose(weight >= np.float32(1.0), b, mixed)


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4, f4[:,:,::1])")
def mix(below: Any, treated: Any, weight: Any, amount: Any, out: Any) -> None:
    """out = below + (treated - below) w, w = clamp(amount x weight); w of 0 and 1 give their side bit for bit."""
    width, channels = below.shape[1], below.shape[2]
    for y in prange(np.int64(below.shape[0])):
        b, t, m, o = _flat(below, y), _flat(treated, y), _flat(weight, y), _flat(out, y)
        if channels == 4:
            for x in range(width):
                i, w = 4 * x, amount * m[x]
                o[i] = _between(b[i], t[i], w)
                o[i + 1] = _between(b[i + 1], t[i + 1], w)
                o[i + 2] = _between(b[i + 2], t[i + 2], w)
                o[i + 3] = _between(b[i + 3], t[i + 3], w)
        else:
            for x in range(width):
                for i in range(x * channels, (x + 1) * channels):
                    o[i] = _between(b[i], t[i], amount * m[x])


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def scale_by(pixels: Any, weight: Any, out: Any) -> None:
    """All channels, alpha included, times a one-channel weight."""
    width, channels = pixels.shape[1], pixels.shape[2]
    for y in prange(np.int64(pixels.shape[0])):
        p, m, o = _flat(pixels, y), _flat(weight, y), _flat(out, y)
        if channels == 4:
            for x in range(width):
                i, w = 4 * x, m[x]
                o[i], o[i + 1], o[i + 2], o[i + 3] = p[i] * w, p[i + 1] * w, p[i + 2] * w, p[i + 3] * w
        else:
            for x in range(width):
                for i in range(x * channels, (x + 1) * channels):
                    o[i] = p[i] * m[x]


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4, f4[:,:,::1])")
def tuck(below: Any, top: Any, occluder: Any, opacity: Any, out: Any) -> None:
    """out = F + (S - F)(1 - o b) + o (1 - m) B: an RGBA picture behind the part F of the picture S below; m and b are alphas."""
    one = np.float32(1.0)
    for y in prange(np.int64(below.shape[0])):
        s, b, f, o = _flat(below, y), _flat(top, y), _flat(occluder, y), _flat(out, y)
        for x in range(below.shape[1]):
            i = 4 * x
            keep, room = one - opacity * b[i + 3], opacity * (one - f[i + 3])
            o[i] = f[i] + (s[i] - f[i]) * keep + room * b[i]
            o[i + 1] = f[i + 1] + (s[i + 1] - f[i + 1]) * keep + room * b[i + 1]
            o[i + 2] = f[i + 2] + (s[i + 2] - f[i + 2]) * keep + room * b[i + 2]
            o[i + 3] = f[i + 3] + (s[i + 3] - f[i + 3]) * keep + room * b[i + 3]


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4, f4[:,:,::1])")
def add_light(below: Any, light: Any, amount: Any, out: Any) -> None:
    """RGBA plus an alpha-less plane of light; alpha stays."""
    for y in prange(np.int64(below.shape[0])):
        lay_light(_flat(light, y), True, True, _flat(below, y), amount, np.int64(0), _flat(out, y))


@kernel("void(f4[:,:,::1], f4[:,::1], i8, i8, f4[::1], f4[:,:,::1])")
def _lay(below: Any, cover: Any, top: Any, left: Any, colour: Any, out: Any) -> None:
    height, width = cover.shape
    channels = below.shape[2]
    for y in prange(np.int64(below.shape[0])):
        b, o = _flat(below, y), _flat(out, y)
        for i in range(b.shape[0]):
            o[i] = b[i]
        if top <= y < top + height:
            for x in range(width):
                c = cover[y - top, x]
                if c != np.float32(0.0):
                    for k in range(channels):
                        i = (left + x) * channels + k
                        o[i] = b[i] + c * (colour[k] - b[i])


def laid(below: Pixels, cover: Pixels, corner: tuple[int, int], colour: Pixels) -> Pixels:
    """A picture `[h, w, channel]` with a colour of as many channels over it where a cover `[h, w]` is, the corner of which lies at (x, y)."""
    out = blank(*below.shape)
    _lay(ready(below), ready(cover), corner[1], corner[0], ready(colour), out)
    return out


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[::1], f4[:,:,::1])")
def _add_scaled(total: Any, light: Any, gain: Any, out: Any) -> None:
    width, of = total.shape[1], light.shape[2]
    r, g, b = gain[0], gain[1], gain[2]
    for y in prange(np.int64(total.shape[0])):
        t, p, o = _flat(total, y), _flat(light, y), _flat(out, y)
        if of == 4:
            for x in range(width):
                i = 4 * x
                o[i], o[i + 1], o[i + 2] = t[i] + r * p[i], t[i + 1] + g * p[i + 1], t[i + 2] + b * p[i + 2]
                o[i + 3] = t[i + 3]
        elif of == 3:
            for x in range(width):
                i, j = 4 * x, 3 * x
                o[i], o[i + 1], o[i + 2] = t[i] + r * p[j], t[i + 1] + g * p[j + 1], t[i + 2] + b * p[j + 2]
                o[i + 3] = t[i + 3]
        else:
            for x in range(width):
                i, grey = 4 * x, p[of * x]
                o[i], o[i + 1], o[i + 2], o[i + 3] = t[i] + r * grey, t[i + 1] + g * grey, t[i + 2] + b * grey, t[i + 3]


def add_scaled(total: Pixels, light: Pixels, gain: Pixels) -> Pixels:
    """RGBA plus gain x light, of one channel for all colours or of three and more; alpha stays."""
    out = blank(*total.shape)
    _add_scaled(ready(total), ready(light), ready(gain), out)
    return out
