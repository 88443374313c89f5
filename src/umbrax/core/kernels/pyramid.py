"""Pyramids: spreading light over octaves, and filling holes from around them.

Down is [1 7 21 35 35 21 7 1]/128 on every second pixel, up the subdivision of a quartic spline, [1 10 5]/16 and [5 10 1]/16; a
step down has a variance of 7/4 of its finer pixels' square, a step up of 5/4. So smooth a pair keeps a level from swimming: its
peak changes by 3 % with the place of a point in the grid, where [1 3 3 1] and a tent let it change by 40 %.
Levels lie on multiples of 2^k of the frame, so a window's result equals the whole's.
"""

from typing import Any

import numpy as np
from numba import prange

from . import kernel, part
from .vectors import lay_light

MARGIN = 2  # pixels of a coarser level past what a finer one covers


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
def down(fine: Any, off_y: Any, off_x: Any, gains: Any, out: Any) -> None:
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


@part
def _pairs(off_x: Any, width: Any) -> Any:
    """How many pixels of a row a coarser one lies below."""
    return ((width - np.int64(1) + off_x) >> 1) - (off_x >> 1) + np.int64(1)


@part
def _enlarge(coarse: Any, off_y: Any, off_x: Any, gain: Any, row: Any, line: Any, wide: Any) -> None:
    """gain x one row of an enlarged picture, outside of which is 0, into `wide`; what is wanted begins there with its pixel off_x & 1.

    `line` has room for the coarse row, with a pixel more at either end.
    """
    tall, channels = coarse.shape[0], coarse.shape[2]
    near, centre, far = np.float32(5 / 16), np.float32(10 / 16), np.float32(1 / 16)
    pairs = line.shape[0] // channels - 2
    start = off_x >> 1
    first = max(np.int64(0), start - 1)
    last = max(first, min(coarse.shape[1], start + pairs + 1))
    low, high = (first - start + 1) * channels, (last - start + 1) * channels
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


@kernel("void(f4[:,:,::1], i8, i8, f4, f4[:,:,::1], i8, i8, f4[::1], f4[:,:,::1], i8, i8, i8, i8, f4, f4[:,:,::1])")
def up_add(
    coarse: Any, off_y: Any, off_x: Any, gain: Any, fine: Any, fine_y: Any, fine_x: Any, gains: Any, below: Any, top: Any, left: Any,
    height: Any, width: Any, amount: Any, out: Any,
) -> None:  # fmt: skip
    """gains x fine + gain x enlarged coarse, outside of which is 0; offsets: the origin of what is made within each of the others.

    `gains`: a factor for each channel; with none of them `fine` is not looked at. What is made fills `out`, or where that is RGBA and
    this is not, `amount` of it is added to `below` where it stands there.
    """
    channels = coarse.shape[2]
    onto, pairs = out.shape[2] != channels, _pairs(off_x, width)
    begin, end = max(np.int64(0), -fine_x), min(width, fine.shape[1] - fine_x)
    factors = np.empty(width * channels if gains.shape[0] else 0, np.float32)
    _along_row(gains, factors)
    for y in prange(np.int64(out.shape[0])):
        line, wide = np.empty((pairs + 2) * channels, np.float32), np.empty((2 * pairs + 1) * channels, np.float32)
        row, o = np.int64(y) - top, _row(out, np.int64(y))
        within, made = row >= 0 and row < height, wide[(off_x & 1) * channels :][: width * channels]
        if within:
            _enlarge(coarse, off_y, off_x, gain, row, line, wide)
            if gains.shape[0] and row + fine_y >= 0 and row + fine_y < fine.shape[0] and end > begin:
                part, g = made[begin * channels : end * channels], factors[begin * channels : end * channels]
                add = _row(fine, row + fine_y)[(begin + fine_x) * channels : (end + fine_x) * channels]
                for i in range(part.shape[0]):
                    part[i] += g[i] * add[i]
        lay_light(made, within, onto, _row(below, np.int64(y)), amount, left, o)


# of each step of `put_together`: where in memory the coarser picture begins, its height and width, and where in it, enlarged, the origin of
# what is made lies; the same of the level that is added; and where what is made begins, its height and width
COARSE, COARSE_TALL, COARSE_WIDE, OFF_Y, OFF_X, FINE, FINE_TALL, FINE_WIDE, FINE_Y, FINE_X, MADE, HEIGHT, WIDTH = range(13)


@kernel("void(f4[::1], i8[:,::1], i8, f4[::1], f4, f4[::1])")
def put_together(levels: Any, steps: Any, channels: Any, weights: Any, gain: Any, made: Any) -> None:
    """Step after step what `up_add` makes with one factor for all channels: of the coarsest of the levels times `gain`, then of what was
    made before. `weights` has the factor of the level that each step adds; with 0 it is not looked at."""
    for n in range(steps.shape[0]):
        source = levels if n == 0 else made
        tall, wide = steps[n, COARSE_TALL], steps[n, COARSE_WIDE]
        coarse = source[steps[n, COARSE] : steps[n, COARSE] + tall * wide * channels].reshape(tall, wide, channels)
        height, width = steps[n, HEIGHT], steps[n, WIDTH]
        out = made[steps[n, MADE] : steps[n, MADE] + height * width * channels].reshape(height, width * channels)
        across, factor = steps[n, FINE_WIDE], weights[n]
        fine = levels[steps[n, FINE] : steps[n, FINE] + steps[n, FINE_TALL] * across * channels].reshape(-1, across * channels)
        off_y, off_x, fine_y, fine_x = steps[n, OFF_Y], steps[n, OFF_X], steps[n, FINE_Y], steps[n, FINE_X]
        much, pairs = gain if n == 0 else np.float32(1.0), _pairs(off_x, width)
        begin, end = max(np.int64(0), -fine_x), min(width, across - fine_x)
        for y in prange(height):
            line, room = np.empty((pairs + 2) * channels, np.float32), np.empty((2 * pairs + 1) * channels, np.float32)
            row, o = np.int64(y), out[y]
            _enlarge(coarse, off_y, off_x, much, row, line, room)
            enlarged = room[(off_x & 1) * channels :]
            for i in range(o.shape[0]):
                o[i] = enlarged[i]
            if factor != 0 and row + fine_y >= 0 and row + fine_y < fine.shape[0] and end > begin:
                part, add = o[begin * channels : end * channels], fine[row + fine_y][(begin + fine_x) * channels : (end + fine_x) * channels]
                for i in range(part.shape[0]):
                    part[i] += factor * add[i]


def reach(levels: int) -> int:
    """How many pixels around a pixel can have a part in its spread value with this many levels below the first."""
    return 6 << levels
