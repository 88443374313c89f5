"""Document + reader + view -> pictures: the one road the page, the command line, the queue and the tests all take."""

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal

import numpy as np

from umbrax.core.document.edits import RemoveItem, SetValue, apply
from umbrax.core.document.parameters import MatteRef
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.kernels.resample import reduce_area
from umbrax.core.mattes.trust import largest_part, part_of
from umbrax.core.picture import Picture, Window
from umbrax.core.pictures.base import alpha_of
from umbrax.core.pictures.rebuild import RebuildPicture, residue
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate, never_cancelled
from umbrax.core.plan.planner import COARSEST, ShotPlanner
from umbrax.core.plan.remembered import CardPlans
from umbrax.core.plan.steps import NOTHING, Step, pointwise
from umbrax.media.fastcopies import FastCopies
from umbrax.media.reader import MediaReader

from . import grounds, matte_looks
from .grounds import Ground
from .memory import keep_memory_within

SCALES = (1, 2, 4, 8)
AREAS = 100_000
PIXEL_BYTES = 16
AT_A_TIME = 4  # pictures that are alive while one is computed, at the least
AT_ONCE = 8  # mattes whose areas are found at once


Kind = Literal["picture", "card", "residue", "pass", "ids", "matte", "tint", "cut", "edges", "leaks", "sum", "focus", "laid"]


@dataclass(frozen=True)
class Want:
    """What to look at: the picture so far (`upto` a card), one card by itself on a `ground`, what the lights of a rebuild leave of the
    beauty, what is in focus of a card that is defocused, what
    one of its treatments (by `name`, its id) lays on it from around, a pass, IDs, or a matte: alone, as tint, as cut, by its
    edges, by what leaks from the part around a point `at` (the largest part without one), or the sum of several by `names`."""

    kind: Kind = "picture"
    card: str | None = None
    source: str | None = None
    name: str | None = None
    names: tuple[str, ...] = ()
    at: tuple[int, int] | None = None
    without: str | None = None  # a treatment left out, for before and after
    off: str | None = None  # a card switched off, for the same
    ground: Ground = "black"


@dataclass
class Looked:
    """A picture and the cards that could not be made."""

    picture: Picture
    problems: dict[str, UmbraxError] = field(default_factory=dict)


class Engine:
    """Evaluates shots with one cache and one store of fast copies; safe to use from many threads."""

    def __init__(self, copies: FastCopies, cache_bytes: int = 2 << 30, memory_bytes: int = 16 << 30):
        self.copies = copies
        self.memory = memory_bytes
        self._cache_bytes = cache_bytes
        self.cache = PictureCache(cache_bytes, memory_bytes // (2 * PIXEL_BYTES))  # one picture of a step takes half of the memory at the most
        self._area_cache = PictureCache(min(cache_bytes, 256 << 20))
        self.plans = CardPlans()
        self._areas: dict[str, float] = {}

    def keep_memory(self) -> None:
        """Have a thread keep what this process holds within `memory_bytes`, less what `share_cache` took."""
        keep_memory_within(lambda: self.memory - self._cache_bytes + self.cache.limit, (self.cache, self._area_cache))

    def share_cache(self, part: float) -> None:
        """Keep no more than this part of `cache_bytes` from now on: others on this machine need the room."""
        self.cache.limit = int(self._cache_bytes * part)
        self.cache.shrink_to(self.cache.limit)

    def _check_room(self, window: Window, scale: int) -> None:
        """Refuse a picture that could not be computed within the memory there is."""
        finer = scale // min(scale, COARSEST)  # coarser ones are made from this size
        needed = window.area * finer * finer * PIXEL_BYTES * AT_A_TIME
        if needed > self.memory:
            size = f"{window.width} x {window.height}"
            message = f"a picture of {size} pixels takes {needed / 2**30:.0f} GB to compute, and {self.memory / 2**30:.1f} GB may be used"
            raise UmbraxError("too-large", f"{message}; look at part of it, or at a coarser scale, or raise UMBRAX_MEMORY_BYTES")

    def reader(self, shot: Shot, roots: list[Path]) -> MediaReader:
        return MediaReader(shot.sources, roots, self.copies, shot.colour.view, shot.colour.working)

    def make(
        self, shot: Shot, roots: list[Path], frame: int, want: Want, *, window: Window | None = None, scale: int = 1,
        watch: Callable[[], None] = never_cancelled, keep_going: bool = False,
    ) -> Looked:  # fmt: skip
        """Compute what is wanted on a window at a scale of 1/n (the display window unless told).

        With `keep_going` a broken card is left out and reported, and the rest of the shot still computes.
        """
        shot = switched_off(without(shot, want.without), want.off)
        reader = self.reader(shot, roots)
        problems: dict[str, UmbraxError] = {}
        wanted = shot.format.display.scaled(scale) if window is None else window
        self._check_room(wanted, scale)
        while True:
            planner = ShotPlanner(shot, frame, reader, broken=problems, keep_going=keep_going, plans=self.plans)
            try:
                step = wanted_step(planner, want, scale)
                picture = evaluate(step, wanted, self.cache, watch=watch, timer=time.perf_counter)
                return Looked(self._shown(planner, want, picture, scale, watch), problems)
            except UmbraxError as error:
                card = error.where.card
                if not keep_going or card is None or card in problems:
                    raise
                problems[card] = error  # one more card is left out each time

    def coverage(self, planner: ShotPlanner, matte: str, window: Window, scale: int = 1, watch: Callable[[], None] = never_cancelled) -> Any:
        """A matte of the shot, by its id or shown name, as `float32[h, w]` on a window at a scale of 1/n."""
        return evaluate(coverage_step(planner, matte, scale), window, self.cache, watch=watch, timer=time.perf_counter).pixels[..., 0]

    def areas(self, planner: ShotPlanner, mattes: list[str], watch: Callable[[], None] = never_cancelled) -> dict[str, float]:
        """How much of the frame each matte covers, 0..1; pulled together, remembered by what they are pulled from."""
        display = planner.shot.format.display
        steps = {matte: coverage_step(planner, matte) for matte in mattes}
        left = list({step.key: step for step in steps.values() if step.key not in self._areas}.values())
        for start in range(0, len(left), AT_ONCE):
            some = left[start : start + AT_ONCE]
            # not in the cache of looks: a whole shot goes through here
            pulled = evaluate(side_by_side(some, display), display, self._area_cache, watch=watch, timer=time.perf_counter)
            means = pulled.pixels.mean(axis=(0, 1), dtype=np.float64)
            self._areas.update(zip((step.key for step in some), map(float, means), strict=True))
        found = {matte: self._areas[step.key] for matte, step in steps.items()}
        while len(self._areas) > AREAS:
            self._areas.pop(next(iter(self._areas)), None)
        return found

    def pull(self, steps: list[Step], window: Window, watch: Callable[[], None] = never_cancelled) -> None:
        """Have mattes ready on a window, those of one layer in one pass; whoever wants one of them then finds it in the cache."""
        for start in range(0, len(steps), AT_ONCE):
            evaluate(side_by_side(steps[start : start + AT_ONCE], window), window, self.cache, watch=watch, timer=time.perf_counter)

    def _shown(self, planner: ShotPlanner, want: Want, picture: Picture, scale: int, watch: Callable[[], None]) -> Picture:
        """What was computed as it is looked at: most looks are that picture itself."""
        window, display = picture.window, planner.shot.format.display
        if want.kind == "card":
            return grounds.on_ground(picture, want.ground, scale)
        if want.kind == "tint":
            return matte_looks.tinted(picture, self.coverage(planner, _named(want.name, "matte"), window, scale, watch)[..., None])
        if want.kind == "cut":
            return matte_looks.cut(picture, self.coverage(planner, _named(want.name, "matte"), window, scale, watch)[..., None])
        if want.kind == "edges":
            return matte_looks.edges(picture.pixels[..., 0], window)
        if want.kind == "leaks":
            whole = self.coverage(planner, _named(want.name, "matte"), display, watch=watch)
            part = largest_part(whole) if want.at is None else part_of(whole, *want.at)
            return _on(matte_looks.leaking(whole, part, display), window, scale)
        if want.kind == "sum":
            return matte_looks.summed(*self.sums(planner, want.names, window, scale, watch), window)
        return picture

    def sums(
        self, planner: ShotPlanner, names: tuple[str, ...], window: Window, scale: int = 1, watch: Callable[[], None] = never_cancelled
    ) -> tuple[Any, Any]:
        """The sum of mattes and what they ought to cover: the alpha of the source they all come from, else everything."""
        mattes = [self.coverage(planner, name, window, scale, watch) for name in names]
        if not mattes:
            raise UmbraxError("bad-look", "this look needs the names of mattes")
        sources = {source for name in names for source in planner.sources_of(planner.shot.matte(name))}
        alpha = alpha_of(planner, next(iter(sources)), scale) if len(sources) == 1 else None
        total = np.asarray(np.sum(mattes, axis=0), np.float32)
        wanted = np.ones_like(total) if alpha is None else evaluate(alpha, window, self.cache, watch=watch).pixels[..., 0]
        return total, np.clip(wanted, 0, 1)


def coverage_step(planner: ShotPlanner, matte: str, scale: int = 1) -> Step:
    """A matte of the shot, by its id or shown name, as one channel at a scale of 1/n."""
    return planner.coverage(MatteRef(matte=planner.shot.matte(matte)), scale)


def side_by_side(steps: list[Step], window: Window) -> Step:
    """All channels of several steps in one picture; one evaluation of it computes at once what belongs together."""

    def compute(given: tuple[Picture, ...]) -> Any:
        return np.concatenate([picture.pixels for picture in given], axis=2)

    return pointwise("side by side 1", None, steps, compute, channels=sum(step.channels for step in steps), domain=window)


def _on(picture: Picture, window: Window, scale: int) -> Picture:
    """A full-size picture on a window at a scale of 1/n."""
    return Picture(reduce_area(np.ascontiguousarray(picture.crop(window.magnified(scale)).pixels), scale), window)


def wanted_step(planner: ShotPlanner, want: Want, scale: int) -> Step:
    """The step that makes what is wanted."""
    if want.kind == "card":
        return planner.card(_named(want.card, "card"), scale)
    if want.kind == "residue":
        return residue_step(planner, _named(want.card, "card"), scale)
    if want.kind == "pass":
        return planner.pass_picture(_named(want.source, "source"), _named(want.name, "pass"), scale)
    if want.kind == "ids":
        return planner.ids_picture(_named(want.source, "source"), _named(want.name, "ID layer"), scale)
    if want.kind in ("matte", "edges"):
        return coverage_step(planner, _named(want.name, "matte"), scale)
    if want.kind == "laid":
        return planner.laid(_named(want.card, "card"), _named(want.name, "treatment"), scale)
    if want.kind == "focus":
        return planner.focus(_named(want.card, "card"), scale)
    if want.kind in ("leaks", "sum"):
        return NOTHING
    return planner.picture(want.card, scale)


def residue_step(planner: ShotPlanner, card_id: str, scale: int) -> Step:
    """How far the lights of a rebuild are from the beauty, whatever the sign."""
    card = planner.shot.card(card_id)
    left = residue(planner, card.picture, scale) if isinstance(card.picture, RebuildPicture) else None
    if left is None:
        raise UmbraxError("no-residue", f"card {card.shown_name!r} is no rebuild of something that has a beauty; look at one that is")
    return pointwise("residue 1", None, [left], lambda given: np.abs(given[0].pixels), channels=3, where=planner.where)


def _named(value: str | None, noun: str) -> str:
    if value is None:
        raise UmbraxError("bad-look", f"this look needs the name of a {noun}")
    return value


def without(shot: Shot, treatment: str | None) -> Shot:
    """The shot without a treatment, in a bundle or not."""
    if treatment is None:
        return shot
    place = next(((card.id, one.id) for card in shot.cards() for one in card.treatments if one.id == treatment), None)
    return shot if place is None else apply(shot, [RemoveItem(op="remove", path=(*shot.path_of(place[0]), "treatments", place[1]))])


def switched_off(shot: Shot, card: str | None) -> Shot:
    """The shot with a card switched off, in a bundle or not; one that is not there changes nothing."""
    if card is None or all(one.id != card for one in shot.cards()):
        return shot
    return apply(shot, [SetValue(op="set", path=(*shot.path_of(card), "enabled"), value=False)])


def statistics(engine: Engine) -> dict[str, Any]:
    """Counters and sizes for the debug address and the benchmark."""
    counters = engine.cache.counters
    return {
        "cache": {"entries": len(engine.cache), "bytes": engine.cache.size, "limit": engine.cache.limit,
                  "hits": counters.hits, "misses": counters.misses, "evicted": counters.evicted},
        "computed": dict(counters.computed), "fast_copies_made": engine.copies.made,
    }  # fmt: skip
