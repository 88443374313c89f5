"""What finishing treatments do to each pixel of an RGBA picture, once what they need from around it is there."""

import math
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part, ready
from .powers import exp2
from .vectors import choose

Pixels = NDArray[np.float32]
HARDLY = np.float32(1e-3)  # alpha below which a pixel's own colour is not taken for that of the edge
NONE = np.float32(1e-12)  # alpha around a pixel below which there is no colour to go on


@part
def _row(picture: Any, y: Any) -> Any:
    return picture[y].reshape(picture.shape[1] * picture.shape[2])


@part
def _unit(value: Any) -> Any:
    zero, one = np.float32(0.0), np.float32(1.0)
    return choose(value > zero, choose(value < one, value, one), zero)


@part
def _sharper(colour: Any, mean: Any, strength: Any, there: Any) -> Any:
    zero = np.float32(0.0)
    sharper = choose(there, colour + strength * (colour - mean), colour)
    least = choose(colour < zero, colour, zero)
    return choose(sharper > least, sharper, least)


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4, f4[:,:,::1])")
def _sharpen(pixels: Any, around: Any, strength: Any, out: Any) -> None:
    one, least = np.float32(1.0), np.float32(1e-6)
    for y in prange(np.int64(pixels.shape[0])):
        p, m, o = _row(pixels, y), _row(around, y), _row(out, y)
        for x in range(pixels.shape[1]):
            i = 4 * x
            alpha, covered = p[i + 3], m[i + 3]
            per, there = alpha / choose(covered > least, covered, one), alpha > np.float32(0.0)
            o[i] = _sharper(p[i], m[i] * per, strength, there)
            o[i + 1] = _sharper(p[i + 1], m[i + 1] * per, strength, there)
            o[i + 2] = _sharper(p[i + 2], m[i + 2] * per, strength, there)
            o[i + 3] = alpha


def sharpened(pixels: Pixels, around: Pixels, strength: float) -> Pixels:
    """c + strength (c - mean), the mean that of colours `around` a pixel, weighed by alpha; not below 0 where the colour is not."""
    out = blank(*pixels.shape)
    _sharpen(ready(pixels), ready(around), np.float32(strength), out)
    return out


@kernel("void(f4[:,:,::1], f4[:,::1], f4, f4, f4, f4[::1], f4[:,:,::1])")
def _haze(pixels: Any, depth: Any, rate: Any, near: Any, nothing: Any, colour: Any, out: Any) -> None:
    zero, one = np.float32(0.0), np.float32(1.0)
    red, green, blue = colour[0], colour[1], colour[2]
    for y in prange(np.int64(pixels.shape[0])):
        p, z, o = _row(pixels, y), depth[y], _row(out, y)
        for x in range(pixels.shape[1]):
            i = 4 * x
            there = abs(z[x]) < np.float32(np.inf)
            beyond = choose(there, z[x], zero) - near
            part = choose(there, one - exp2(rate * choose(beyond > zero, beyond, zero)), nothing)
            r, g, b, alpha = p[i], p[i + 1], p[i + 2], p[i + 3]
            o[i], o[i + 1], o[i + 2] = r + (red * alpha - r) * part, g + (green * alpha - g) * part, b + (blue * alpha - b) * part
            o[i + 3] = alpha


def hazed(pixels: Pixels, depth: Pixels, density: float, near: float, nothing: float, colour: tuple[float, float, float]) -> Pixels:
    """c + (colour x alpha - c)(1 - exp(-density (depth - near))), depth `[h, w]` not finite where there is nothing: there that part is
    `nothing`."""
    out = blank(*pixels.shape)
    rate, hue = np.float32(-density / math.log(2)), np.array(colour, np.float32)
    _haze(ready(pixels), ready(depth), rate, np.float32(near), np.float32(nothing), hue, out)
    return out


@kernel("void(f4[:,:,::1], f8[::1], f8[::1], f4, f4, f4, f4[:,:,::1])")
def _vignette(pixels: Any, across: Any, down: Any, strength: Any, size: Any, softness: Any, out: Any) -> None:
    one, two, three = np.float32(1.0), np.float32(2.0), np.float32(3.0)
    for y in prange(np.int64(pixels.shape[0])):
        p, o, v = _row(pixels, y), _row(out, y), np.float32(down[y])
        for x in range(pixels.shape[1]):
            i, u = 4 * x, np.float32(across[x])
            t = _unit((np.sqrt(u * u + v * v) - size) / softness)
            factor = one - strength * t * t * (three - two * t)
            o[i], o[i + 1], o[i + 2], o[i + 3] = p[i] * factor, p[i + 1] * factor, p[i + 2] * factor, p[i + 3]


def vignetted(pixels: Pixels, across: NDArray[np.float64], down: NDArray[np.float64], strength: float, size: float, softness: float) -> Pixels:
    """c (1 - strength t^2 (3 - 2 t)), t = (r - size) / softness in 0..1; r by how far columns and rows lie `across` and `down`."""
    out = blank(*pixels.shape)
    _vignette(ready(pixels), across, down, np.float32(strength), np.float32(size), np.float32(softness), out)
    return out


@part
def _carried(colour: Any, beyond: Any, solid: Any, per_own: Any, per_beyond: Any, alpha: Any) -> Any:
    """Light that has no alpha is no part of the edge: it stays."""
    return choose(solid, colour * per_own * alpha, beyond * per_beyond * alpha + colour)


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def _edge(pixels: Any, around: Any, moved: Any, out: Any) -> None:
    zero, one = np.float32(0.0), np.float32(1.0)
    for y in prange(np.int64(pixels.shape[0])):
        p, m, a, o = _row(pixels, y), _row(around, y), _row(moved, y), _row(out, y)
        for x in range(pixels.shape[1]):
            i, alpha = 4 * x, _unit(a[x])
            own, beyond = p[i + 3], m[i + 3]
            solid, some = own > HARDLY, beyond > NONE
            per_own, per_beyond = one / choose(solid, own, one), choose(some, one, zero) / choose(some, beyond, one)
            o[i] = _carried(p[i], m[i], solid, per_own, per_beyond, alpha)
            o[i + 1] = _carried(p[i + 1], m[i + 1], solid, per_own, per_beyond, alpha)
            o[i + 2] = _carried(p[i + 2], m[i + 2], solid, per_own, per_beyond, alpha)
            o[i + 3] = alpha


def with_edge(pixels: Pixels, around: Pixels, moved: Pixels) -> Pixels:
    """A picture with another alpha, `moved` `[h, w, 1]`: where its own is none, the colours `around` go on, without theirs."""
    out = blank(*pixels.shape)
    _edge(ready(pixels), ready(around), ready(moved), out)
    return out


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def _of_three(reds: Any, greens: Any, blues: Any, out: Any) -> None:
    for y in prange(np.int64(out.shape[0])):
        r, g, b, o = _row(reds, y), _row(greens, y), _row(blues, y), _row(out, y)
        for x in range(out.shape[1]):
            i = 4 * x
            first, second, third = r[i + 3], g[i + 3], b[i + 3]
            most = choose(first > second, first, second)
            most = choose(most > third, most, third)
            o[i], o[i + 1], o[i + 2] = r[i], g[i + 1], b[i + 2]
            o[i + 3] = _unit(most)


def colours_of_three(reds: Pixels, greens: Pixels, blues: Pixels) -> Pixels:
    """The red of one RGBA picture, the green of another and the blue of a third; alpha is the largest of theirs, in 0..1."""
    out = blank(*greens.shape)
    _of_three(ready(reds), ready(greens), ready(blues), out)
    return out
