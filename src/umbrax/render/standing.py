"""Where cards stand on a frame: the box of what one shows, how its build lies, and what of others it can be lined up with."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from umbrax.core.document.references import build_with
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.placement import Placement
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.steps import Step

from .engine import Engine

SCALE = 4
SEEN = 0.02  # alpha from which something is there
MOST = 12  # other cards whose boxes are looked for

Watch = Callable[[], None]
Matrix = tuple[float, float, float, float, float, float]


@dataclass(frozen=True)
class Standing:
    """`box`: what a card shows, in its own pixels, before it is placed. `parent` places what its own placing has placed: what it
    follows, and the bundles it is in. `others`: boxes of the other elements of its build in the frame."""

    box: Window | None
    parent: Matrix
    others: tuple[Window, ...]


def standing_of(engine: Engine, shot: Shot, roots: list[Path], frame: int, card_id: str, watch: Watch) -> Standing:
    planner, display = ShotPlanner(shot, frame, engine.reader(shot, roots), keep_going=True), shot.format.display
    card = shot.card(card_id)
    parent = planner.places.build_of(card_id)
    if card.follow is not None:
        parent = parent @ planner.places[card.follow].own
    others: list[Window] = []
    for other in [one for one in reversed(build_with(shot, card_id)) if one.id != card_id and not one.treat and one.enabled][:MOST]:
        box = _box(engine, lambda other=other: planner.card(other.id, SCALE), display.scaled(SCALE), watch)  # type: ignore[misc]
        if box is not None and box != display:
            others.append(box)
    reach = Window(-display.width, -display.height, 2 * display.width, 2 * display.height).scaled(SCALE)
    own = None if card.treat else _box(engine, lambda: planner.before_placing(card_id, SCALE), reach, watch)
    return Standing(own, _told(parent), tuple(others))


def _box(engine: Engine, planned: Callable[[], Step], within: Window, watch: Watch) -> Window | None:
    """Where a picture has alpha; None where it has none, or cannot be made."""
    try:
        step = planned()
        window = step.domain.intersect(within)
        alpha = evaluate(step, window, engine.cache, watch=watch).pixels[..., 3] > SEEN
    except UmbraxError:
        return None
    rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
    if not rows.size:
        return None
    x0, y0 = window.x0 + int(columns[0]), window.y0 + int(rows[0])
    return Window(x0, y0, window.x0 + int(columns[-1]) + 1, window.y0 + int(rows[-1]) + 1).magnified(SCALE)


def _told(way: Placement) -> Matrix:
    return (way.a, way.b, way.c, way.d, way.e, way.f)
