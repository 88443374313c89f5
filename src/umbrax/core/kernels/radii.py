"""How far each pixel of a picture is spread, and the picture with as much around it as that."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, kernel, part, ready
from .vectors import choose

Values = NDArray[np.float32]
LENS = "f4, f4, f4, f4"  # focus, endless, most, nothing


@part
def _radius(depth: Any, focus: Any, endless: Any, most: Any, nothing: Any) -> Any:
    away = abs(depth)
    spread = endless * (np.float32(1.0) - focus / max(away, np.float32(1e-6)))
    # NaN is nothing as well
    return max(-most, min(most, choose(away < nothing, spread, endless)))


@kernel(f"void(f4[:,::1], {LENS}, f4[:,::1])")
def _by_depth(depth: Any, focus: Any, endless: Any, most: Any, nothing: Any, out: Any) -> None:
    for y in prange(np.int64(depth.shape[0])):
        z, o = depth[y], out[y]
        for x in range(z.shape[0]):
            o[x] = _radius(z[x], focus, endless, most, nothing)


def by_depth(depth: Values, focus: float, endless: float, most: float, nothing: float) -> Values:
    """`float32[h, w]` in pixels, negative before the focus: `endless` x (1 - focus / depth), no farther than `most`. From `nothing` on a
    depth, whatever its sign, means that nothing is there: that is infinitely far."""
    out = blank(*depth.shape)
    _by_depth(ready(depth), np.float32(focus), np.float32(endless), np.float32(most), np.float32(nothing), out)
    return out


@kernel(f"void(f4[:,:,::1], f4[:,:,::1], i8, i8, {LENS}, f4[:,::1])")
def _radii(light: Any, depth: Any, down: Any, right: Any, focus: Any, endless: Any, most: Any, nothing: Any, out: Any) -> None:
    one, width, far = np.float32(1.0), light.shape[1], max(-most, min(most, endless))
    start, end = max(np.int64(0), -right), max(np.int64(0), min(width, depth.shape[1] - right))
    for y in prange(np.int64(light.shape[0])):
        o, row = out[y], np.int64(y) + down
        o[:] = far
        if row < 0 or row >= depth.shape[0] or end <= start:
            continue
        p, z, to = light[y].reshape(4 * width), depth[row].reshape(2 * depth.shape[1]), o[start:end]
        for x in range(to.shape[0]):
            i = 2 * (start + x + right)
            to[x] = _radius(choose(p[4 * (start + x) + 3] < one, z[i + 1], z[i]), focus, endless, most, nothing)


def radii(
    light: Values, depth: Values, place: tuple[int, int], focus: float, endless: float, most: float, nothing: float
) -> Values:  # fmt: skip
    """The same of pixels of RGBA `light`, by `depth` `float32[h, w, 2]`: theirs, and that of those partly covered.

    `place` is the row and column in it of the first pixel of `light`; what it does not tell of is infinitely far.
    """
    out = blank(*light.shape[:2])
    _radii(ready(light), ready(depth), *place, np.float32(focus), np.float32(endless), np.float32(most), np.float32(nothing), out)
    return out


@part
def _dark(p: Any, i: Any) -> Any:
    return (p[i] == 0) & (p[i + 1] == 0) & (p[i + 2] == 0) & (p[i + 3] == 0)


@kernel("void(f4[:,:,::1], f4[:,::1], f4[::1])")
def _farthest(light: Any, radius: Any, out: Any) -> None:
    zero, width = np.float32(0.0), light.shape[1]
    for y in prange(np.int64(light.shape[0])):
        p, r, most = light[y].reshape(4 * width), radius[y], zero
        for x in range(width):
            most = max(most, choose(_dark(p, 4 * x), zero, abs(r[x])))
        out[y] = most


def farthest(light: Values, radius: Values) -> float:
    """The largest radius, whatever its sign, of those pixels of RGBA that are not 0 in every channel."""
    rows = np.zeros(light.shape[0], np.float32)
    _farthest(ready(light), ready(radius), rows)
    return float(rows.max(initial=0))


@part
def _blank(o: Any, z: Any, s: Any, start: Any, end: Any) -> None:
    for i in range(4 * start, 4 * end):
        o[i] = np.float32(0.0)
    for x in range(start, end):
        z[x], s[x] = np.float32(np.inf), np.float32(0.0)


@part
def _again(o: Any, z: Any, s: Any, start: Any, end: Any, of: Any) -> None:
    for x in range(start, end):
        o[4 * x], o[4 * x + 1], o[4 * x + 2], o[4 * x + 3] = o[4 * of], o[4 * of + 1], o[4 * of + 2], o[4 * of + 3]
        z[x], s[x] = z[of], s[of]


@kernel("void(f4[:,:,::1], f4[:,::1], i8, b1, b1, b1, b1, f4[:,:,::1], f4[:,::1], f4[:,::1])")
def _surrounded(light: Any, radius: Any, around: Any, left: Any, top: Any, right: Any, bottom: Any, lights: Any, order: Any, size: Any) -> None:
    height, width = radius.shape
    zero, infinite, wide = np.float32(0.0), np.float32(np.inf), order.shape[1]
    end = around + width
    for y in prange(np.int64(order.shape[0])):
        v, o, z, s = np.int64(y) - around, lights[y].reshape(4 * wide), order[y], size[y]
        if (v < 0 and not top) or (v >= height and not bottom):
            _blank(o, z, s, np.int64(0), wide)
            continue
        v = min(max(v, np.int64(0)), height - 1)
        p, r = light[v].reshape(4 * width), radius[v]
        oo, zz, ss = o[4 * around : 4 * end], z[around:end], s[around:end]
        for x in range(width):
            i = 4 * x
            dark = _dark(p, i)
            oo[i], oo[i + 1], oo[i + 2], oo[i + 3] = p[i], p[i + 1], p[i + 2], p[i + 3]
            zz[x], ss[x] = choose(dark, infinite, r[x]), choose(dark, zero, abs(r[x]))
        if left:
            _again(o, z, s, np.int64(0), around, around)
        else:
            _blank(o, z, s, np.int64(0), around)
        if right:
            _again(o, z, s, end, wide, end - 1)
        else:
            _blank(o, z, s, end, wide)


def surrounded(light: Values, radius: Values, around: int, on: tuple[bool, bool, bool, bool]) -> tuple[Values, Values, Values]:
    """RGBA with so many pixels around: those at the border on the sides (left, top, right, bottom) where the picture goes on, nothing on
    the others; how far away each is, as its radius says, infinitely where it is 0 in every channel; and how far it is spread."""
    height, width = light.shape[0] + 2 * around, light.shape[1] + 2 * around
    lights, order, size = blank(height, width, 4), blank(height, width), blank(height, width)
    _surrounded(ready(light), ready(radius), around, *on, lights, order, size)
    return lights, order, size
