"""Rows of assembling, measured through the engine: joins, placing, colour, grain, and what a change of one card costs."""

import resource
from collections.abc import Callable
from functools import cache
from itertools import count
from typing import Any

import cv2
import numpy as np

from umbrax.core.document.edits import Path, SetValue, apply
from umbrax.core.document.shot import Shot
from umbrax.core.document.text import read_data
from umbrax.core.joins import JOINS
from umbrax.render.engine import Engine, Want

from .engine_rows import HD, new_engine, whole_shot
from .row import Row, Work
from .ten_cards import renders, ten_cards

Card = dict[str, Any]
Value = float | Callable[[float], Any]  # what is changed by a hair, or what it is by such a factor
OFTEN = 24  # pictures that left the cache, or runs without new memory
MOST_RUNS, FEW_PAGES = 120, 16
HAIRS = count(1)  # of all rows: what another row made is in the cache, and would be found there
SKY = {"id": "sky", "picture": {"kind": "plate", "source": "valley"}}
STATION = {"id": "station", "picture": {"kind": "pass", "source": "station"}}
TREATMENT = ("build", "station", "treatments", "t")


def shot_with(*cards: Card, size: tuple[int, int] = HD, mattes: Card | None = None) -> Shot:
    return read_data({
        "umbrax": 1, "name": "measured", "format": {"width": size[0], "height": size[1], "first": 1001, "last": 1001},
        "sources": {name: {"path": f"{name}.exr"} for name in ("valley", "station", "balloon")}, "build": list(cards),
        "mattes": mattes or {},
    })  # fmt: skip


def on_station(treatment: Card) -> Card:
    """The station with one treatment, at the path `TREATMENT`."""
    return {**STATION, "treatments": [{"id": "t", **treatment}]}


@cache
def _engine(width: int, height: int) -> Engine:
    """One for all rows: where in memory pictures lie makes a difference, and so it is the same for what is compared."""
    return new_engine(renders(width, height))


def changing(shot: Shot, path: Path, value: Value, size: tuple[int, int] = HD, scale: int = 1) -> Work:
    """A shot made again and again, each time by a hair another value at one place, as when that is dragged on the page.

    All that does not depend on the change is there.
    """
    folder = renders(*size)
    engine = _engine(*size)

    def work() -> object:
        hair = 1 - next(HAIRS) * 1e-6
        edit = SetValue(op="set", path=path, value=value(hair) if callable(value) else value * hair)
        return engine.make(apply(shot, [edit]), [folder], 1001, Want(), scale=scale)

    # as in a long session: the cache is full, and memory is used again that this work itself gave back
    before = engine.cache.counters.evicted
    while engine.cache.counters.evicted < before + OFTEN:
        work()
    _settle(work)
    return work


def _settle(work: Work) -> None:
    """Run it until for some time it takes no new memory from the system, whose pages are filled with zeros first."""
    again = 0
    for _ in range(MOST_RUNS):
        before = resource.getrusage(resource.RUSAGE_SELF).ru_minflt
        work()
        again = again + 1 if resource.getrusage(resource.RUSAGE_SELF).ru_minflt - before < FEW_PAGES else 0
        if again == OFTEN:
            return


def _joined(kind: str) -> Work:
    return changing(shot_with(SKY, {**STATION, "join": kind}), ("build", "station", "opacity"), 1.0)


def _join(kind: str) -> Callable[[], tuple[Work, Work]]:
    return lambda: (_joined(kind), _joined("over"))


def copied(size: tuple[int, int] = HD) -> Work:
    """What a picture costs to be copied into memory that is there."""
    picture = np.random.default_rng(3).random((size[1], size[0], 4), np.float32)
    target = np.ones_like(picture)
    return lambda: np.copyto(target, picture)


def _treated(kind: str, changes: str, value: Value, **settings: Any) -> Callable[[], tuple[Work, Work]]:
    """One treatment of all there is."""
    card = {"id": "finish", "treat": True, "treatments": [{"id": "t", "kind": kind, **settings}]}
    return lambda: (changing(shot_with(SKY, card), ("build", "finish", "treatments", "t", changes), value), copied())


def _placing() -> tuple[Work, Work]:
    """Moved and scaled along the axes, and turned, one after the other."""
    picture = np.random.default_rng(4).random((HD[1], HD[0], 4), np.float32)
    cv2.setNumThreads(2)
    shot = shot_with({**SKY, "placing": {"scale": 1.1, "move": [3.3, -7.7]}})
    turned = cv2.getRotationMatrix2D((HD[0] / 2, HD[1] / 2), 7, 1.1)
    return changing(shot, ("build", "sky", "placing", "turn"), 7.0), lambda: cv2.warpAffine(picture, turned, HD, flags=cv2.INTER_CUBIC)


def _one_card(name: str) -> Callable[[], tuple[Work, Work]]:
    """The opacity of one of ten cards, against the whole shot with nothing of it there."""

    def prepare() -> tuple[Work, Work]:
        size = (1280, 720)
        shot = ten_cards(*size)
        return changing(shot, ("build", name, "opacity"), 1.0, size), whole_shot(size, shot, 1)

    return prepare


def _ten_anew() -> tuple[Work, Work]:
    """Ten cards with nothing there, against one copy of a picture of the frame for every step that is computed."""
    size = (1280, 720)
    folder = renders(*size)
    engine, shot = new_engine(folder), ten_cards(*size)
    engine.make(shot, [folder], 1001, Want())
    steps = sum(engine.cache.counters.computed.values())
    source = np.ones((steps, size[1], size[0], 4), np.float32)
    target = np.ones_like(source)
    return whole_shot(size, shot, 1), lambda: np.copyto(target, source)


BLENDED = "the same joined by over"
COPY = "a copy of the picture"
CHANGED = (("front", "finish", 0.25), ("middle", "lamps", 0.6), ("back", "sky", 0.8))
OTHERS = [join for join in JOINS if join.kind != "over"]
ASSEMBLING_ROWS = (
    *(Row(f"join {join.kind}, 1920x1080", BLENDED, 5 if join.purpose == "colour" else 2, _join(join.kind)) for join in OTHERS),
    Row("placing, turned, cubic, 1920x1080", "cv2.warpAffine, cubic", 1.2, _placing),
    Row("levels, 1920x1080", COPY, 2, _treated("levels", "gamma", 1.2, black=0.02)),
    Row("curves, 1920x1080", COPY, 2, _treated("curves", "master", lambda hair: [[0, 0.02], [0.3, 0.5 * hair], [1, 0.9]])),
    Row("grain, 1920x1080", COPY, 10, _treated("grain", "strength", 0.05)),
    Row("ten cards, nothing there yet, 1280x720", "a copy of the frame for every step", 3, _ten_anew),
    *(Row(f"ten cards, {place} card changed, 1280x720", "the whole shot", reach, _one_card(name)) for place, name, reach in CHANGED),
)
