"""Which lines of lattices in several directions hold the light of points, and of which places along them something is seen in a window.

Lines that follow one another are a run, with an empty one at either end; of a run so many at a time are a block. A few empty lines
between those that hold light do not end it, or single ones would take a block each.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from ..picture import Window
from . import kernel

Numbers = NDArray[np.int64]
Places = NDArray[np.float64]
EACH = 4
SIDE = 1 << EACH  # lines of a block, to which the first of the next one comes
APART = 1 << 24  # more than there are lines in a direction
# of each block: the number of its first line, the first place along its lines that is worked on and how many those are,
# the first place that is kept and how many, and the first and the last of the points whose light may lie on them
LINE, START, LENGTH, KEPT, COUNT, FIRST, LAST = range(7)
# of each run: its direction, the number of its first line, how many they are, and its first block
RUN_WAY, RUN_LINE, RUN_COUNT, RUN_BLOCK = range(4)


@kernel("void(f8[:,::1], f8[:,::1], i8[:,::1], f8[:,::1], f8[:,::1])")
def _sort(across: Any, along: Any, order: Any, lines: Any, places: Any) -> None:
    """Of each direction the points in the order of the lines that they lie below, those of one line as they come: which they are, and
    where they lie across the lines and along them."""
    for way in prange(np.int64(across.shape[0])):
        low, high = np.int64(np.floor(across[way, 0])), np.int64(np.floor(across[way, 0]))
        for n in range(across.shape[1]):
            line = np.int64(np.floor(across[way, n]))
            low, high = min(low, line), max(high, line)
        begins = np.zeros(high - low + 2, np.int64)
        for n in range(across.shape[1]):
            begins[np.int64(np.floor(across[way, n])) - low + 1] += 1
        for k in range(high - low):
            begins[k + 1] += begins[k]
        for n in range(across.shape[1]):
            line = np.int64(np.floor(across[way, n])) - low
            at = begins[line]
            begins[line] = at + 1
            order[way, at], lines[way, at], places[way, at] = n, across[way, n], along[way, n]


@dataclass(frozen=True)
class Lattices:
    """Runs and blocks, and the points of each direction in the order of the lines that they lie below: which they are, and where across the
    lines and along them."""

    runs: Numbers
    blocks: Numbers
    order: Numbers
    across: Places
    along: Places


def laid_out(ways: Places, x: Places, y: Places, window: Window) -> Lattices:
    """Lattices of points in some directions, of which `ways` `[n, 2]` are the steps along a line, x and y."""
    count, shape = len(x), (len(ways), len(x))
    order, across, along = np.empty(shape, np.int64), np.empty(shape), np.empty(shape)
    _sort(ways[:, :1] * y - ways[:, 1:] * x, ways[:, :1] * x + ways[:, 1:] * y, order, across, along)
    # a point lies between a line and the next, and both hold its light
    numbers = (np.floor(across).astype(np.int64) + np.arange(len(ways))[:, None] * APART).ravel()

    last_ones = np.flatnonzero(np.diff(numbers, append=numbers[-1] + APART) > SIDE)
    first_ones = np.append(0, last_ones[:-1] + 1)
    starts, counts = numbers[first_ones] - 1, numbers[last_ones] - numbers[first_ones] + 4
    blocks_each = (counts - 2 >> EACH) + 1
    before = np.cumsum(blocks_each) - blocks_each
    runs = np.stack([first_ones // count, starts - first_ones // count * APART, counts, before], axis=1)

    run = np.repeat(np.arange(len(starts)), blocks_each)
    way, line = runs[run, RUN_WAY], starts[run] + SIDE * (np.arange(len(run)) - before[run])
    first = np.searchsorted(numbers, line - 1)
    last = np.searchsorted(numbers, np.minimum(line + SIDE, starts[run] + counts[run] - 2), "right")
    ends, padded = np.ravel((first, last), "F"), np.append(along, 0)
    nearest, farthest = (np.floor(of.reduceat(padded, ends)[::2]).astype(np.int64) for of in (np.minimum, np.maximum))
    lines, seen_at = line - way * APART, np.empty((len(line), 2), np.int64)
    _seen(ways[way], lines, window.x0 + 0.5, window.y0 + 0.5, window.x1 - 0.5, window.y1 - 0.5, seen_at)
    kept, room = seen_at[:, 0], seen_at[:, 1]
    seen = room > 0
    start = np.where(seen, np.minimum(kept, nearest), kept)
    length = np.where(seen, np.maximum(kept + room, farthest + 2) - start, 0)
    blocks = [lines, start, length, kept, room, first, np.where(seen, last, first)]
    return Lattices(runs, np.stack(blocks, axis=1), order.ravel(), across.ravel(), along.ravel())


@kernel("void(f8[:,::1], i8[::1], f8, f8, f8, f8, i8[:,::1])")
def _seen(ways: Any, lines: Any, x0: Any, y0: Any, x1: Any, y1: Any, out: Any) -> None:
    """Of blocks from a line on the first place along them beside a centre of a pixel from (x0, y0) to (x1, y1), and how many from there on;
    0 where there is none."""
    for n in prange(np.int64(lines.shape[0])):
        ux, uy, line = ways[n, 0], ways[n, 1], lines[n]
        low, high = np.inf, -np.inf
        # the place s on line t is at x = s ux - t uy, y = s uy + t ux
        for t in (line, line + SIDE):
            enter, leave = -np.inf, np.inf
            for slope, one, other in ((ux, x0 + t * uy, x1 + t * uy), (uy, y0 - t * ux, y1 - t * ux)):
                if slope != 0:
                    enter, leave = max(enter, min(one / slope, other / slope)), min(leave, max(one / slope, other / slope))
            if enter <= leave:
                low, high = min(low, enter), max(high, leave)
        for x, y in ((x0, y0), (x1, y0), (x0, y1), (x1, y1)):
            if line <= y * ux - x * uy <= line + SIDE:
                low, high = min(low, x * ux + y * uy), max(high, x * ux + y * uy)
        out[n, 0], out[n, 1] = 0, 0
        if low <= high:
            # a place more at either end, for what is rounded, and the second of the two that a pixel lies between
            first = np.int64(np.floor(low)) - 1
            out[n, 0], out[n, 1] = first, np.int64(np.floor(high)) + 3 - first
