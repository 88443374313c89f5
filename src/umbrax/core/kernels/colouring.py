"""Loops that give each pixel of an RGBA picture another colour, each made of a rule for one pixel.

Colours are divided by alpha before and multiplied by it after; where alpha is 0 a pixel stays as it is. As with joins, a rule becomes a
compiled loop over a few neighbours, always as many, and one driver runs any of them over a picture.
"""

from collections.abc import Callable
from typing import Any

import numpy as np
from numba import prange, types
from numpy.typing import NDArray

from . import WhenAsked, blank, blocks_of, kernel, ready
from .pairing import LINE, PICTURE, PIXELS, Rule, holds, row_at, rule, turns
from .powers import power
from .vectors import choose

Pixels = NDArray[np.float32]
Recolouring = Callable[..., Pixels]
PLANES = types.Array(types.float32, 2, "C")
ROW = types.void(LINE, LINE, types.float32, LINE, PLANES, LINE)


@kernel(types.void(types.FunctionType(ROW), PICTURE, PICTURE, types.float32, LINE, types.int64, PICTURE))
def _over_rows(row: Any, pixels: Any, weight: Any, amount: Any, settings: Any, blocks: Any, out: Any) -> None:
    count, last = pixels.shape[1], np.int64(weight.shape[0] - 1)  # one row of weights is that of all
    each = (turns(pixels.shape[0]) + blocks - 1) // blocks
    for block in prange(blocks):
        planes = np.empty((5, PIXELS), np.float32)
        for turn in range(block * each, block * each + each):
            y = row_at(turn, pixels.shape[0])
            if y >= pixels.shape[0]:
                continue
            p, w, o = pixels[y].reshape(4 * count), weight[min(y, last)].reshape(count), out[y].reshape(4 * count)
            for begin in range(0, count, PIXELS):
                start = min(begin, count - PIXELS)
                end = start + PIXELS
                if holds(p[4 * start : 4 * end].view(np.int32)):
                    row(p[4 * start : 4 * end], w[start:end], amount, settings, planes, o[4 * start : 4 * end])
                else:
                    o[4 * start : 4 * end] = np.float32(0.0)


@rule
def _put(given: Any, made: Any, weight: Any) -> Any:
    part = choose(weight > np.float32(0.0), given + (made - given) * weight, given)
    return choose(weight >= np.float32(1.0), made, part)


@rule
def _split(pixels: Any, reds: Any, greens: Any, blues: Any) -> None:
    """Colours without alpha, each channel by itself: so the compiler sees neighbours and uses vectors."""
    zero, one = np.float32(0.0), np.float32(1.0)
    for x in range(reds.shape[0]):
        i = 4 * x
        per = one / choose(pixels[i + 3] > zero, pixels[i + 3], one)
        reds[x], greens[x], blues[x] = pixels[i] * per, pixels[i + 1] * per, pixels[i + 2] * per


@rule
def _joined(pixels: Any, weight: Any, amount: Any, reds: Any, greens: Any, blues: Any, lefts: Any, out: Any) -> None:
    zero, one = np.float32(0.0), np.float32(1.0)
    for x in range(weight.shape[0]):
        i = 4 * x
        a = pixels[i + 3]
        there = a > zero
        divisor = choose(there, a, one)
        w = choose(there, amount * weight[x], zero)
        out[i] = _put(pixels[i], reds[x] * divisor, w)
        out[i + 1] = _put(pixels[i + 1], greens[x] * divisor, w)
        out[i + 2] = _put(pixels[i + 2], blues[x] * divisor, w)
        out[i + 3] = _put(a, lefts[x] * a, w)


def recolouring(colour: Rule) -> Recolouring:
    """`colour(r, g, b, settings)` of a colour without alpha gives another, and what is left of the alpha.

    `run(pixels, settings, weight, amount)`: RGBA `float32[h, w, 4]`, settings as floats, a one-channel weight or None; the result is
    input + (recoloured - input) clamp(amount x weight).
    """

    def coloured(pixels: Any, weight: Any, amount: Any, settings: Any, planes: Any, out: Any) -> None:
        reds, greens, blues, lefts = planes[0], planes[1], planes[2], planes[3]
        _split(pixels, reds, greens, blues)
        for x in range(weight.shape[0]):
            reds[x], greens[x], blues[x], lefts[x] = colour(reds[x], greens[x], blues[x], settings)
        _joined(pixels, weight, amount, reds, greens, blues, lefts, out)

    coloured.__name__ = coloured.__qualname__ = f"coloured{colour.__name__}"
    return WhenAsked(coloured, ROW, _run)


def toning(tone: Rule) -> Recolouring:
    """The same of a rule for each channel by itself: `tone(x, settings, channel)`."""

    def toned(pixels: Any, weight: Any, amount: Any, settings: Any, planes: Any, out: Any) -> None:
        _split(pixels, planes[0], planes[1], planes[2])
        planes[3] = np.float32(1.0)
        for c in range(3):
            line = planes[c]
            for x in range(weight.shape[0]):
                line[x] = tone(line[x], settings, c)
        _joined(pixels, weight, amount, planes[0], planes[1], planes[2], planes[3], out)

    toned.__name__ = toned.__qualname__ = f"toned{tone.__name__}"
    return WhenAsked(toned, ROW, _run)


def _run(row: Any, pixels: Pixels, settings: Any, weight: Pixels | None = None, amount: float = 1.0) -> Pixels:
    height, width = pixels.shape[:2]
    weights = np.ones((1, width, 1), np.float32) if weight is None else weight
    numbers = ready(np.asarray(settings, np.float32).reshape(-1))
    if width >= PIXELS:
        out = blank(*pixels.shape)
        _over_rows(row, ready(pixels), ready(weights), np.float32(amount), numbers, blocks_of(height), out)
        return out
    # narrower than the loops are long
    room = ((0, 0), (0, PIXELS - width), (0, 0))
    wide = blank(height, PIXELS, 4)
    _over_rows(row, ready(np.pad(pixels, room)), ready(np.pad(weights, room)), np.float32(amount), numbers, blocks_of(height), wide)
    return ready(wide[:, :width])


@rule
def _levels(x: Any, s: Any, c: Any) -> Any:
    """((x - black) / (white - black))^(1 / gamma) to out black and white; negatives pass the power as they are. Three of each in s."""
    inner = power((x - s[c]) * s[3 + c], s[6 + c], np.float32(0.0))
    return inner * s[9 + c] + s[12 + c]


@rule
def _straight_levels(x: Any, s: Any, c: Any) -> Any:
    """The same where every gamma is 1."""
    return (x - s[c]) * s[3 + c] * s[9 + c] + s[12 + c]


@rule
def _tones(x: Any, s: Any, c: Any) -> Any:
    """(gain (x + lift (1 - x)))^(1 / gamma); negatives pass the power as they are."""
    return power(s[c] * (x + s[3 + c] * (np.float32(1.0) - x)), s[6 + c], np.float32(0.0))


@rule
def _bend(line: Any, bent: Any, s: Any, at: Any) -> None:
    """One curve on a line of values. From s[at] on: number of segments, first x, its y, slope before it, last x, slope after it; then of
    each segment its start, one over its length, and the factors of t, t^2 and t^3 by which it rises."""
    zero, one = np.float32(0.0), np.float32(1.0)
    first, begin, before, last, after = s[at + 1], s[at + 2], s[at + 3], s[at + 4], s[at + 5]
    for x in range(line.shape[0]):
        bent[x] = begin + min(line[x] - first, zero) * before + max(line[x] - last, zero) * after
    for n in range(np.int64(s[at])):
        k = at + 6 + 5 * n
        start, per, a, b, c = s[k], s[k + 1], s[k + 2], s[k + 3], s[k + 4]
        for x in range(line.shape[0]):
            t = min(max((line[x] - start) * per, zero), one)
            bent[x] += ((c * t + b) * t + a) * t
    for x in range(line.shape[0]):
        line[x] = bent[x]


def _curved(pixels: Any, weight: Any, amount: Any, settings: Any, planes: Any, out: Any) -> None:
    """The master first, then each channel's own; settings[0..3] say where they begin, 0 for none."""
    _split(pixels, planes[0], planes[1], planes[2])
    planes[3] = np.float32(1.0)
    for c in range(3):
        for which in (0, 1 + c):
            at = np.int64(settings[which])
            if at:
                _bend(planes[c], planes[4], settings, at)
    _joined(pixels, weight, amount, planes[0], planes[1], planes[2], planes[3], out)


@rule
def _recolour(r: Any, g: Any, b: Any, s: Any) -> Any:
    """Colours by luma, as a sum of ramps: s holds luma weights, whether light is kept, how many ramps, the first colour and alpha,
    and of each ramp its start, one over its length, and what it adds to these four."""
    zero, one = np.float32(0.0), np.float32(1.0)
    luma = s[0] * r + s[1] * g + s[2] * b
    red, green, blue, left = s[5], s[6], s[7], s[8]
    for n in range(np.int64(s[4])):
        i = 9 + 6 * n
        t = min(max((luma - s[i]) * s[i + 1], zero), one)
        red, green, blue, left = red + t * s[i + 2], green + t * s[i + 3], blue + t * s[i + 4], left + t * s[i + 5]
    bright = s[0] * red + s[1] * green + s[2] * blue
    k = choose((s[3] > zero) & (bright > zero), luma * left / max(bright, np.float32(1e-12)), one)
    return red * k, green * k, blue * k, left


@rule
def _spill(r: Any, g: Any, b: Any, s: Any) -> Any:
    """What the key channel has over the limit that the two others set is taken out, and put in again as another colour."""
    zero, half = np.float32(0.0), np.float32(0.5)
    red, green = s[0] == zero, s[0] == np.float32(1.0)
    key = choose(red, r, choose(green, g, b))
    one, other = choose(red, g, r), choose(red | green, b, g)
    mean, larger, smaller = (one + other) * half, max(one, other), min(one, other)
    limit = choose(s[1] == zero, mean, choose(s[1] == np.float32(1.0), larger, smaller)) * s[2]
    over = max(key - max(limit, zero), zero)
    blue = s[0] > np.float32(1.5)
    return (
        r - choose(red, over, zero) + s[3] * over, g - choose(green, over, zero) + s[4] * over, b - choose(blue, over, zero) + s[5] * over,
        np.float32(1.0),
    )  # fmt: skip


level_rows: Recolouring = toning(_levels)
straight_level_rows: Recolouring = toning(_straight_levels)
tone_rows: Recolouring = toning(_tones)
curve_rows: Recolouring = WhenAsked(_curved, ROW, _run)
recolour_rows: Recolouring = recolouring(_recolour)
spill_rows: Recolouring = recolouring(_spill)
