"""Lines drawn on: how much of each line is there, where each begins, and what a pen covers."""

import math
from dataclasses import dataclass
from itertools import accumulate

import numpy as np
from numpy.typing import NDArray

from ..kernels import ready
from ..kernels.strokes import cover_by_pen, nearest_on_line
from ..picture import Picture, Window, union_of
from .lines import Line, evened

FAR = np.float32(1e9)
SIDES = {"inside": -1.0, "centre": 0.0, "outside": 1.0}
STEPS_A_WIDTH = 8  # of a wide line


@dataclass(frozen=True)
class Pen:
    """Width in full-size pixels, the side of the line it lies on, softness 0..1, a dash and the gap after it in pixels (0: no dashes),
    width and opacity at the end as parts of those at the start."""

    width: float
    side: str = "centre"
    softness: float = 0.0
    dash: tuple[float, float] = (0.0, 0.0)
    end_width: float = 1.0
    end_opacity: float = 1.0

    def reach(self, scale: int) -> float:
        """How far from a line it covers anything, in pixels of a scale, of each of which it may cover a part."""
        half = self.width / 2 * max(1.0, self.end_width) / scale
        return half * (1.0 if self.side == "centre" else 2.0) + self.softness * half + 1.0


def spans(lines: list[Line], start: float, end: float, in_turn: bool) -> list[tuple[float, float]]:
    """From where to where each line is drawn, in pixels from its beginning, of the part `start` to `end` of all: of each at the same
    time, or of one after the other as if they were one."""
    lengths = [line.length for line in lines]
    if not in_turn:
        return [(start * length, end * length) for length in lengths]
    before = [0.0, *accumulate(lengths)]
    whole = before[-1]
    return [(start * whole - begin, end * whole - begin) for begin in before[:-1]]


def begun(line: Line, at: tuple[float, float] | None) -> Line:
    """A closed line that begins next to a place; without one above the middle of its box."""
    if not line.closed:
        return line
    if at is not None:
        return line.from_point(line.nearest(*at)[0])
    low, high = line.points.min(axis=0), line.points.max(axis=0)
    across = np.abs(line.points[:, 0] - (low[0] + high[0]) / 2)
    beside = across <= across.min() + 1.0
    return line.from_point(int(np.where(beside, line.points[:, 1], np.inf).argmin()))


def drawn(lines: list[Line], parts: list[tuple[float, float]], pen: Pen, window: Window, scale: int) -> Picture:
    """What the pen covers of a window at 1/scale, one channel, where it covers anything; lines in full-size pixels of the frame."""
    there = [(line, *part) for line, part in zip(lines, parts, strict=True) if part[1] > max(part[0], 0.0) and part[0] < line.length]
    boxes = [_box(line, pen, scale).intersect(window) for line, _, _ in there]
    whole = union_of(boxes)
    cover = np.zeros((whole.height, whole.width), np.float32)
    for (line, start, end), box in zip(there, boxes, strict=True):
        if not box.empty and pen.width > 0:
            part = np.ascontiguousarray(Picture(cover[..., None], whole).crop(box).pixels[..., 0])
            _draw(line, start, end, pen, box, scale, part)
            cover[box.slices_in(whole)] = part
    return Picture(cover[..., None], whole)


def _box(line: Line, pen: Pen, scale: int) -> Window:
    reach = pen.reach(scale)
    low, high = line.points.min(axis=0) / scale - reach, line.points.max(axis=0) / scale + reach
    return Window(math.floor(low[0]) - 1, math.floor(low[1]) - 1, math.ceil(high[0]) + 1, math.ceil(high[1]) + 1)


def _draw(line: Line, start: float, end: float, pen: Pen, box: Window, scale: int, out: NDArray[np.float32]) -> None:
    stepped = evened(line, max(1.0 * scale, pen.width / STEPS_A_WIDTH))
    points = (stepped.points - (box.x0 * scale, box.y0 * scale)) / scale
    lengths = stepped.lengths / scale
    along, length = np.concatenate([[0.0], np.cumsum(lengths)]), float(lengths.sum())
    # even steps cut corners a little: places along are those of the line itself
    along *= line.length / scale / max(length, 1e-9)
    length = line.length / scale
    away, place = np.full(out.shape, FAR), np.zeros(out.shape, np.float32)
    touched = np.empty(out.size, np.int64)
    count = nearest_on_line(ready(points, np.float64), ready(along, np.float64), line.closed, pen.reach(scale), away, place, touched)
    dash, period = _fitted(pen, line, length, scale)
    whole = line.closed and start <= 0 and end >= line.length
    held = [
        pen.width / 2 / scale, SIDES[pen.side], pen.softness, max(start, 0.0) / scale, min(end, line.length) / scale, dash, period,
        pen.end_width, pen.end_opacity, float(not whole),
    ]  # fmt: skip
    cover_by_pen(away, place, touched[:count], np.array(held, np.float32), out)


def _fitted(pen: Pen, line: Line, length: float, scale: int) -> tuple[float, float]:
    """Length of a dash and from dash to dash at a scale; round a closed line they come out even."""
    dash, period = pen.dash[0] / scale, sum(pen.dash) / scale
    if dash <= 0 or period <= dash:
        return 0.0, 0.0
    fit = length / max(1, round(length / period)) / period if line.closed else 1.0
    return dash * fit, period * fit
