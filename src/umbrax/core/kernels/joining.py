"""Point kernels that put one associated picture on another; all work on rows of interleaved RGBA."""

from collections.abc import Callable
from typing import Any

import numpy as np
from numba import prange
from numba.extending import register_jitable
from numpy.typing import NDArray

from . import blank, kernel, part, ready
from .vectors import choose

Pixels = NDArray[np.float32]
# Rows are taken as one line of numbers and channels are written out: so the compiler sees neighbours and uses vectors.
Rule = Callable[..., Any]
rule: Callable[[Rule], Rule] = register_jitable(inline="always")
PAIR = "void(f4[:,:,::1], f4[:,:,::1], f4, f4[:,:,::1])"


@part
def _flat(picture: Any, y: Any) -> Any:
    return picture[y].reshape(picture.shape[1] * picture.shape[2])


@part
def _between(a: Any, b: Any, weight: Any) -> Any:
    mixed = choose(weight > np.float32(0.0), a + (b - a) * weight, a)
    return choose(weight >= np.float32(1.0), b, mixed)


def _named(loop: Rule, value: Rule) -> Rule:
    """A loop that is made for a rule goes by a name of its own, by which its compiled form is kept."""
    loop.__name__ = loop.__qualname__ = f"{loop.__name__}{value.__name__}"
    return loop


def pair_kernel(value: Rule, alpha: Rule) -> Any:
    """The loop that joins two RGBA pictures of one shape: `kernel(top, below, opacity, out)`.

    `value(a, aa, b, ba, opacity)` gives each colour from the top's and the picture's below with their alphas, `alpha` the same
    for the alpha itself. Both are functions of a module marked with `rule`, so that the compiled loop is found again by their names.
    """

    def pair(top: Any, below: Any, opacity: Any, out: Any) -> None:
        for y in prange(np.int64(top.shape[0])):
            a, b, o = _flat(top, y), _flat(below, y), _flat(out, y)
            for x in range(top.shape[1]):
                i = 4 * x
                aa, ba = a[i + 3], b[i + 3]
                o[i] = value(a[i], aa, b[i], ba, opacity)
                o[i + 1] = value(a[i + 1], aa, b[i + 1], ba, opacity)
                o[i + 2] = value(a[i + 2], aa, b[i + 2], ba, opacity)
                o[i + 3] = alpha(aa, aa, ba, ba, opacity)

    return kernel(PAIR)(_named(pair, value))


def laying_kernel(value: Rule) -> Any:
    """The loop that lays a picture on another inside that one's alpha: `kernel(top, below, opacity, out)`.

    The picture below counts as opaque where it is: out = B + b (value(A, B / b) - B / b), and its alpha stays (Porter and Duff's
    "atop", with a blend in place of over).
    """

    def lay(top: Any, below: Any, opacity: Any, out: Any) -> None:
        zero, one = np.float32(0.0), np.float32(1.0)
        for y in prange(np.int64(top.shape[0])):
            a, b, o = _flat(top, y), _flat(below, y), _flat(out, y)
            for x in range(top.shape[1]):
                i = 4 * x
                aa, ba = a[i + 3], b[i + 3]
                share = max(ba, zero)
                per = one / choose(ba > zero, ba, one)
                for c in range(i, i + 3):
                    alone = b[c] * per
                    o[c] = b[c] + share * (value(a[c], aa, alone, one, opacity) - alone)
                o[i + 3] = ba

    return kernel(PAIR)(_named(lay, value))


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
