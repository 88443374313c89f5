"""Pixels at an edge in depth whose light tells that what is nearer has a part in them, though their depth is that of what is behind.

A renderer that takes depth and motion from the middle of a pixel gives it those of what happens to be there. Spread as what is behind,
the part of a bright near thing would make a halo around it; it would stand still where the thing moves.
"""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blocks_of, called_part, kernel, part, ready
from .vectors import behind_from, choose

Values = NDArray[np.float32]
REACH = 2  # pixels on each side in which near and far have to be seen by themselves
TOLD_WITHIN = REACH + 1  # pixels on each side that say what a pixel is
OPAQUE = 0.999
PART = 0.06  # of a pixel, from which what is nearer counts in it
BRIGHT = 1e-4  # and from which it does where that part is brighter than all the rest
OFF = 0.15  # of how much near and far differ, that light may lie beside what is between them
OVER = 3.0  # times as much as what is far changes by itself
ALIKE = 1e-3  # of the squares of near and far, by which these differ at least


@called_part
def _behind(z: Any, other: Any, apart: Any) -> Any:
    """Whether something is so much farther that a lens tells the two apart."""
    return other >= behind_from(z, apart[0], apart[1])


@called_part
def _side(z: Any, low: Any, high: Any, apart: Any) -> Any:
    """-1 of what is near, 1 of what is far, 0 of what is neither."""
    near = not (_behind(low, z, apart) or _behind(z, low, apart))
    far = not (_behind(high, z, apart) or _behind(z, high, apart))
    return -1 if near else 1 if far else 0


@called_part
def _by_itself(light: Any, order: Any, y: Any, x: Any, low: Any, high: Any, apart: Any, side: Any) -> Any:
    """Whether a pixel and all those next to it are opaque and of one side."""
    alone = True
    for v in range(max(y - 1, 0), min(y + 2, order.shape[0])):
        for u in range(max(x - 1, 0), min(x + 2, order.shape[1])):
            alone = alone and light[v, u, 3] >= np.float32(OPAQUE) and _side(order[v, u], low, high, apart) == side
    return alone


@called_part
def _nearest(light: Any, order: Any, y: Any, x: Any, low: Any, high: Any, apart: Any, side: Any, mean: Any) -> Any:
    """The number of the nearest pixel of a side that stands by itself, -1 if there is none, and the mean light of those as near."""
    closest, count, found = 99, 0, np.int64(-1)
    for v in range(max(0, y - REACH), min(order.shape[0], y + REACH + 1)):
        for u in range(max(0, x - REACH), min(order.shape[1], x + REACH + 1)):
            away = (v - y) * (v - y) + (u - x) * (u - x)
            if away > closest or not _by_itself(light, order, v, u, low, high, apart, side):
                continue
            if away < closest:
                closest, count, found = away, 0, np.int64(v) * order.shape[1] + u
                mean[:] = 0.0
            count += 1
            for c in range(3):
                mean[c] += light[v, u, c]
    for c in range(3):
        mean[c] /= max(count, 1)
    return found


@called_part
def _along(light: Any, y: Any, x: Any, near: Any, far: Any) -> Any:
    """Where a pixel's light lies from far (0) to near (1), and how far beside that, in how much these differ; -1 where they hardly do."""
    size, apart, along, own = 0.0, 0.0, 0.0, 0.0
    for c in range(3):
        between, from_far = near[c] - far[c], light[y, x, c] - far[c]
        size += near[c] * near[c] + far[c] * far[c]
        apart, along, own = apart + between * between, along + between * from_far, own + from_far * from_far
    if apart <= ALIKE * size:
        return -1.0, 0.0
    share = along / apart
    return share, np.sqrt(max(own / apart - share * share, 0.0))


@called_part
def _strongest(light: Any, order: Any, y: Any, x: Any, low: Any, high: Any, apart: Any, far: Any, near: Any) -> Any:
    """The number and light of the pixel around that differs most from what is far, if that is a near one: of what is too thin to stand
    by itself. Otherwise -1."""
    most, found = 0.0, np.int64(-1)
    for v in range(max(0, y - REACH), min(order.shape[0], y + REACH + 1)):
        for u in range(max(0, x - REACH), min(order.shape[1], x + REACH + 1)):
            side, differs = _side(order[v, u], low, high, apart), 0.0
            if side == 0 or light[v, u, 3] < np.float32(OPAQUE):
                continue
            for c in range(3):
                differs += (light[v, u, c] - far[c]) ** 2
            if differs > most:
                most, found = differs, np.int64(v) * order.shape[1] + u if side < 0 else np.int64(-1)
                for c in range(3):
                    near[c] = light[v, u, c]
    return found


@called_part
def _part_of(light: Any, y: Any, x: Any, near: Any, far: Any) -> Any:
    """The share of a pixel that is near, if its light is one of near and far together; 0 if not, or if that is hardly any."""
    share, beside = _along(light, y, x, near, far)
    bright, rest = 0.0, 0.0
    for c in range(3):
        bright, rest = bright + near[c] * near[c], rest + far[c] * far[c]
    least = BRIGHT if share * share * bright > rest else PART
    return share if share >= least and share <= 1 + OFF and beside <= OFF else 0.0


@called_part
def _most(light: Any, order: Any, y: Any, x: Any, low: Any, high: Any, apart: Any, near: Any, far: Any) -> Any:
    """How far the light of what is far by itself lies from `far`, in how much that and `near` differ, at most."""
    most = 0.0
    for v in range(max(0, y - REACH), min(order.shape[0], y + REACH + 1)):
        for u in range(max(0, x - REACH), min(order.shape[1], x + REACH + 1)):
            if _by_itself(light, order, v, u, low, high, apart, 1):
                most = max(most, abs(_along(light, v, u, near, far)[0]))
    return most


@part
def _ends(above: Any, here: Any, below: Any, low: Any, high: Any) -> None:
    """The least and the largest of three by three pixels, for those of a row."""
    width = here.shape[0]
    for x in range(width):
        less = choose(above[x] < here[x], above[x], here[x])
        more = choose(above[x] > here[x], above[x], here[x])
        low[x + 1] = choose(below[x] < less, below[x], less)
        high[x + 1] = choose(below[x] > more, below[x], more)
    low[0], low[width + 1], high[0], high[width + 1] = low[1], low[width], high[1], high[width]
    for x in range(width):
        less, more = choose(low[x + 1] < low[x], low[x + 1], low[x]), choose(high[x + 1] > high[x], high[x + 1], high[x])
        low[x], high[x] = choose(low[x + 2] < less, low[x + 2], less), choose(high[x + 2] > more, high[x + 2], more)


@part
def _of_row(light: Any, order: Any, y: Any, apart: Any, near: Any, far: Any, lows: Any, highs: Any, out: Any) -> None:
    height, width = order.shape
    top, bottom = max(y - 1, 0), min(y + 2, height)
    _ends(order[top], order[y], order[bottom - 1], lows, highs)
    for x in range(width):
        out[x] = y * width + x
    for x in range(width):
        z, low, high = order[y, x], lows[x], highs[x]
        if not _behind(low, high, apart) or light[y, x, 3] < np.float32(OPAQUE) or _side(z, low, high, apart) != 1:
            continue
        two = True
        for v in range(top, bottom):
            for u in range(max(x - 1, 0), min(x + 2, width)):
                two = two and _side(order[v, u], low, high, apart) != 0
        if not two or _nearest(light, order, y, x, low, high, apart, 1, far) < 0:
            continue
        part, found = 0.0, _nearest(light, order, y, x, low, high, apart, -1, near)
        if found >= 0:
            part = _part_of(light, y, x, near, far)
        if part == 0.0:
            found = _strongest(light, order, y, x, low, high, apart, far, near)
            part = _part_of(light, y, x, near, far) if found >= 0 else 0.0
        if part > 0.0 and part >= OVER * _most(light, order, y, x, low, high, apart, near, far):
            out[x] = found


@kernel("void(f4[:,:,::1], f4[:,::1], f4[::1], i8, i8[:,::1])")
def _by_light(light: Any, order: Any, apart: Any, blocks: Any, out: Any) -> None:
    height, wide = order.shape[0], order.shape[1] + 2
    each = (height + blocks - 1) // blocks
    for block in prange(blocks):
        near, far, lows, highs = np.empty(3), np.empty(3), np.empty(wide, np.float32), np.empty(wide, np.float32)
        for y in range(np.int64(block) * each, min(height, np.int64(block) * each + each)):
            _of_row(light, order, y, apart, near, far, lows, highs, out[y])


def told_by_light(light: Values, order: Values, least: float, farther: float) -> NDArray[np.int64]:
    """Of each pixel of RGBA `light` the number, counted row by row, of the one that says how far away it is: at an edge that of what is
    nearer, where this has a part in its light, else its own.

    `order` `float32[h, w]` rises with the distance; at an edge something is farther by `least` of it, and by `farther` times it. Of an
    opaque pixel on the far side a share a is near, its light being a x near + (1 - a) x far, as they are beside it by themselves: the usual
    model of a matte.
    """
    out = np.empty(order.shape, np.int64)
    _by_light(ready(light), ready(order), np.array([least, farther], np.float32), blocks_of(len(order)), out)
    return out
