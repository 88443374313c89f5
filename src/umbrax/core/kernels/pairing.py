"""Loops that put one associated RGBA picture on another, each made of a rule for one pixel.

A rule becomes a compiled loop over a few neighbours in a row of interleaved RGBA; one driver runs any of them over all of two pictures
on all processors, so that a further rule costs no further driver. There are always as many neighbours: without a rest that is done
otherwise, a window comes out as the whole does bit for bit, products and sums rounded at once included. Rules are functions of a module
marked with `rule`: the compiled loop is found again on the disk by their names.
"""

from collections.abc import Callable
from typing import Any

import numpy as np
from numba import prange, types
from numba.extending import register_jitable

from . import WhenAsked, kernel
from .powers import decoded, decoded_unit, encoded, encoded_unit
from .vectors import choose

# Rows are taken as one line of numbers and channels are written out: so the compiler sees neighbours and uses vectors.
Rule = Callable[..., Any]
Join = Callable[..., None]
rule: Callable[[Rule], Rule] = register_jitable(inline="always")
LINE = types.Array(types.float32, 1, "C")
ROW = types.void(LINE, LINE, types.float32, LINE)
PICTURE = types.Array(types.float32, 3, "C")
PIXELS = 128  # neighbours that a loop goes over
APART = 16  # rows between those of turns that follow one another
LEAST = np.float32(1e-6)  # alpha as which less counts where light is divided by it


@rule
def holds(bits: Any) -> Any:
    """Whether any of some floats is not 0, by their bits; without a way out early, so that it is done many at a time."""
    found = np.int32(0)
    for x in range(bits.shape[0]):
        found = np.int32(found | bits[x])
    return found != np.int32(0)


@rule
def same(given: Any, out: Any) -> None:
    for x in range(out.shape[0]):
        out[x] = given[x]


@rule
def turns(height: Any) -> Any:
    """How many turns `row_at` needs for all rows of a picture."""
    return APART * ((np.int64(height) + APART - 1) // APART)


@rule
def row_at(turn: Any, height: Any) -> Any:
    """Which row comes at a turn; some turns have none left. Each processor takes turns in sequence, and so rows from all over the
    picture: what there is to do is often in one part of it."""
    down = (np.int64(height) + APART - 1) // APART
    return (np.int64(turn) % down) * APART + np.int64(turn) // down


@kernel(types.void(types.FunctionType(ROW), PICTURE, PICTURE, types.float32, types.boolean, PICTURE))
def _over_rows(row: Any, top: Any, below: Any, opacity: Any, keeps: Any, out: Any) -> None:
    count = top.shape[1] * 4
    for turn in prange(turns(top.shape[0])):
        y = row_at(turn, top.shape[0])
        if y >= top.shape[0]:
            continue
        a, b, o = top[y].reshape(count), below[y].reshape(count), out[y].reshape(count)
        for begin in range(0, count, 4 * PIXELS):
            start = min(begin, count - 4 * PIXELS)
            end = start + 4 * PIXELS
            aa, bb, oo = a[start:end], b[start:end], o[start:end]
            if keeps and not holds(aa.view(np.int32)):
                same(bb, oo)
            else:
                row(aa, bb, opacity, oo)


def _driven(loop: Rule, name: str, keeps: bool = True) -> Join:
    """`join(top, below, opacity, out)` from the loop over neighbours; made for a rule it goes by a name of its own. `keeps`: where there
    is nothing on top the picture below stays, as an element that is small in its frame has it nearly everywhere."""
    loop.__name__ = loop.__qualname__ = name

    def all_over(row: Any, top: Any, below: Any, opacity: Any, out: Any) -> None:
        width = top.shape[1]
        if width >= PIXELS:
            _over_rows(row, top, below, opacity, keeps, out)
        elif width:
            wide = [np.concatenate([one, np.zeros((one.shape[0], PIXELS - width, 4), np.float32)], axis=1) for one in (top, below, out)]
            _over_rows(row, wide[0], wide[1], opacity, keeps, wide[2])
            out[...] = wide[2][:, :width]

    return WhenAsked(loop, ROW, all_over)


def pair_join(value: Rule, alpha: Rule, *, keeps: bool = True) -> Join:
    """A join of associated values: `value(a, aa, b, ba, opacity)` gives each colour from the top's and the picture's below with
    their alphas, `alpha` the same for the alpha itself."""

    def pair(top: Any, below: Any, opacity: Any, out: Any) -> None:
        for x in range(top.shape[0] // 4):
            i = 4 * x
            aa, ba = top[i + 3], below[i + 3]
            out[i] = value(top[i], aa, below[i], ba, opacity)
            out[i + 1] = value(top[i + 1], aa, below[i + 1], ba, opacity)
            out[i + 2] = value(top[i + 2], aa, below[i + 2], ba, opacity)
            out[i + 3] = alpha(aa, aa, ba, ba, opacity)

    return _driven(pair, f"pair{value.__name__}", keeps)


@rule
def _per(alpha: Any) -> Any:
    return np.float32(1.0) / max(alpha, LEAST)


@rule
def _mixed(a: Any, aa: Any, b: Any, ba: Any, opacity: Any, blend: Any) -> Any:
    """(1 - ab) as Cs + (1 - as) ab Cb + as ab B (W3C Compositing and Blending Level 1, 10); nothing leaves the other bit for bit."""
    one, zero = np.float32(1.0), np.float32(0.0)
    covered, room = opacity * max(aa, LEAST), max(ba, LEAST)
    both = (one - room) * (opacity * a) + (one - covered) * b + covered * room * blend
    some = choose((b == zero) & (ba == zero), opacity * a, both)
    return choose((a == zero) & (aa == zero), b, some)


@rule
def _union(aa: Any, ba: Any, opacity: Any) -> Any:
    shown = opacity * aa
    return shown + (np.float32(1.0) - shown) * ba


@rule
def _light(x: Any) -> Any:
    return x


@rule
def _encoded(x: Any) -> Any:
    return encoded(x)


@rule
def _decoded(x: Any) -> Any:
    return decoded(x)


@rule
def _encoded_unit(x: Any) -> Any:
    return encoded_unit(x)


@rule
def _decoded_unit(x: Any) -> Any:
    return decoded_unit(x)


CURVES = {  # into the values a blend works on and back: (display, unit)
    (False, False): (_light, _light), (False, True): (_light, _light),
    (True, False): (_encoded, _decoded), (True, True): (_encoded_unit, _decoded_unit),
}  # fmt: skip


@rule
def _unit(x: Any) -> Any:
    return min(max(x, np.float32(0.0)), np.float32(1.0))


@rule
def _beyond(below: Any, top: Any) -> Any:
    """What a blend that is laid down between 0 and 1 does outside: the light below stays, and what is above 1 on top is added."""
    return (below - _unit(below)) + max(top - np.float32(1.0), np.float32(0.0))


def blend_join(blend: Rule, *, unit: bool, display: bool) -> Join:
    """A join of colours without their alphas, `blend(below, top)` for each channel; `unit` blends are laid down between 0 and 1 only,
    `display` ones work on sRGB values. How alphas mix is linear in both."""
    into, back = CURVES[display, unit]

    def blended(top: Any, below: Any, opacity: Any, out: Any) -> None:
        for x in range(top.shape[0] // 4):
            i = 4 * x
            aa, ba = top[i + 3], below[i + 3]
            per_a, per_b = _per(aa), _per(ba)
            r, g, b = top[i] * per_a, top[i + 1] * per_a, top[i + 2] * per_a
            rb, gb, bb = below[i] * per_b, below[i + 1] * per_b, below[i + 2] * per_b
            if unit:
                red = back(blend(into(_unit(rb)), into(_unit(r)))) + _beyond(rb, r)
                green = back(blend(into(_unit(gb)), into(_unit(g)))) + _beyond(gb, g)
                blue = back(blend(into(_unit(bb)), into(_unit(b)))) + _beyond(bb, b)
            else:
                red, green, blue = back(blend(into(rb), into(r))), back(blend(into(gb), into(g))), back(blend(into(bb), into(b)))
            out[i] = _mixed(top[i], aa, below[i], ba, opacity, red)
            out[i + 1] = _mixed(top[i + 1], aa, below[i + 1], ba, opacity, green)
            out[i + 2] = _mixed(top[i + 2], aa, below[i + 2], ba, opacity, blue)
            out[i + 3] = _union(aa, ba, opacity)

    return _driven(blended, f"{'display' if display else 'linear'}{blend.__name__}")


def colour_join(blend: Rule, *, display: bool) -> Join:
    """A join of whole colours, `blend(r, g, b, red, green, blue)`, below and top, gives three; negatives count as 0, and what is
    brighter than 1 is scaled to fit and back."""
    into, back = CURVES[display, True]

    def coloured(top: Any, below: Any, opacity: Any, out: Any) -> None:
        one, zero = np.float32(1.0), np.float32(0.0)
        for x in range(top.shape[0] // 4):
            i = 4 * x
            aa, ba = top[i + 3], below[i + 3]
            per_a, per_b = _per(aa), _per(ba)
            # the curves are asked within 0 and 1 only
            r, g, b = max(top[i] * per_a, zero), max(top[i + 1] * per_a, zero), max(top[i + 2] * per_a, zero)
            rb, gb, bb = below[i] * per_b, below[i + 1] * per_b, below[i + 2] * per_b
            ru, gu, bu = max(rb, zero), max(gb, zero), max(bb, zero)
            most = max(one, max(max(max(r, g), b), max(max(ru, gu), bu)))
            k = one / most
            red, green, blue = blend(into(ru * k), into(gu * k), into(bu * k), into(r * k), into(g * k), into(b * k))
            out[i] = _mixed(top[i], aa, below[i], ba, opacity, back(red) * most + (rb - ru))
            out[i + 1] = _mixed(top[i + 1], aa, below[i + 1], ba, opacity, back(green) * most + (gb - gu))
            out[i + 2] = _mixed(top[i + 2], aa, below[i + 2], ba, opacity, back(blue) * most + (bb - bu))
            out[i + 3] = _union(aa, ba, opacity)

    return _driven(coloured, f"{'display' if display else 'linear'}{blend.__name__}")


@kernel("void(f4[:,:,::1], f4[:,:,::1])")
def alone(picture: Any, out: Any) -> None:
    """An RGBA picture divided by its alpha and opaque, where it has any."""
    width, zero, one = picture.shape[1], np.float32(0.0), np.float32(1.0)
    for y in prange(np.int64(picture.shape[0])):
        b, o = picture[y].reshape(4 * width), out[y].reshape(4 * width)
        for x in range(width):
            i = 4 * x
            per = one / choose(b[i + 3] > zero, b[i + 3], one)
            o[i], o[i + 1], o[i + 2], o[i + 3] = b[i] * per, b[i + 1] * per, b[i + 2] * per, one


@kernel("void(f4[:,:,::1], f4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def put_inside(below: Any, single: Any, joined: Any, out: Any) -> None:
    """out = B + b (joined - single), inside the alpha below, which is looked at as colours are, so that it is done with them, and stays."""
    width, zero = below.shape[1], np.float32(0.0)
    for y in prange(np.int64(below.shape[0])):
        b, s = below[y].reshape(4 * width), single[y].reshape(4 * width)
        j, o = joined[y].reshape(4 * width), out[y].reshape(4 * width)
        for x in range(width):
            i = 4 * x
            share = choose(b[i + 3] > zero, b[i + 3], zero)
            o[i], o[i + 1] = b[i] + share * (j[i] - s[i]), b[i + 1] + share * (j[i + 1] - s[i + 1])
            o[i + 2], o[i + 3] = b[i + 2] + share * (j[i + 2] - s[i + 2]), b[i + 3] + zero * (j[i + 3] - s[i + 3])
