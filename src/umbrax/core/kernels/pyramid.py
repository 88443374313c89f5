"""Pyramids: spreading light over octaves, and filling holes from around them.

Down is [1 7 21 35 35 21 7 1]/128 on every second pixel, up the subdivision of a quartic spline, [1 10 5]/16 and [5 10 1]/16; a
step down has a variance of 7/4 of its finer pixels' square, a step up of 5/4. So smooth a pair keeps a level from swimming: its
peak changes by 3 % with the place of a point in the grid, where [1 3 3 1] and a tent let it change by 40 %.
Levels lie on multiples of 2^k of the frame, so a window's result equals the whole's.
"""

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Window
from . import blank, kernel, part, ready
from .drawing import Drawing
from .lit import once_of
from .vectors import lay_light

Pixels = NDArray[np.float32]
MARGIN = 2
DARK = Window(0, 0, 1, 1)


@part
def _row(picture: Any, y: Any) -> Any:
    """A row as one line of numbers; the nearest one where y is outside."""
    inside = min(max(y, np.int64(0)), picture.shape[0] - np.int64(1))
    return picture[inside].reshape(picture.shape[1] * picture.shape[2])


@part
def _share(y: Any, height: Any, weight: Any) -> Any:
    return weight if y >= 0 and y < height else np.float32(0.0)


@part
def _along_row(gains: Any, row: Any) -> None:
    """A factor for each channel becomes one for every number of a row."""
    for i in range(row.shape[0]):
        row[i] = gains[i % gains.shape[0]]


@kernel("void(f4[:,:,::1], i8, i8, f4[::1], f4[:,:,::1])")
def _down(fine: Any, off_y: Any, off_x: Any, gains: Any, out: Any) -> None:
    """Coarse pixel j takes the fine ones 2j - 3 .. 2j + 4 (offsets count from the fine array); outside is 0.

    `gains`: a factor for each channel.
    """
    height, width, channels = fine.shape
    factors = np.empty(out.shape[1] * channels, np.float32)
    _along_row(gains, factors)
    least, small, middle, large = np.float32(1 / 128), np.float32(7 / 128), np.float32(21 / 128), np.float32(35 / 128)
    pairs = out.shape[1] + 4
    first, last = max(np.int64(0), off_x - 4), min(width, off_x - 4 + 2 * pairs)
    low, high = (first - off_x + 4) * channels, (max(last, first) - off_x + 4) * channels
    for j in prange(np.int64(out.shape[0])):
        line = np.empty(2 * pairs * channels, np.float32)
        even, odd = np.empty(pairs * channels, np.float32), np.empty(pairs * channels, np.float32)
        line[:low], line[high:] = np.float32(0.0), np.float32(0.0)
        if last > first:
            y = 2 * np.int64(j) - 3 + off_y
            w0, w1 = _share(y, height, least), _share(y + 1, height, small)
            w2, w3 = _share(y + 2, height, middle), _share(y + 3, height, large)
            w4, w5 = _share(y + 4, height, large), _share(y + 5, height, middle)
            w6, w7 = _share(y + 6, height, small), _share(y + 7, height, least)
            a, b = _row(fine, y)[first * channels : last * channels], _row(fine, y + 1)[first * channels : last * channels]
            c, d = _row(fine, y + 2)[first * channels : last * channels], _row(fine, y + 3)[first * channels : last * channels]
            e, f = _row(fine, y + 4)[first * channels : last * channels], _row(fine, y + 5)[first * channels : last * channels]
            g, h = _row(fine, y + 6)[first * channels : last * channels], _row(fine, y + 7)[first * channels : last * channels]
            to = line[low:high]
            # in two halves: the compiler looks at so many rows at once and no more
            for i in range(to.shape[0]):
                to[i] = w0 * a[i] + w1 * b[i] + w2 * c[i] + w3 * d[i]
            for i in range(to.shape[0]):
                to[i] += w4 * e[i] + w5 * f[i] + w6 * g[i] + w7 * h[i]
        if channels == 3:
            for m in range(pairs):
                i, k = 6 * m, 3 * m
                even[k], even[k + 1], even[k + 2] = line[i], line[i + 1], line[i + 2]
                odd[k], odd[k + 1], odd[k + 2] = line[i + 3], line[i + 4], line[i + 5]
        elif channels == 1:
            for m in range(pairs):
                even[m], odd[m] = line[2 * m], line[2 * m + 1]
        else:
            for m in range(pairs):
                for c in range(channels):
                    even[m * channels + c] = line[2 * m * channels + c]
                    odd[m * channels + c] = line[(2 * m + 1) * channels + c]
        o = _row(out, np.int64(j))
        # of the pair of each coarse pixel, of the two before it and of the two behind it
        even_before, odd_before, even_here, odd_here = even[channels:], odd[channels:], even[2 * channels :], odd[2 * channels :]
        even_after, odd_after, even_last = even[3 * channels :], odd[3 * channels :], even[4 * channels :]
        for i in range(o.shape[0]):
            o[i] = least * (odd[i] + even_last[i]) + small * (even_before[i] + odd_after[i])
        for i in range(o.shape[0]):
            o[i] = factors[i] * (o[i] + middle * (odd_before[i] + even_after[i]) + large * (even_here[i] + odd_here[i]))


@kernel("void(f4[:,:,::1], i8, i8, f4, f4[:,:,::1], i8, i8, f4[::1], f4[:,:,::1], i8, i8, i8, i8, f4, f4[:,:,::1])")
def _up_add(
    coarse: Any, off_y: Any, off_x: Any, gain: Any, fine: Any, fine_y: Any, fine_x: Any, gains: Any, below: Any, top: Any, left: Any,
    height: Any, width: Any, amount: Any, out: Any,
) -> None:  # fmt: skip
    """gains x fine + gain x enlarged coarse, outside of which is 0; offsets: the origin of what is made within each of the others.

    `gains`: a factor for each channel; with none of them `fine` is not looked at. What is made fills `out`, or where that is RGBA and
    this is not, `amount` of it is added to `below` where it stands there.
    """
    channels, tall = coarse.shape[2], coarse.shape[0]
    onto = out.shape[2] != channels
    near, centre, far = np.float32(5 / 16), np.float32(10 / 16), np.float32(1 / 16)
    start = off_x >> 1
    pairs = ((width - 1 + off_x) >> 1) - start + 1
    first = max(np.int64(0), start - 1)
    last = max(first, min(coarse.shape[1], start + pairs + 1))
    low, high = (first - start + 1) * channels, (last - start + 1) * channels
    begin, end = max(np.int64(0), -fine_x), min(width, fine.shape[1] - fine_x)
    factors = np.empty(width * channels if gains.shape[0] else 0, np.float32)
    _along_row(gains, factors)
    for y in prange(np.int64(out.shape[0])):
        line, wide = np.empty((pairs + 2) * channels, np.float32), np.empty((2 * pairs + 1) * channels, np.float32)
        row, o = np.int64(y) - top, _row(out, np.int64(y))
        within, made = row >= 0 and row < height, wide[(off_x & 1) * channels :][: width * channels]
        if within:
            at = row + off_y
            mid = at >> 1
            other, third = (mid - 1, mid + 1) if at & 1 == 0 else (mid + 1, mid - 1)
            a, b = _row(coarse, mid)[first * channels : last * channels], _row(coarse, other)[first * channels : last * channels]
            c = _row(coarse, third)[first * channels : last * channels]
            line[:low], line[high:] = np.float32(0.0), np.float32(0.0)
            to = line[low:high]
            of_mid, of_other, of_third = _share(mid, tall, centre), _share(other, tall, near), _share(third, tall, far)
            for i in range(to.shape[0]):
                to[i] = gain * (of_mid * a[i] + of_other * b[i] + of_third * c[i])
            before, here, after = line, line[channels:], line[2 * channels :]
            if channels == 3:
                for m in range(pairs):
                    i, k = 6 * m, 3 * m
                    for c in range(3):
                        left_one, own, right_one = before[k + c], centre * here[k + c], after[k + c]
                        wide[i + c] = own + (near * left_one + far * right_one)
                        wide[i + 3 + c] = own + (near * right_one + far * left_one)
            elif channels == 1:
                for m in range(pairs):
                    own = centre * here[m]
                    wide[2 * m], wide[2 * m + 1] = own + (near * before[m] + far * after[m]), own + (near * after[m] + far * before[m])
            else:
                for m in range(pairs):
                    for c in range(channels):
                        k = m * channels + c
                        wide[2 * m * channels + c] = centre * here[k] + (near * before[k] + far * after[k])
                        wide[(2 * m + 1) * channels + c] = centre * here[k] + (near * after[k] + far * before[k])
            if gains.shape[0] and row + fine_y >= 0 and row + fine_y < fine.shape[0] and end > begin:
                part, g = made[begin * channels : end * channels], factors[begin * channels : end * channels]
                add = _row(fine, row + fine_y)[(begin + fine_x) * channels : (end + fine_x) * channels]
                for i in range(part.shape[0]):
                    part[i] += g[i] * add[i]
        lay_light(made, within, onto, _row(below, np.int64(y)), amount, left, o)


def reach(levels: int) -> int:
    """How many pixels around a pixel can have a part in its spread value with this many levels below the first."""
    return 6 << levels


@dataclass(frozen=True, eq=False)
class Octaves(Drawing):
    """gains x fine + gain x coarse, that on pixels twice as large, outside of which is 0: light spread over the levels of a pyramid, all but
    the finest put together."""

    coarse: Pixels
    coarse_at: Window
    gain: float
    fine: Pixels
    fine_at: Window
    gains: Pixels  # of the finest level, for each channel; none where it has no part

    @property
    def nbytes(self) -> int:
        return self.coarse.nbytes + self.fine.nbytes

    @property
    def channels(self) -> int:
        return int(self.coarse.shape[2])

    def _draw(self, part: Window, amount: np.float32, below: Pixels, top: int, left: int, out: Pixels) -> None:
        coarse, fine = self.coarse_at, self.fine_at
        _up_add(
            self.coarse, part.y0 - 2 * coarse.y0, part.x0 - 2 * coarse.x0, np.float32(self.gain), self.fine, part.y0 - fine.y0,
            part.x0 - fine.x0, self.gains, below, top, left, part.height, part.width, amount, out,
        )  # fmt: skip


class Pyramid:
    """A plane of light `[h, w, c]` on a window, outside of which is darkness, and below it `levels` - 1 coarser ones; `tint` has a factor
    for each channel."""

    def __init__(self, pixels: Pixels, window: Window, levels: int, tint: Pixels):
        self._covers, self._tint = _covers(window, levels), ready(tint)
        self._plain = np.ones_like(self._tint)
        self._levels = [ready(pixels)]
        for number, (at, cover) in enumerate(pairwise(self._covers)):
            coarse = blank(cover.height, cover.width, len(self._tint))
            # the first step down brings the tint along to all that follow
            _down(self._levels[-1], 2 * cover.y0 - at.y0, 2 * cover.x0 - at.x0, self._plain if number else self._tint, coarse)
            self._levels.append(coarse)

    def octaves(self, weights: list[float], out: Window, less: float = 0.0) -> Octaves:
        """Sum of `weights[k]` x level k x tint, to be drawn within the window `out`; level 0 is the plane itself, and `less` times that is
        taken away. There are no more weights than levels; their sum is the share of light that arrives."""
        count, none = len(weights), np.empty(0, np.float32)
        levels, covers = self._levels[:count], self._covers[:count]
        # below a single level is darkness
        light, light_at = (levels[-1], covers[-1]) if count > 1 else (np.zeros((1, 1, len(self._tint)), np.float32), DARK)
        gain = weights[-1]
        targets = _targets(covers, out)
        for fine, at, weight, target in zip(levels[-2:0:-1], covers[-2:0:-1], weights[-2:0:-1], targets, strict=True):
            finer = Octaves(light, light_at, gain, fine, at, self._plain * np.float32(weight) if weight else none)
            light, light_at, gain = finer.drawn(target), target, 1.0
        finest = self._tint * np.float32(weights[0]) - np.float32(less)
        return Octaves(light, light_at, gain, levels[0], covers[0], finest if finest.any() else none)


@lru_cache(maxsize=512)
def _covers(window: Window, levels: int) -> tuple[Window, ...]:
    """Of each level what holds any light that is fed on a window, from the finest on."""
    covers = [window]
    for _ in range(levels - 1):
        covers.append(covers[-1].scaled(2).grown(MARGIN))
    return tuple(covers)


@lru_cache(maxsize=512)
def _targets(covers: tuple[Window, ...], out: Window) -> tuple[Window, ...]:
    """Of what is put together of levels on such windows, from the coarsest to the second, what is needed on the window `out`."""
    wanted = [out]
    for _ in covers[1:]:
        wanted.append(wanted[-1].scaled(2).grown(1))
    targets: list[Window] = []
    light_at = covers[-1]
    for at, needed in zip(covers[-2:0:-1], wanted[-2:0:-1], strict=True):
        light_at = needed.intersect(light_at.grown(1).magnified(2).union(at))
        if light_at.empty:  # a dark pixel stands for darkness
            light_at = Window(needed.x0, needed.y0, needed.x0 + 1, needed.y0 + 1)
        targets.append(light_at)
    return tuple(targets)


def pyramid_once(part: Pixels, window: Window, levels: int, tint: Pixels) -> Pyramid:
    """The pyramid of the part of a plane that holds any light: once, where that is kept."""
    return once_of(part, "pyramid", (window, levels, tint.tobytes()), lambda: Pyramid(part, window, levels, tint))
