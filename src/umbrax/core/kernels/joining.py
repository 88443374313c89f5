"""Point kernels that put one associated picture on another; all work on rows of interleaved RGBA."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, ready

Pixels = NDArray[np.float32]
PAIR = "void(f4[:,:,::1], f4[:,:,::1], f4, f4[:,:,::1])"


@kernel(PAIR)
def over(top: Any, below: Any, opacity: Any, out: Any) -> None:
    """out = o A + (1 - o a) B for all four channels (Porter and Duff 1984, "A over B")."""
    for y in prange(np.int64(top.shape[0])):
        a, b, o = top[y], below[y], out[y]
        for x in range(a.shape[0]):
            keep = np.float32(1.0) - opacity * a[x, 3]
            for c in range(4):
                o[x, c] = opacity * a[x, c] + keep * b[x, c]


@kernel(PAIR)
def under(top: Any, below: Any, opacity: Any, out: Any) -> None:
    """out = B + (1 - b) o A: the card shows only where nothing stands yet."""
    for y in prange(np.int64(top.shape[0])):
        a, b, o = top[y], below[y], out[y]
        for x in range(a.shape[0]):
            room = (np.float32(1.0) - b[x, 3]) * opacity
            for c in range(4):
                o[x, c] = b[x, c] + room * a[x, c]


@kernel(PAIR)
def plus(top: Any, below: Any, opacity: Any, out: Any) -> None:
    """out = o A + B, alpha limited to 1 (Porter and Duff "plus"; light itself is not limited)."""
    for y in prange(np.int64(top.shape[0])):
        a, b, o = top[y], below[y], out[y]
        for x in range(a.shape[0]):
            for c in range(3):
                o[x, c] = opacity * a[x, c] + b[x, c]
            alpha = opacity * a[x, 3] + b[x, 3]
            o[x, 3] = max(min(alpha, np.float32(1.0)), b[x, 3])


@kernel(PAIR)
def multiply(top: Any, below: Any, opacity: Any, out: Any) -> None:
    """B(cb, cs) = cb cs in associated form: o = A B + (1 - a) B + (1 - b) A (W3C Compositing and Blending 1, 5 and 10)."""
    one = np.float32(1.0)
    for y in prange(np.int64(top.shape[0])):
        a, b, o = top[y], below[y], out[y]
        for x in range(a.shape[0]):
            sa, sb = opacity * a[x, 3], b[x, 3]
            for c in range(3):
                ca = opacity * a[x, c]
                o[x, c] = ca * b[x, c] + (one - sa) * b[x, c] + (one - sb) * ca
            o[x, 3] = sa + (one - sa) * sb


@kernel(PAIR)
def screen(top: Any, below: Any, opacity: Any, out: Any) -> None:
    """cb + cs - cb cs; where either un-associated value is above 1 the larger is kept, so brightness never folds back."""
    one, zero = np.float32(1.0), np.float32(0.0)
    for y in prange(np.int64(top.shape[0])):
        a, b, o = top[y], below[y], out[y]
        for x in range(a.shape[0]):
            sa, sb = opacity * a[x, 3], b[x, 3]
            both = sa * sb
            for c in range(3):
                ca, cb = opacity * a[x, c], b[x, c]
                if (ca > sa and sa > zero) or (cb > sb and sb > zero):
                    shared = max(ca * sb, cb * sa)
                else:
                    shared = ca * sb + cb * sa - ca * cb if both > zero else zero
                o[x, c] = shared + (one - sb) * ca + (one - sa) * cb
            o[x, 3] = sa + (one - sa) * sb


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4, f4[:,:,::1])")
def mix(below: Any, treated: Any, weight: Any, amount: Any, out: Any) -> None:
    """out = below + (treated - below) w, w = clamp(amount x weight); w of 0 and 1 give their side bit for bit."""
    channels = below.shape[2]
    for y in prange(np.int64(below.shape[0])):
        b, t, m, o = below[y], treated[y], weight[y], out[y]
        for x in range(b.shape[0]):
            w = max(np.float32(0.0), min(np.float32(1.0), amount * m[x, 0]))
            if w >= np.float32(1.0):
                for c in range(channels):
                    o[x, c] = t[x, c]
            elif w <= np.float32(0.0):
                for c in range(channels):
                    o[x, c] = b[x, c]
            else:
                for c in range(channels):
                    o[x, c] = b[x, c] + (t[x, c] - b[x, c]) * w


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def scale_by(pixels: Any, weight: Any, out: Any) -> None:
    """All channels, alpha included, times a one-channel weight."""
    channels = pixels.shape[2]
    for y in prange(np.int64(pixels.shape[0])):
        p, m, o = pixels[y], weight[y], out[y]
        for x in range(p.shape[0]):
            for c in range(channels):
                o[x, c] = p[x, c] * m[x, 0]


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4, f4[:,:,::1])")
def add_light(below: Any, light: Any, amount: Any, out: Any) -> None:
    """RGBA plus an alpha-less plane of light; alpha stays."""
    for y in prange(np.int64(below.shape[0])):
        b, s, o = below[y], light[y], out[y]
        for x in range(b.shape[0]):
            for c in range(3):
                o[x, c] = b[x, c] + amount * s[x, c]
            o[x, 3] = b[x, 3]


def joined(kernel_function: Any, top: Pixels, below: Pixels, opacity: float) -> Pixels:
    """Run a pair kernel on two RGBA arrays of one shape."""
    out = np.empty_like(below, order="C")
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
