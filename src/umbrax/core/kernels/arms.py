"""Light drawn out along straight lines: a lattice of lines in one direction, along which it falls off, and back to pixels.

Only lines that hold light are there, so a few lamps cost little. A lattice lies still in the frame and begins where the light does:
a window comes out as the whole does bit for bit. Lines that follow one another lie side by side, and light falls along so many at once.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Window
from . import blank, kernel, lattices, part, ready
from .drawing import Drawing
from .points import Points
from .vectors import add_between, choose, lay_light

Pixels = NDArray[np.float32]
TINY = np.float32(1e-20)  # light as which less is none
HELD = 3 * (lattices.SIDE + 1) + 1  # numbers at a place along them; one more is read with the last three
# directions are done one after the other where their points, or blocks of lines, are more: that is memory, some 60 bytes and 500 kB each
MOST_PLACES, MOST_BLOCKS = 7_000_000, 1000
BITS = 32  # of a place that are a fraction: in whole numbers a pixel's is the same from whichever window it is seen
WHOLE = 1 << BITS


@part
def _on(held: Any, keep: Any, more: Any) -> Any:
    """What there is a place on; too little is none."""
    on = held * keep + more
    return choose(on > TINY, on, np.float32(0.0))


@kernel("void(i8[:,::1], i8[::1], i8[::1], f8[::1], f8[::1], f4[:,::1], f4[::1], f4, b1, f4[::1])")
def _fall_along(
    blocks: Any, begins: Any, order: Any, along: Any, across: Any, light: Any, keep: Any, share: Any, both: Any, out: Any
) -> None:  # fmt: skip
    """sum over k >= 0 of (1 - keep) keep^k x the light k places before, and with `both` the same from the other side.

    Each point, its place counted `along` and `across` the lines of a direction, gives its light to the four places around it.
    What is kept of each block begins in `out` where `begins` says.
    """
    zero, one = np.float32(0.0), np.float32(1.0)
    kept, gains = np.empty(HELD, np.float32), np.empty(HELD, np.float32)
    for i in range(HELD):
        kept[i], gains[i] = keep[i % 3], share * (one - keep[i % 3])
    longest = np.int64(0)
    for block in range(blocks.shape[0]):
        longest = max(longest, blocks[block, lattices.LENGTH])
    for n in prange(np.int64(blocks.shape[0])):
        lines, held = np.empty(longest * HELD, np.float32), np.empty(HELD, np.float32)
        number, start, length = blocks[n, lattices.LINE], blocks[n, lattices.START], blocks[n, lattices.LENGTH]
        low, count = blocks[n, lattices.KEPT] - start, blocks[n, lattices.COUNT]
        for k in range(length * HELD):
            lines[k] = zero
        for q in range(blocks[n, lattices.FIRST], blocks[n, lattices.LAST]):
            p = order[q]
            s, t = along[q], across[q]
            before, above = np.int64(math.floor(s)), np.int64(math.floor(t))
            fs, ft = np.float32(s - before), np.float32(t - above)
            for down in range(2):
                line = above + down - number
                if line >= 0 and line <= lattices.SIDE:
                    wt, at = ft if down else one - ft, (before - start) * HELD + 3 * line
                    for c in range(3):
                        lines[at + c] += wt * (one - fs) * light[p, c]
                        lines[at + HELD + c] += wt * fs * light[p, c]
        o = out[begins[n] : begins[n] + count * HELD]
        for i in range(HELD):
            held[i] = zero
        for x in range(low + count):
            more = lines[x * HELD : x * HELD + HELD]
            for i in range(HELD):
                held[i] = _on(held[i], kept[i], more[i])
            if x >= low:
                to = o[(x - low) * HELD : (x - low) * HELD + HELD]
                for i in range(HELD):
                    to[i] = gains[i] * held[i]
        if both:
            for i in range(HELD):
                held[i] = zero
            for k in range(length - low):
                x = length - 1 - k
                more = lines[x * HELD : x * HELD + HELD]
                for i in range(HELD):
                    held[i] = _on(held[i], kept[i], more[i])
                if x < low + count:
                    to = o[(x - low) * HELD : (x - low) * HELD + HELD]
                    for i in range(HELD):
                        to[i] += gains[i] * held[i]


@kernel("void(f4[::1], i8[:,::1], i8[:,::1], i8[::1], i8, i8, f4[:,:,::1], i8, i8, i8, i8, f4, f4[:,:,::1])")
def _from_lines(
    lines: Any, ways: Any, runs: Any, origins: Any, x0: Any, y0: Any, below: Any, top: Any, left: Any, height: Any, width: Any,
    amount: Any, out: Any,
) -> None:  # fmt: skip
    """At each pixel from (x0, y0) on what the lines beside its centre hold there, of all directions together: into `out`, or where that is
    RGBA `amount` of it added to `below` where it stands there.

    `ways` of each direction half a step along a line, x and y. `origins` of each block of lines where in `lines` their place 0 would be.
    """
    zero, one, part_of = np.float32(0.0), np.float32(1.0), np.float32(1.0 / WHOLE)
    onto = out.shape[2] == 4
    for y in prange(np.int64(out.shape[0])):
        # of each pixel the first of its two places on the line above it, and how near it is to the line below, and to the second place
        place, down, share = np.empty(width, np.int64), np.empty(width, np.float32), np.empty(width, np.float32)
        room, row = np.empty(4 * width, np.float32), np.empty(3 * width, np.float32)
        o, turn = out[y].reshape(out.shape[1] * out.shape[2]), np.int64(y) - top
        within = turn >= 0 and turn < height
        sums = room[: 4 * width]  # by another name: what an intrinsic gets is taken anew in every turn
        if within:
            for i in range(4 * width):
                sums[i] = zero
            for n in range(runs.shape[0]):
                ux, uy = ways[runs[n, lattices.RUN_WAY], 0], ways[runs[n, lattices.RUN_WAY], 1]
                number, block, inside = runs[n, lattices.RUN_LINE], runs[n, lattices.RUN_BLOCK], (runs[n, lattices.RUN_COUNT] - 1) * WHOLE
                # where the centre of the row's first pixel lies across the lines, from the first of them on, and along them
                across = (2 * (y0 + turn) + 1) * ux - (2 * x0 + 1) * uy - number * WHOLE
                along = (2 * (y0 + turn) + 1) * uy + (2 * x0 + 1) * ux
                start, end = np.int64(0), np.int64(width)
                if uy != 0:
                    one_end, other_end = across / (2.0 * uy), (across - inside) / (2.0 * uy)
                    start = max(start, np.int64(math.floor(min(one_end, other_end))))
                    end = min(end, np.int64(math.floor(max(one_end, other_end))) + np.int64(2))
                while start < end and not 0 <= across - 2 * start * uy < inside:
                    start += 1
                while start < end and not 0 <= across - 2 * (end - 1) * uy < inside:
                    end -= 1
                for k in range(end - start):
                    t, s = across - 2 * (start + k) * uy, along + 2 * (start + k) * ux
                    j, i = t >> BITS, s >> BITS
                    down[k], share[k] = np.float32(np.uint32(t)) * part_of, np.float32(np.uint32(s)) * part_of
                    place[k] = origins[np.uint64(block + (j >> lattices.EACH))] + i * HELD + 3 * (j & (lattices.SIDE - 1))
                for k in range(end - start):
                    fs, ft = share[k], down[k]
                    gs, gt = one - fs, one - ft
                    # with a fourth number, which is of no use, those of a place are worked on at once
                    add_between(
                        lines, place[k], np.int64(3), np.int64(HELD), gt * gs, ft * gs, gt * fs, ft * fs, sums, np.int64(4 * (start + k))
                    )
            for x in range(width):
                row[3 * x], row[3 * x + 1], row[3 * x + 2] = sums[4 * x], sums[4 * x + 1], sums[4 * x + 2]
        lay_light(row, within, onto, below[y].reshape(below.shape[1] * below.shape[2]), amount, left, o)


@dataclass(frozen=True, eq=False)
class Arms(Drawing):
    """Arms of light, to be drawn within the window that they were made for."""

    lines: Pixels
    ways: NDArray[np.int64]
    runs: NDArray[np.int64]
    origins: NDArray[np.int64]

    @property
    def nbytes(self) -> int:
        return self.lines.nbytes

    def _draw(self, part: Window, amount: np.float32, below: Pixels, top: int, left: int, out: Pixels) -> None:
        _from_lines(
            self.lines, self.ways, self.runs, self.origins, part.x0, part.y0, below, top, left, part.height, part.width, amount, out
        )  # fmt: skip


def arms(points: Points, angles: Sequence[float], both: bool, keep: Pixels, share: float, window: Window) -> Arms | Pixels:
    """What points of light send out at angles, one of each at least, to be drawn within a window, or drawn already where there are too many
    for that.

    Degrees counter-clockwise from the right; with `both` the other way as well. Of each point's light `share` goes each way, and
    `keep[c]` of what there is is left after every pixel of the way.
    """

    def in_halves() -> Pixels:
        total = np.zeros((window.height, window.width, 3), np.float32)
        for some in (angles[: len(angles) // 2], angles[len(angles) // 2 :]):
            made = arms(points, some, both, keep, share, window)
            total += made.drawn(window) if isinstance(made, Arms) else made
        return total

    if len(angles) > 1 and len(angles) * len(points.x) > MOST_PLACES:
        return in_halves()
    ways = np.array([(math.cos(math.radians(angle)), -math.sin(math.radians(angle))) for angle in angles])
    halves = np.rint(ways * (WHOLE // 2)).astype(np.int64)
    laid = points.once(
        "lattices", (tuple(angles), window), 3 * halves.shape[0] * len(points.x),
        lambda: lattices.laid_out(halves / (WHOLE / 2), points.x, points.y, window),
    )  # fmt: skip
    blocks = laid.blocks
    if len(angles) > 1 and len(blocks) > MOST_BLOCKS:
        return in_halves()
    room = blocks[:, lattices.COUNT] * HELD
    begins, lines = np.cumsum(room) - room, blank(int(room.sum()))
    _fall_along(blocks, begins, laid.order, laid.along, laid.across, ready(points.light), ready(keep), np.float32(share), both, lines)
    return Arms(lines, halves, laid.runs, begins - blocks[:, lattices.KEPT] * HELD)
