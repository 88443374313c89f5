"""When a tuck is needed, by where a card lies over what it is behind or by their depths, and whether one pops: it begins or ends
while they overlap."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from itertools import groupby
from pathlib import Path

import numpy as np

from umbrax.core.document.shot import Shot
from umbrax.core.document.tucking import Tuck
from umbrax.core.picture import Window
from umbrax.core.pictures.data_values import is_nothing
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.steps import Step

from .engine import Engine

SCALE = 4
LEAST = 2.0  # full-size pixels of both that must lie over one another to be seen

Watch = Callable[[], None]


@dataclass(frozen=True)
class Pop:
    """An end of a tuck at which the picture jumps: `frame` as it is set, `clean` the nearest at which it would not, if there is one."""

    end: str
    frame: int
    clean: int | None


class Overlaps:
    """How many pixels of a card lie over what it is tucked behind, frame by frame; each frame is looked at once."""

    def __init__(self, engine: Engine, shot: Shot, roots: list[Path], card_id: str, tuck: Tuck, watch: Watch):
        self._engine, self._shot, self._roots = engine, shot, roots
        self._card, self._tuck, self._watch = card_id, tuck, watch
        self._known: dict[int, float] = {}

    def at(self, frame: int) -> float:
        if frame not in self._known:
            planner = ShotPlanner(self._shot, frame, self._engine.reader(self._shot, self._roots))
            window: Window = self._shot.format.display.scaled(SCALE)
            occluder = planner.occluder_of(self._card, self._tuck, SCALE)
            total = 0.0
            if occluder is not None:
                over, own = (
                    evaluate(step, window, self._engine.cache, watch=self._watch).pixels[..., 3]
                    for step in (occluder, planner.card(self._card, SCALE))
                )
                total = float((over * own).sum()) * SCALE * SCALE
            self._known[frame] = total
        return self._known[frame]


def pops(engine: Engine, shot: Shot, roots: list[Path], card_id: str, tuck: Tuck, watch: Watch) -> list[Pop]:
    """Ends of a tuck, inside the shot, between which and the frame beside them the picture jumps.

    It jumps where on either side of the change the card lies over what it is behind. A frame is clean to begin at when neither it
    nor the one before does.
    """
    if tuck.frames is None:
        return []
    overlaps, (first, last) = Overlaps(engine, shot, roots, card_id, tuck, watch), (shot.format.first, shot.format.last)
    found: list[Pop] = []
    for end, at, beside in (("first", tuck.frames[0], -1), ("last", tuck.frames[1], 1)):
        if not (first <= at <= last and first <= at + beside <= last):
            continue
        if not _clean(overlaps, at, beside):
            found.append(Pop(end, at, _nearest(overlaps, at, beside, first, last)))
    return found


def _clean(overlaps: Overlaps, at: int, beside: int) -> bool:
    return overlaps.at(at) < LEAST and overlaps.at(at + beside) < LEAST


def _nearest(overlaps: Overlaps, at: int, beside: int, first: int, last: int) -> int | None:
    """The nearest frame at which an end would not be seen: outside the shot nothing changes, so its own ends are clean."""
    for far in range(1, last - first + 1):
        for frame in (at + beside * far, at - beside * far):
            if first <= frame <= last and (not first <= frame + beside <= last or _clean(overlaps, frame, beside)):
                return frame
    return None


def around(engine: Engine, shot: Shot, roots: list[Path], card_id: str, tuck: Tuck, frame: int, watch: Watch) -> tuple[int, int]:
    """The frames for which a tuck is needed that is wanted on one: as long as the card lies over what it is behind, and cleanly ended.

    The nearest ends on either side at which nothing jumps; the shot's own where there is none.
    """
    overlaps, (first, last) = Overlaps(engine, shot, roots, card_id, tuck, watch), (shot.format.first, shot.format.last)
    start = end = min(max(frame, first), last)
    while start > first and not _clean(overlaps, start, -1):
        start -= 1
    while end < last and not _clean(overlaps, end, 1):
        end += 1
    return start, end


def by_depth(engine: Engine, shot: Shot, roots: list[Path], card_id: str, tuck: Tuck, watch: Watch) -> list[tuple[int, int]]:
    """The spans of frames on which what a card is tucked behind is nearer than the card.

    Each counts as one thing with the median of its depth, so their edges stay those of their coverage. A frame on which they do not lie
    over one another goes with the one before it, at the beginning with the one after: nothing of it is seen there.
    """
    overlaps, frames = Overlaps(engine, shot, roots, card_id, tuck, watch), range(shot.format.first, shot.format.last + 1)
    # what has no depth is told of before anything is computed
    planner = ShotPlanner(shot, frames.start, engine.reader(shot, roots))
    for name in (tuck.card, card_id):
        planner.depth_of(name, SCALE)
    over = [frame for frame in frames if overlaps.at(frame) >= LEAST]
    nearer = {frame: _nearer(engine, shot, roots, card_id, tuck, frame, watch) for frame in over}
    last = nearer[over[0]] if over else False
    held = {frame: (last := nearer.get(frame, last)) for frame in frames}
    spans = [(behind, list(group)) for behind, group in groupby(frames, key=held.__getitem__)]
    return [(group[0], group[-1]) for behind, group in spans if behind]


def _nearer(engine: Engine, shot: Shot, roots: list[Path], card_id: str, tuck: Tuck, frame: int, watch: Watch) -> bool:
    """Whether what a card is tucked behind is nearer on a frame that shows both; not where one of them has no depth there."""
    planner, window = ShotPlanner(shot, frame, engine.reader(shot, roots)), shot.format.display.scaled(SCALE)
    occluder = planner.occluder_of(card_id, tuck, SCALE)

    def median(shown: Step | None, depth: Step) -> float:
        if shown is None:
            return math.inf
        alpha, z = (evaluate(step, window, engine.cache, watch=watch).pixels[..., -1] for step in (shown, depth))
        seen = z[(alpha > 0.5 * alpha.max()) & ~is_nothing(z)]
        return float(np.median(seen)) if seen.size else math.inf

    behind, own = planner.depth_of(tuck.card, SCALE), planner.depth_of(card_id, SCALE)
    return median(occluder, behind) < median(planner.card(card_id, SCALE), own)
