"""Light drawn out along straight lines: a lattice of lines in one direction, along which it falls off, and back to pixels.

Only lines that hold light are there, so a few lamps cost little. A lattice lies still in the frame and begins where the light does:
a window comes out as the whole does bit for bit.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Window
from . import blank, kernel, part, ready, row_kernel
from .points import Points
from .vectors import choose

Pixels = NDArray[np.float32]
TINY = np.float32(1e-20)  # light as which less is none
PIECE = 16  # points of a line that lie together, beside those of the lines next to it
HELD = 3 * (PIECE + 1)  # numbers of a piece: the first point of the next one with it


@row_kernel("void(f8[::1], f8[::1], f4[:,::1], i8, i4[::1], i8, f4[:,:,::1])")
def _put_on_lines(along: Any, across: Any, light: Any, first: Any, slots: Any, begin: Any, lines: Any) -> None:
    """Each point's light, its place counted along and across the lines, on the four points of the lattice around it."""
    one = np.float32(1.0)
    for n in range(light.shape[0]):
        s, t = along[n], across[n]
        i, j = np.int64(math.floor(s)), np.int64(math.floor(t))
        fs, ft = np.float32(s - i), np.float32(t - j)
        for down in range(2):
            wt = ft if down else one - ft
            line = lines[slots[j + down - first]]
            for c in range(3):
                line[i - begin, c] += wt * (one - fs) * light[n, c]
                line[i - begin + 1, c] += wt * fs * light[n, c]


@part
def _on(held: Any, keep: Any, more: Any) -> Any:
    """What there is a pixel on; too little is none."""
    on = held * keep + more
    return choose(on > TINY, on, np.float32(0.0))


@kernel("void(f4[:,:,::1], f4[::1], f4, b1, f4[:,:,::1])")
def _fall_along(lines: Any, keep: Any, share: Any, both: Any, out: Any) -> None:
    """sum over k >= 0 of (1 - keep) keep^k x the light k points before, and with `both` the same from the other side; in pieces
    `[piece, line, HELD]`."""
    zero, one = np.float32(0.0), np.float32(1.0)
    count = lines.shape[1]
    k0, k1, k2 = keep[0], keep[1], keep[2]
    g0, g1, g2 = share * (one - k0), share * (one - k1), share * (one - k2)
    for n in prange(np.int64(lines.shape[0])):
        line = lines[n].reshape(3 * count)
        o = np.zeros(3 * (out.shape[0] * PIECE + 1), np.float32)
        r, g, b = zero, zero, zero
        if both:
            # both ways at once: each step waits for the one before it, and the other way goes on meanwhile
            back = np.empty(3 * count, np.float32)
            red, green, blue = zero, zero, zero
            for x in range(count):
                i, k = 3 * x, 3 * (count - 1 - x)
                r, g, b = _on(r, k0, line[i]), _on(g, k1, line[i + 1]), _on(b, k2, line[i + 2])
                red, green, blue = _on(red, k0, line[k]), _on(green, k1, line[k + 1]), _on(blue, k2, line[k + 2])
                o[i], o[i + 1], o[i + 2] = g0 * r, g1 * g, g2 * b
                back[k], back[k + 1], back[k + 2] = g0 * red, g1 * green, g2 * blue
            for i in range(3 * count):
                o[i] += back[i]
        else:
            for x in range(count):
                i = 3 * x
                r, g, b = _on(r, k0, line[i]), _on(g, k1, line[i + 1]), _on(b, k2, line[i + 2])
                o[i], o[i + 1], o[i + 2] = g0 * r, g1 * g, g2 * b
        for piece in range(out.shape[0]):
            to, of = out[piece, n], o[3 * PIECE * piece : 3 * PIECE * piece + HELD]
            for i in range(HELD):
                to[i] = of[i]


@kernel("void(f4[::1], f8[:,::1], i8[:,::1], f8, f8, f4[:,:,::1])")
def _from_lines(lines: Any, ways: Any, runs: Any, x0: Any, y0: Any, out: Any) -> None:
    """At each pixel what the lines beside its centre hold there, of all directions together.

    `ways` of each direction the step along a line, x and y. `runs` of lines that follow one another: their direction, the number of the
    first, how many, which of the lines that is, where in `lines` those of the direction begin, how many numbers a piece of them all is,
    and the place along a line at which they begin. Places in `lines` count without a sign, which spares a check of each.
    """
    zero, one, width = np.float32(0.0), np.float32(1.0), out.shape[1]
    c1, c2, c3, c4, c5 = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4), np.uint64(5)
    for y in prange(np.int64(out.shape[0])):
        row = out[y].reshape(3 * width)
        row[:] = zero
        # of each pixel the place of the first of the two points on the line above it, how near it is to the line below, and to the second
        place, which = np.empty(width, np.int64), np.empty(width, np.int64)
        down, on = np.empty(width, np.float32), np.empty(width, np.float32)
        for n in range(runs.shape[0]):
            ux, uy = ways[runs[n, 0], 0], ways[runs[n, 0], 1]
            number, count, slot, base, apart, begin = runs[n, 1], runs[n, 2], runs[n, 3], runs[n, 4], runs[n, 5], runs[n, 6]
            # across the lines a pixel's centre lies at (y0 + y) ux - (x0 + x) uy - number
            middle, along = (y0 + y) * ux - number, (y0 + y) * uy
            start, end = np.int64(0), np.int64(width)
            if abs(uy) > 1e-9:
                one_end, other_end = (middle + 1.0) / uy - x0, (middle - count) / uy - x0
                start = max(start, np.int64(math.floor(min(one_end, other_end))))
                end = min(end, np.int64(math.floor(max(one_end, other_end))) + np.int64(2))
            while start < end and not -1.0 <= middle - (x0 + start) * uy < count:
                start += 1
            while start < end and not -1.0 <= middle - (x0 + (end - 1)) * uy < count:
                end -= 1
            for k in range(end - start):
                x = x0 + (start + k)
                t, s = middle - x * uy, x * ux + along
                j, i = np.int64(np.floor(t)), np.int64(np.floor(s))
                down[k], on[k], which[k] = np.float32(t - j), np.float32(s - i), j
                q = i - begin
                place[k] = base + (q // PIECE) * apart + (slot + j) * HELD + 3 * (q % PIECE)
            for k in range(end - start):
                fs, ft = on[k], down[k]
                gs, to, j = one - fs, np.uint64(3 * (start + k)), which[k]
                red, green, blue = row[to], row[to + c1], row[to + c2]
                if j >= 0:
                    a, w0, w1 = np.uint64(place[k]), (one - ft) * gs, (one - ft) * fs
                    red += w0 * lines[a] + w1 * lines[a + c3]
                    green += w0 * lines[a + c1] + w1 * lines[a + c4]
                    blue += w0 * lines[a + c2] + w1 * lines[a + c5]
                if j + 1 < count:
                    a, w0, w1 = np.uint64(place[k] + HELD), ft * gs, ft * fs
                    red += w0 * lines[a] + w1 * lines[a + c3]
                    green += w0 * lines[a + c1] + w1 * lines[a + c4]
                    blue += w0 * lines[a + c2] + w1 * lines[a + c5]
                row[to], row[to + c1], row[to + c2] = red, green, blue


def _span(box: Window, ux: float, uy: float) -> tuple[int, int]:
    """The first and the last whole place along a direction beside what lies in a window."""
    places = [x * ux + y * uy for x in (box.x0 + 0.5, box.x1 - 0.5) for y in (box.y0 + 0.5, box.y1 - 0.5)]
    return math.floor(min(places)), math.floor(max(places)) + 1


@dataclass(frozen=True)
class _Lattice:
    """The lines of one direction that hold light: their numbers from the first, which of these there are, and where along them they
    begin and end."""

    ux: float
    uy: float
    along: NDArray[np.float64]
    across: NDArray[np.float64]
    first: int
    holds: NDArray[np.bool_]
    begin: int
    end: int

    @property
    def shape(self) -> tuple[int, int, int]:
        return int(self.holds.sum()), self.end - self.begin + 1, 3

    @property
    def in_pieces(self) -> tuple[int, int, int]:
        return -(-self.shape[1] // PIECE), self.shape[0], HELD

    def slots(self) -> NDArray[np.int64]:
        """Where among the lines each number stands; -1 where there is none."""
        return np.where(self.holds, np.cumsum(self.holds) - 1, -1)

    def runs(self) -> Iterator[tuple[int, int, int]]:
        """Lines that follow one another: the number of the first, how many, and where among the lines it stands."""
        edges, slots = np.diff(np.concatenate([[0], self.holds.astype(np.int64), [0]])), self.slots()
        for start, end in zip(np.flatnonzero(edges == 1), np.flatnonzero(edges == -1), strict=True):
            yield self.first + int(start), int(end - start), int(slots[start])


def _lattice(points: Points, angle: float, window: Window) -> _Lattice:
    ux, uy = math.cos(math.radians(angle)), -math.sin(math.radians(angle))
    along, across = points.x * ux + points.y * uy, points.y * ux - points.x * uy
    number = np.floor(across).astype(np.int64)
    first = int(number.min())
    holds = np.zeros(int(number.max()) - first + 2, np.bool_)
    holds[number - first] = True
    holds[number - first + 1] = True
    low, high = _span(window, ux, uy)
    return _Lattice(ux, uy, along, across, first, holds, min(low, math.floor(along.min())), max(high, math.floor(along.max()) + 1))


def arms(points: Points, angles: Sequence[float], both: bool, keep: Pixels, share: float, window: Window) -> Pixels:
    """What points of light send out at angles, `float32[h, w, 3]` on a window.

    Degrees counter-clockwise from the right; with `both` the other way as well. Of each point's light `share` goes each way, and
    `keep[c]` of what there is is left after every pixel of the way.
    """
    if not points.light.size or window.empty:
        return np.zeros((window.height, window.width, 3), np.float32)
    lattices = [_lattice(points, angle, window) for angle in angles]
    sizes = [math.prod(one.in_pieces) for one in lattices]
    fallen, runs, begin = blank(sum(sizes)), [], 0
    for way, (one, size) in enumerate(zip(lattices, sizes, strict=True)):
        lines = np.zeros(one.shape, np.float32)
        _put_on_lines(one.along, one.across, ready(points.light), one.first, one.slots().astype(np.int32), one.begin, lines)
        _fall_along(lines, ready(keep), np.float32(share), both, fallen[begin : begin + size].reshape(one.in_pieces))
        apart = one.shape[0] * HELD
        runs += [(way, number, count, slot, begin, apart, one.begin) for number, count, slot in one.runs()]
        begin += size
    out, ways = blank(window.height, window.width, 3), np.array([(one.ux, one.uy) for one in lattices], np.float64)
    _from_lines(fallen, ways, np.array(runs, np.int64), window.x0 + 0.5, window.y0 + 0.5, out)
    return out
