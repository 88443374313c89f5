"""Document + reader + view -> pictures: the one road the page, the command line, the queue and the tests all take."""

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal

import numpy as np

from umbrax.core.cache import PictureCache
from umbrax.core.errors import UmbraxError
from umbrax.core.evaluate import evaluate, never_cancelled
from umbrax.core.mattes.false_colour import false_colour
from umbrax.core.parameters import MatteRef
from umbrax.core.picture import Picture, Window
from umbrax.core.plan import ShotPlanner
from umbrax.core.shot import Shot
from umbrax.core.steps import Step
from umbrax.media.fastcopies import FastCopies
from umbrax.media.reader import MediaReader

LILAC = np.array([0.462, 0.332, 0.871], np.float32)
SCALES = (1, 2, 4, 8)


@dataclass(frozen=True)
class Want:
    """What to look at: the picture so far (`upto` a card), one card, a pass, IDs, or a matte alone, as tint or as cut."""

    kind: Literal["picture", "card", "pass", "ids", "matte", "tint", "cut"] = "picture"
    card: str | None = None
    source: str | None = None
    name: str | None = None
    without: str | None = None  # a treatment left out, for before and after


@dataclass
class Looked:
    """A picture and the cards that could not be made."""

    picture: Picture
    problems: dict[str, UmbraxError] = field(default_factory=dict)


class Engine:
    """Evaluates shots with one cache and one store of fast copies; safe to use from many threads."""

    def __init__(self, copies: FastCopies, cache_bytes: int = 2 << 30):
        self.copies = copies
        self.cache = PictureCache(cache_bytes)

    def reader(self, shot: Shot, roots: list[Path]) -> MediaReader:
        return MediaReader(shot.sources, roots, self.copies)

    def make(
        self, shot: Shot, roots: list[Path], frame: int, want: Want, *, window: Window | None = None, scale: int = 1,
        watch: Callable[[], None] = never_cancelled, keep_going: bool = False,
    ) -> Looked:  # fmt: skip
        """Compute what is wanted on a window at a scale of 1/n (the display window unless told).

        With `keep_going` a broken card is left out and reported, and the rest of the shot still computes.
        """
        shot = _without(shot, want.without)
        reader = self.reader(shot, roots)
        problems: dict[str, UmbraxError] = {}
        wanted = shot.format.display.scaled(scale) if window is None else window
        for _ in range(len(shot.build) + 1):
            planner = ShotPlanner(shot, frame, reader, broken=problems, keep_going=keep_going)
            try:
                step = wanted_step(planner, want, scale)
                picture = evaluate(step, wanted, self.cache, watch=watch, timer=time.perf_counter)
                if want.kind in ("tint", "cut"):
                    picture = self._over_matte(planner, want, picture, wanted, scale, watch)
                return Looked(picture, problems)
            except UmbraxError as error:
                card = error.where.card
                if not keep_going or card is None or card in problems:
                    raise
                problems[card] = error
        raise AssertionError("every card was left out and one is still broken")

    def _over_matte(self, planner: ShotPlanner, want: Want, picture: Picture, window: Window, scale: int, watch: Callable[[], None]) -> Picture:
        assert want.name is not None
        step = planner.coverage(MatteRef(matte=planner.shot.matte(want.name)), scale)
        matte = evaluate(step, window, self.cache, watch=watch, timer=time.perf_counter).pixels
        if want.kind == "cut":
            return Picture(picture.pixels * matte, window)
        tinted = picture.pixels.copy()
        luma = tinted[..., :3].mean(axis=2, keepdims=True)
        tinted[..., :3] += (LILAC * (0.25 + luma) - tinted[..., :3]) * matte * np.float32(0.65)
        return Picture(tinted, window)


def wanted_step(planner: ShotPlanner, want: Want, scale: int) -> Step:
    """The step that makes what is wanted."""
    if want.kind == "card":
        return planner.card(_named(want.card, "card"), scale)
    if want.kind == "pass":
        return planner.pass_picture(_named(want.source, "source"), _named(want.name, "pass"), scale)
    if want.kind == "ids":
        full = false_colour(planner, _named(want.source, "source"), _named(want.name, "ID layer"))
        return planner.reduced(full, scale, "area")
    if want.kind == "matte":
        return planner.coverage(MatteRef(matte=planner.shot.matte(_named(want.name, "matte"))), scale)
    return planner.picture(want.card, scale)


def _named(value: str | None, noun: str) -> str:
    if value is None:
        raise UmbraxError("bad-look", f"this look needs the name of a {noun}")
    return value


def _without(shot: Shot, treatment: str | None) -> Shot:
    if treatment is None:
        return shot
    cards = tuple(card.model_copy(update={"treatments": tuple(t for t in card.treatments if t.id != treatment)}) for card in shot.build)
    return shot.model_copy(update={"build": cards})


def statistics(engine: Engine) -> dict[str, Any]:
    """Counters and sizes for the debug address and the benchmark."""
    counters = engine.cache.counters
    return {
        "cache": {"entries": len(engine.cache), "bytes": engine.cache.size, "limit": engine.cache.limit,
                  "hits": counters.hits, "misses": counters.misses, "evicted": counters.evicted},
        "computed": dict(counters.computed), "fast_copies_made": engine.copies.made,
    }  # fmt: skip
