"""Pyramids: spreading light over octaves, and filling holes from around them.

Down is [1 3 3 1]/8 on every second pixel, up is the tent [1 3]/4; each step down or up has a variance of 3/4 of its
finer pixels' square. Levels lie on multiples of 2^k of the frame, so a window's result equals the whole's.
"""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Window
from . import kernel, ready

Pixels = NDArray[np.float32]
MARGIN = 2


@kernel("void(f4[:,:,::1], i8, i8, f4[:,:,::1])")
def _down(fine: Any, off_y: Any, off_x: Any, out: Any) -> None:
    """Coarse pixel j takes the fine rows 2j - 1 .. 2j + 2 (offsets count from the fine array); outside is 0."""
    height, width, channels = fine.shape
    small, large = np.float32(0.125), np.float32(0.375)
    for j in prange(np.int64(out.shape[0])):
        column = np.zeros((2 * out.shape[1] + 2, channels), np.float32)
        flat = column.reshape((2 * out.shape[1] + 2) * channels)
        x0, x1 = max(np.int64(0), off_x - 1), min(width, off_x + 2 * out.shape[1] + 1)
        for t in range(4):
            y = 2 * j - 1 + t + off_y
            if y < 0 or y >= height or x1 <= x0:
                continue
            w = small if t == 0 or t == 3 else large
            row = fine[y, x0:x1].reshape((x1 - x0) * channels)
            to = flat[(x0 - off_x + 1) * channels : (x1 - off_x + 1) * channels]
            for i in range(row.shape[0]):
                to[i] += w * row[i]
        o = out[j]
        for x in range(o.shape[0]):
            for c in range(channels):
                o[x, c] = small * (column[2 * x, c] + column[2 * x + 3, c]) + large * (column[2 * x + 1, c] + column[2 * x + 2, c])


@kernel("void(f4[:,:,::1], i8, i8, f4, f4[:,:,::1], i8, i8, f4, f4[:,:,::1])")
def _up_add(coarse: Any, off_y: Any, off_x: Any, gain: Any, fine: Any, fine_y: Any, fine_x: Any, weight: Any, out: Any) -> None:
    """out = weight x fine + gain x tent-enlarged coarse; offsets: the out array's origin within each of the others."""
    height, width, channels = fine.shape
    near, far = np.float32(0.75), np.float32(0.25)
    length = coarse.shape[1] * channels
    for y in prange(np.int64(out.shape[0])):
        at = y + off_y
        mid = at >> 1
        other = mid - 1 if at & 1 == 0 else mid + 1
        blended = np.empty((coarse.shape[1], channels), np.float32)
        flat = blended.reshape(length)
        a, b = coarse[mid].reshape(length), coarse[other].reshape(length)
        for i in range(length):
            flat[i] = gain * (near * a[i] + far * b[i])
        o = out[y]
        for x in range(o.shape[0]):
            from_x = x + off_x
            m = from_x >> 1
            n = m - 1 if from_x & 1 == 0 else m + 1
            for c in range(channels):
                o[x, c] = near * blended[m, c] + far * blended[n, c]
        row = y + fine_y
        if weight != np.float32(0.0) and row >= 0 and row < height:
            x0, x1 = max(np.int64(0), -fine_x), min(o.shape[0], width - fine_x)
            if x1 > x0:
                to = o[x0:x1].reshape((x1 - x0) * channels)
                add = fine[row, x0 + fine_x : x1 + fine_x].reshape((x1 - x0) * channels)
                for i in range(to.shape[0]):
                    to[i] += weight * add[i]


def reach(levels: int) -> int:
    """How many pixels around a pixel can have a part in its spread value with this many levels below the first."""
    return 4 << levels


def spread(pixels: Pixels, window: Window, weights: list[float], out: Window) -> Pixels:
    """Sum of `weights[k]` x level k of the pyramid, on the window `out`; level 0 is the picture itself.

    The pixels lie on `window`, outside is darkness. The weights' sum is the share of light that arrives.
    """
    levels: list[tuple[Pixels, Window]] = [(ready(pixels), window)]
    covers = [out.union(window)]
    for _ in weights[1:]:
        covers.append(covers[-1].scaled(2).grown(MARGIN))
    for cover in covers[1:]:
        fine, at = levels[-1]
        coarse = np.empty((cover.height, cover.width, fine.shape[2]), np.float32)
        _down(fine, 2 * cover.y0 - at.y0, 2 * cover.x0 - at.x0, coarse)
        levels.append((coarse, cover))
    if len(levels) == 1:
        grown = np.zeros((out.height, out.width, pixels.shape[2]), np.float32)
        part = out.intersect(window)
        inside = grown[part.y0 - out.y0 : part.y1 - out.y0, part.x0 - out.x0 : part.x1 - out.x0]
        inside[:] = np.float32(weights[0]) * pixels[part.y0 - window.y0 : part.y1 - window.y0, part.x0 - window.x0 : part.x1 - window.x0]
        return grown
    light: Pixels = levels[-1][0]
    light_at: Window = levels[-1][1]
    gain = weights[-1]
    wanted: list[Window] = [out]
    for _ in levels[2:]:
        wanted.append(wanted[-1].scaled(2).grown(1))
    for number in range(len(levels) - 2, -1, -1):
        (fine, at), target, weight = levels[number], wanted[number], weights[number]
        result = np.empty((target.height, target.width, pixels.shape[2]), np.float32)
        _up_add(
            light, target.y0 - 2 * light_at.y0, target.x0 - 2 * light_at.x0, np.float32(gain),
            fine, target.y0 - at.y0, target.x0 - at.x0, np.float32(weight), result,
        )  # fmt: skip
        light, light_at, gain = result, target, 1.0
    return light


def fill(pixels: Pixels, window: Window, known: Pixels) -> Pixels:
    """Replace what is not known (known = 0) by what surrounds it, blending by `known` in 0..1 (push and pull).

    Values come from the finest level at which something is known; where nothing is known anywhere, 0.
    """
    weight = ready(known)
    coarse: list[tuple[Pixels, Window]] = [(np.concatenate([ready(pixels) * weight, weight], axis=2), window)]
    while max(coarse[-1][1].width, coarse[-1][1].height) > 4 + 2 * MARGIN and len(coarse) < 14:
        fine, at = coarse[-1]
        cover = at.scaled(2).grown(MARGIN)
        down = np.empty((cover.height, cover.width, fine.shape[2]), np.float32)
        _down(fine, 2 * cover.y0 - at.y0, 2 * cover.x0 - at.x0, down)
        coarse.append((down, cover))
    values, at = coarse[-1]
    values = _divided(values)
    for number in range(len(coarse) - 2, -1, -1):
        fine, target = coarse[number]
        enlarged = np.empty((target.height, target.width, values.shape[2]), np.float32)
        none = np.zeros((1, 1, values.shape[2]), np.float32)
        _up_add(
            ready(values), target.y0 - 2 * at.y0, target.x0 - 2 * at.x0, np.float32(1.0),
            none, 0, 0, np.float32(0.0), enlarged,
        )  # fmt: skip
        certain = np.clip(fine[..., -1:], 0.0, 1.0)
        values, at = _divided(fine) * certain + enlarged * (np.float32(1.0) - certain), target
    return np.ascontiguousarray(values)


def _divided(weighted: Pixels) -> Pixels:
    w = weighted[..., -1:]
    return (weighted[..., :-1] / np.where(w > 1e-6, w, 1) * (w > 1e-6)).astype(np.float32)
