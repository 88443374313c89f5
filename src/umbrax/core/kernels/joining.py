"""Point kernels that put one associated picture on another; all work on rows of interleaved RGBA."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part, ready
from .vectors import choose

Pixels = NDArray[np.float32]
# Rows are taken as one line of numbers and channels are written out: so the compiler sees neighbours and uses vectors.
PAIR = "void(f4[:,:,::1], f4[:,:,::1], f4, f4[:,:,::1])"


@part
def _flat(picture: Any, y: Any) -> Any:
    return picture[y].reshape(picture.shape[1] * picture.shape[2])


@part
def _between(a: Any, b: Any, weight: Any) -> Any:
    mixed = choose(weight > np.float32(0.0), a + (b - a) * weight, a)
    return choose(weight >= np.float32(1.0), b, mixed)


@part
def _screened(ca: Any, sa: Any, cb: Any, sb: Any) -> Any:
    one = np.float32(1.0)
    left, right = ca * sb, cb * sa
    # light without alpha is brighter than any white: it is the limit of an alpha that goes to 0, and is added
    shared = max(left, right) if ca > sa or cb > sb else left + right - ca * cb
    return shared + (one - sb) * ca + (one - sa) * cb


@kernel(PAIR)
def over(top: Any, below: Any, opacity: Any, out: Any) -> None:
    """out = o A + (1 - o a) B for all four channels (Porter and Duff 1984, "A over B")."""
    one = np.float32(1.0)
    for y in prange(np.int64(top.shape[0])):
        a, b, o = _flat(top, y), _flat(below, y), _flat(out, y)
        for x in range(top.shape[1]):
            i = 4 * x
            keep = one - opacity * a[i + 3]
            o[i] = opacity * a[i] + keep * b[i]
            o[i + 1] = opacity * a[i + 1] + keep * b[i + 1]
            o[i + 2] = opacity * a[i + 2] + keep * b[i + 2]
            o[i + 3] = opacity * a[i + 3] + keep * b[i + 3]


@kernel(PAIR)
def under(top: Any, below: Any, opacity: Any, out: Any) -> None:
    """out = B + (1 - b) o A: the card shows only where nothing stands yet."""
    one = np.float32(1.0)
    for y in prange(np.int64(top.shape[0])):
        a, b, o = _flat(top, y), _flat(below, y), _flat(out, y)
        for x in range(top.shape[1]):
            i = 4 * x
            room = (one - b[i + 3]) * opacity
            o[i] = b[i] + room * a[i]
            o[i + 1] = b[i + 1] + room * a[i + 1]
            o[i + 2] = b[i + 2] + room * a[i + 2]
            o[i + 3] = b[i + 3] + room * a[i + 3]


@kernel(PAIR)
def plus(top: Any, below: Any, opacity: Any, out: Any) -> None:
    """out = o A + B, alpha limited to 1 (Porter and Duff "plus"; light itself is not limited)."""
    for y in prange(np.int64(top.shape[0])):
        a, b, o = _flat(top, y), _flat(below, y), _flat(out, y)
        for x in range(top.shape[1]):
            i = 4 * x
            o[i] = opacity * a[i] + b[i]
            o[i + 1] = opacity * a[i + 1] + b[i + 1]
            o[i + 2] = opacity * a[i + 2] + b[i + 2]
            o[i + 3] = max(min(opacity * a[i + 3] + b[i + 3], np.float32(1.0)), b[i + 3])


@kernel(PAIR)
def multiply(top: Any, below: Any, opacity: Any, out: Any) -> None:
    """B(cb, cs) = cb cs in associated form: o = A B + (1 - a) B + (1 - b) A (W3C Compositing and Blending 1, 5 and 10)."""
    one = np.float32(1.0)
    for y in prange(np.int64(top.shape[0])):
        a, b, o = _flat(top, y), _flat(below, y), _flat(out, y)
        for x in range(top.shape[1]):
            i = 4 * x
            sa, sb = opacity * a[i + 3], b[i + 3]
            keep, room = one - sa, one - sb
            red, green, blue = opacity * a[i], opacity * a[i + 1], opacity * a[i + 2]
            o[i] = red * b[i] + keep * b[i] + room * red
            o[i + 1] = green * b[i + 1] + keep * b[i + 1] + room * green
            o[i + 2] = blue * b[i + 2] + keep * b[i + 2] + room * blue
            o[i + 3] = sa + keep * sb


@kernel(PAIR)
def screen(top: Any, below: Any, opacity: Any, out: Any) -> None:
    """cb + cs - cb cs; where either un-associated value is above 1 the larger is kept, so brightness never folds back."""
    one = np.float32(1.0)
    for y in prange(np.int64(top.shape[0])):
        a, b, o = _flat(top, y), _flat(below, y), _flat(out, y)
        for x in range(top.shape[1]):
            i = 4 * x
            sa, sb = opacity * a[i + 3], b[i + 3]
            o[i] = _screened(opacity * a[i], sa, b[i], sb)
            o[i + 1] = _screened(opacity * a[i + 1], sa, b[i + 1], sb)
            o[i + 2] = _screened(opacity * a[i + 2], sa, b[i + 2], sb)
            o[i + 3] = sa + (one - sa) * sb


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


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4, f4[:,:,::1])")
def add_light(below: Any, light: Any, amount: Any, out: Any) -> None:
    """RGBA plus an alpha-less plane of light; alpha stays."""
    for y in prange(np.int64(below.shape[0])):
        b, s, o = _flat(below, y), _flat(light, y), _flat(out, y)
        for x in range(below.shape[1]):
            i, j = 4 * x, 3 * x
            o[i], o[i + 1], o[i + 2] = b[i] + amount * s[j], b[i + 1] + amount * s[j + 1], b[i + 2] + amount * s[j + 2]
            o[i + 3] = b[i + 3]


def joined(kernel_function: Any, top: Pixels, below: Pixels, opacity: float) -> Pixels:
    """Run a pair kernel on two RGBA arrays of one shape."""
    out = blank(*below.shape)
    kernel_function(ready(top), ready(below), np.float32(opacity), out)
    return out


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[::1])")
def _add_scaled(total: Any, light: Any, gain: Any) -> None:
    channels = light.shape[2]
    for y in prange(np.int64(total.shape[0])):
        t, p = total[y], light[y]
        for x in range(t.shape[0]):
            for c in range(3):
                t[x, c] += gain[c] * p[x, c if channels >= 3 else 0]


def add_scaled(total: Pixels, light: Pixels, gain: Pixels) -> None:
    """Add gain x light to the first three channels of `total`, in place: it belongs to the caller."""
    _add_scaled(total, ready(light), ready(gain))
