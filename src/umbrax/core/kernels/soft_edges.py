"""Edges that are softer than a pixel's coverage makes them: motion blur, defocus, ramps by luma or depth.

A crisp edge is moved by the distance to its contour. A soft one has no single contour: each of its levels is moved by as
much, which is flat dilation and erosion of grey values by a disc (J. Serra, Image Analysis and Mathematical Morphology,
1982). A disc is the Minkowski sum of smaller discs, so a long way is gone in steps that double.
"""

import math
from typing import Any

import cv2
import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, ready
from .blur import gaussian
from .blur import reach as blur_reach

Plane = NDArray[np.float32]
ACROSS = 64  # pixels of a row looked at together
STEP = 4  # pixels of a way gone at once, to begin with
DIRECTIONS = 24  # falls short by less than 1 % between two of them, of which a short way makes nothing; a long one has twice as many
FULL = 0.004  # this much of a ramp beyond both neighbours of a pixel makes its edge a soft one
LEAST = 1e-3
WIDE = 100  # pixels up to which every one within them is looked at
FADE = 3  # pixels over which a soft edge's treatment gives way to a crisp one's


@kernel("void(f4[:,:,::1], f4[:,::1], u1[::1])")
def _softness(planes: Any, out: Any, rows: Any) -> None:
    height, width = out.shape
    zero, one = np.float32(0.0), np.float32(1.0)
    for y in prange(np.int64(height)):
        above, here, below = planes[max(y - 1, 0)], planes[y], planes[min(y + 1, height - 1)]
        for start in range(0, width, ACROSS):
            end, partly = min(width, start + ACROSS), 0
            for x in range(start, end):
                partly += 1 if here[x, 0] > zero and here[x, 0] < one else 0
            if partly == 0:
                continue
            for x in range(start, end):
                m, left, right = here[x, 0], here[max(x - 1, 0), 0], here[min(x + 1, width - 1), 0]
                across = abs(right - left) >= abs(below[x, 0] - above[x, 0])
                a, b = (left, right) if across else (above[x, 0], below[x, 0])
                low, high = min(a, b), max(a, b)
                beyond = min(low, one - high)
                if low < m and m < high and beyond > zero:
                    out[y, x] = min(beyond / np.float32(FULL), one)
                    rows[y] = 1


def softness(planes: Plane) -> Plane | None:
    """How surely each pixel lies inside a soft edge of the first of the planes `float32[h, w, c]`, `float32[h, w]` in 0..1.

    A crisp edge leaves at most two partly covered pixels in a row across it; where a pixel lies between two others that are
    partly covered as well, the edge is wider. Lines thinner than a pixel rise and fall: they are no soft edges. None where
    no edge is soft.
    """
    out, rows = np.zeros(planes.shape[:2], np.float32), np.zeros(planes.shape[0], np.uint8)
    _softness(ready(planes), out, rows)
    return out if rows.any() else None


@kernel("void(f4[:,::1], i8[:,::1], f4[:,::1], f4, i8, f4[:,::1])")
def _furthest(padded: Any, places: Any, weights: Any, side: Any, margin: Any, out: Any) -> None:
    """The largest (side 1) or least (side -1) of a pixel and of bilinear samples around it."""
    height, width = out.shape
    for y in prange(np.int64(height)):
        best = np.empty(width, np.float32)
        middle = padded[y + margin, margin : margin + width]
        for x in range(width):
            best[x] = middle[x] * side
        for s in range(places.shape[0]):
            row, start = y + margin + places[s, 0], margin + places[s, 1]
            w0, w1, w2, w3 = weights[s, 0] * side, weights[s, 1] * side, weights[s, 2] * side, weights[s, 3] * side
            a, b = padded[row, start : start + width], padded[row, start + 1 : start + 1 + width]
            c, d = padded[row + 1, start : start + width], padded[row + 1, start + 1 : start + 1 + width]
            for x in range(width):
                best[x] = max(best[x], w0 * a[x] + w1 * b[x] + w2 * c[x] + w3 * d[x])
        o = out[y]
        for x in range(width):
            o[x] = best[x] * side


def _samples(radius: float) -> tuple[NDArray[np.int64], Plane]:
    """Whole-pixel places and bilinear weights of points on a circle, and on one of half its radius where that is apart."""
    points, around = [], DIRECTIONS if radius <= 2 * STEP else 2 * DIRECTIONS
    for r, count in ((radius, around), (radius / 2, around // 2)):
        if r == radius or radius > 1.5:
            points += [(r * math.sin(turn), r * math.cos(turn)) for turn in (2 * math.pi * k / count for k in range(count))]
    places, weights = [], []
    for dy, dx in points:
        dy, dx = (round(v) if abs(v - round(v)) < 1e-9 else v for v in (dy, dx))
        top, left = math.floor(dy), math.floor(dx)
        v, u = dy - top, dx - left
        places.append((top, left))
        weights.append(((1 - v) * (1 - u), (1 - v) * u, v * (1 - u), v * u))
    return np.array(places, np.int64), np.array(weights, np.float32)


def moved_levels(matte: Plane, by: float) -> Plane:
    """Every level of `float32[h, w]` moved outward by so many pixels, inward where negative.

    Outside the array its border goes on; callers hand in ceil(|by|) + 1 pixels more on each side.
    """
    gone, all_of_it = 0.0, abs(by)
    while gone < all_of_it:
        step = min(all_of_it - gone, max(STEP, gone))  # discs as large as the circle on which they lie leave nothing out in it
        gone += step
        margin = math.ceil(step) + 1
        places, weights = _samples(step)
        out = np.empty_like(matte)
        _furthest(ready(np.pad(matte, margin, mode="edge")), places, weights, np.float32(1 if by > 0 else -1), margin, out)
        matte = out
    return matte


def feather_sigma(feather: float) -> float:
    """The Gaussian that widens a ramp as a feather does: by the variance of a ramp of this width, less a pixel's own."""
    return math.sqrt(max(max(feather, 1.0) ** 2 - 1, 0.0) / 12)


def reach(by: float, feather: float) -> int:
    """Pixels around a pixel that can have a part in its value in `follow_soft_edges`."""
    sigma = feather_sigma(feather)
    return max(math.ceil(abs(by)) + 2 + blur_reach(sigma), _extent(by, feather) + FADE + 2)


def _extent(by: float, feather: float) -> int:
    return math.ceil(abs(by) + feather) + 2


def follow_soft_edges(planes: Plane, moved: Plane, by: float, feather: float, origin: tuple[int, int]) -> Plane:
    """The moved planes, with what is moved and feathered by levels around soft edges.

    `planes` are coverage, share and sum `float32[h, w, 3]` before, `moved` the same moved by their contour, and written to; `origin` is
    the place of the first pixel in the frame. A share follows from the coverage and the sum.
    """
    soft = softness(planes)
    if soft is None:
        return moved
    extent = _extent(by, feather)
    top, bottom, left, right = _box(soft, extent + FADE)
    near = _widened(soft[top:bottom, left:right], extent)
    w = near.copy()
    for _ in range(FADE):
        near = cv2.dilate(near, np.ones((3, 3), np.uint8))
        w += near
    w = np.minimum(w / np.float32(FADE + 1), 1)
    coverage = planes[..., 0]
    around = reach(by, feather)
    y0, x0 = max(top - around, 0), max(left - around, 0)
    levels = moved_levels(coverage[y0 : bottom + around, x0 : right + around], by)
    place = (slice(top, bottom), slice(left, right))
    sigma = feather_sigma(feather)
    if sigma:
        window = (origin[0] + left, origin[1] + top, origin[0] + right, origin[1] + bottom)
        levels = gaussian(levels[..., None], sigma, sigma, (origin[0] + x0, origin[1] + y0), window, True)[..., 0]
    else:
        levels = levels[top - y0 : bottom - y0, left - x0 : right - x0]
    levels = np.clip(levels, 0, 1)
    share = np.minimum(levels / np.maximum(planes[place][..., 2], np.float32(LEAST)), 1)
    for channel, value in ((0, levels), (1, share)):
        crisp = moved[place][..., channel]
        moved[place][..., channel] = np.where(w >= 1, value, crisp + (value - crisp) * w)
    return moved


def _widened(plane: Plane, by: int) -> Plane:
    """The largest value within so many pixels across and down."""
    if by <= WIDE:
        return np.asarray(cv2.dilate(plane, np.ones((2 * by + 1, 2 * by + 1), np.uint8)))
    from scipy.ndimage import maximum_filter1d  # takes the same time however far it looks

    across = maximum_filter1d(plane, 2 * by + 1, axis=1, mode="constant")
    return np.asarray(maximum_filter1d(across, 2 * by + 1, axis=0, mode="constant"))


def _box(soft: Plane, more: int) -> tuple[int, int, int, int]:
    """The rows and columns that hold any soft edge, and so many beyond them: from, to, from, to."""
    height, width = soft.shape
    rows = np.flatnonzero(soft.any(axis=1))
    columns = np.flatnonzero(soft[rows[0] : rows[-1] + 1].any(axis=0))
    return (
        max(int(rows[0]) - more, 0),
        min(int(rows[-1]) + more + 1, height),
        max(int(columns[0]) - more, 0),
        min(int(columns[-1]) + more + 1, width),
    )
