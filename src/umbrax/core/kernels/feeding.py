"""The feed of spreading light: what is above a soft threshold, in its own colour; and where a mean hides what is brighter."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, ready
from .lit import keep_ends
from .vectors import choose, lit_ends

Pixels = NDArray[np.float32]


@kernel("void(f4[:,:,::1], f4, f4, f4, i8[:,::1], f4[:,:,::1])")
def _feed(pixels: Any, threshold: Any, knee: Any, limit: Any, ends: Any, out: Any) -> None:
    zero, tiny = np.float32(0.0), np.float32(1e-20)
    half_width = threshold * knee
    quarter = np.float32(0.25) / max(half_width, tiny)
    width = pixels.shape[1]
    for y in prange(np.int64(pixels.shape[0])):
        p, o = pixels[y].reshape(width * 4), out[y].reshape(width * 3)
        for x in range(width):
            i, j = 4 * x, 3 * x
            r, g, b = choose(p[i] > zero, p[i], zero), choose(p[i + 1] > zero, p[i + 1], zero), choose(p[i + 2] > zero, p[i + 2], zero)
            peak = choose(g > b, g, b)
            peak = choose(r > peak, r, peak)
            above = peak - threshold
            soft = choose(above > -half_width, above + half_width, zero)
            fed = choose(above >= half_width, above, soft * soft * quarter)
            share = choose(fed < limit, fed, limit) / choose(peak > tiny, peak, tiny)
            # alpha is looked at too, so that neighbours are done at once
            o[j], o[j + 1], o[j + 2] = r * share, g * share, b * share + zero * p[i + 3]
        ends[y, 0], ends[y, 1] = lit_ends(o)


def feed_light(pixels: NDArray[np.float32], threshold: float, knee: float, limit: float) -> NDArray[np.float32]:
    """x softknee(p) / p with p = max RGB: 0 below threshold (1 - knee), p - threshold above threshold (1 + knee).

    Between them a parabola joins both without a corner. Negatives feed nothing; the fed peak is at most `limit`.
    """
    out, ends = blank(*pixels.shape[:2], 3), np.empty((pixels.shape[0], 2), np.int64)
    _feed(ready(pixels), np.float32(threshold), np.float32(knee), np.float32(limit), ends, out)
    keep_ends(out, ends)
    return out


@kernel("void(f4[:,:,::1], i8, b1, f4[:,:,::1])")
def _spans(pixels: Any, n: Any, has_alpha: Any, out: Any) -> None:
    zero, one = np.float32(0.0), np.float32(1.0)
    colours, per = pixels.shape[2] - (1 if has_alpha else 0), one / np.float32(n * n)
    for y in prange(np.int64(out.shape[0])):
        for x in range(out.shape[1]):
            most, least, total, covered = zero, np.float32(np.inf), zero, zero
            for j in range(n):
                row = pixels[y * n + j, x * n : x * n + n]
                for i in range(n):
                    light = zero
                    for c in range(colours):
                        light = max(light, row[i, c])
                    alpha = row[i, colours] if has_alpha else one
                    most = max(most, light)
                    least = min(least, light) if alpha > zero or light > zero else least
                    total += light
                    covered += alpha
            o = out[y, x]
            o[0], o[1], o[2], o[3] = total * per, most, min(least, most), covered * per


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def _spans_over(top: Any, below: Any, out: Any) -> None:
    one, covered = np.float32(1.0), np.float32(0.999)
    for y in prange(np.int64(out.shape[0])):
        for x in range(out.shape[1]):
            a, b, o = top[y, x], below[y, x], out[y, x]
            through = one - a[3]
            o[0], o[3] = a[0] + through * b[0], a[3] + through * b[3]
            if a[3] >= covered:
                o[1], o[2] = a[1], a[2]
            elif a[3] <= one - covered:
                o[1], o[2] = b[1], b[2]
            else:
                o[1], o[2] = max(a[1], b[1]), min(a[2], b[2])


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def _parted(pixels: Any, spans: Any, most: Any, least: Any, share: Any) -> None:
    zero, one, apart, full, tiny = np.float32(0.0), np.float32(1.0), np.float32(1e-3), np.float32(0.999), np.float32(1e-30)
    width = pixels.shape[1]
    for y in prange(np.int64(pixels.shape[0])):
        p, s, part = pixels[y].reshape(4 * width), spans[y].reshape(4 * width), share[y].reshape(width)
        m, n = most[y].reshape(4 * width), least[y].reshape(4 * width)
        for x in range(width):
            i = 4 * x
            mean = max(s[i], tiny)
            # where it is covered in part the rest is nothing
            covered = choose(s[i + 3] >= full, min(max(s[i + 2] / mean, zero), one), zero)
            high, low = choose(s[i] > zero, max(s[i + 1] / mean, one), one), choose(s[i] > zero, covered, one)
            part[x] = choose(high - low > apart, (one - low) / max(high - low, apart), one)
            m[i], m[i + 1], m[i + 2], m[i + 3] = p[i] * high, p[i + 1] * high, p[i + 2] * high, p[i + 3]
            n[i], n[i + 1], n[i + 2], n[i + 3] = p[i] * low, p[i + 1] * low, p[i + 2] * low, p[i + 3]


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def _joined(most: Any, least: Any, share: Any, weight: Any, out: Any) -> None:
    width = out.shape[1]
    for y in prange(np.int64(out.shape[0])):
        m, n, o = most[y].reshape(3 * width), least[y].reshape(3 * width), out[y].reshape(3 * width)
        part, w = share[y].reshape(width), weight[y].reshape(width)
        for x in range(width):
            i, first = 3 * x, min(part[x], w[x])
            rest = w[x] - first
            o[i], o[i + 1], o[i + 2] = first * m[i] + rest * n[i], first * m[i + 1] + rest * n[i + 1], first * m[i + 2] + rest * n[i + 2]


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def _kept(spans: Any, sharp: Any, out: Any) -> None:
    width = out.shape[1]
    for y in prange(np.int64(out.shape[0])):
        s, o, kept = spans[y].reshape(4 * width), out[y].reshape(4 * width), sharp[y].reshape(width)
        for x in range(width):
            i = 4 * x
            mean = s[i]
            o[i], o[i + 1] = mean, mean + (s[i + 1] - mean) * kept[x]
            o[i + 2], o[i + 3] = mean + (s[i + 2] - mean) * kept[x], s[i + 3]


def kept_where_sharp(spans: Pixels, sharp: Pixels) -> Pixels:
    """The spans `[h, w, 4]` of a picture that is blurred: of what is as `sharp` `[h, w, 1]`, 0 to 1, is left of what a block hides."""
    out = blank(*spans.shape)
    _kept(ready(spans), ready(sharp), out)
    return out


def spans(pixels: Pixels, n: int, has_alpha: bool) -> Pixels:
    """Mean, greatest and least of the largest colour, and the mean alpha, of each n x n block: `float32[h/n, w/n, 4]`.

    The least is that of what is covered at all, and below 0 counts as 0. Sizes of `float32[h, w, c]` are whole multiples of n; alpha,
    where there is one, is last.
    """
    out = blank(pixels.shape[0] // n, pixels.shape[1] // n, 4)
    _spans(ready(pixels), n, has_alpha, out)
    return out


def spans_over(top: Pixels, below: Pixels) -> Pixels:
    """The same of one picture over another; where the top covers a block in part, the greatest and the least are those of either."""
    out = blank(*top.shape)
    _spans_over(ready(top), ready(below), out)
    return out


def parted(pixels: Pixels, around: Pixels) -> tuple[Pixels, Pixels, Pixels]:
    """RGBA with the greatest and with the least of each block in place of its mean, and the part `[h, w, 1]` that is the greatest.

    A block of two values has a part p of the greatest where p most + (1 - p) least is its mean.
    """
    most, least, share = blank(*pixels.shape), blank(*pixels.shape), blank(*pixels.shape[:2], 1)
    _parted(ready(pixels), ready(around), most, least, share)
    return most, least, share


def joined_again(most: Pixels, least: Pixels, share: Pixels, weight: Pixels | None) -> Pixels:
    """What both feed, `float32[h, w, 3]`, in their parts; a matte is taken to hold the brightest of a block first."""
    out = blank(*most.shape)
    everywhere = np.ones_like(share) if weight is None else weight
    _joined(ready(most), ready(least), ready(share), ready(everywhere), out)
    return out
