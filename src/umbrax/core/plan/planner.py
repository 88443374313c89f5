"""Document + frame -> the steps needed for what is wanted, each with a content key.

A card is made in this order, always: picture, cut, colour treatments, spatial treatments, light that spreads, opacity,
join. Spread light travels beside the card as planes without alpha and is added at the join.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..document.cards import Card
from ..document.parameters import MatteRef
from ..document.shot import Shot
from ..document.timing import at_frame
from ..errors import UmbraxError, Where
from ..joins.base import JOINS, join
from ..kernels import blank, joining, ready
from ..mattes.ids import shares
from ..picture import Picture, Window
from ..pictures import PICTURES
from ..pictures.base import as_rgba, last_channel
from ..treatments import TREATMENTS
from ..treatments.base import CardFeed, SpreadParams, ThroughParams, Treatment, TreatmentParams
from .mattes import MattePlanner
from .reader import PassReader
from .steps import Step, content_key, pointwise

COARSEST = 4
NOWHERE = Window(0, 0, 0, 0)
NOTHING = Step(
    content_key("nothing", None, ()), "nothing", NOWHERE, 4, (), lambda _: (),
    lambda window, _: Picture(np.zeros((window.height, window.width, 4), np.float32), window),
)  # fmt: skip


@dataclass(frozen=True)
class Made:
    """A card before its join: its picture, the planes of light it spreads, and how much of each is added."""

    own: Step
    lights: tuple[Step, ...] = ()
    amounts: tuple[float, ...] = ()

    def added(self, opacity: float) -> tuple[float, ...]:
        return tuple(amount * opacity for amount in self.amounts)


class ShotPlanner(MattePlanner):
    """Plans one frame of one shot. `broken` cards are left out; with `keep_going` cards that fail to plan join them."""

    def __init__(
        self,
        shot: Shot,
        frame: int,
        reader: PassReader,
        *,
        broken: dict[str, UmbraxError] | None = None,
        keep_going: bool = False,
    ):
        super().__init__(shot, frame, reader)
        self.broken = {} if broken is None else broken
        self.keep_going = keep_going
        self._cards = [at_frame(card, frame) for card in shot.build]

    # what is wanted

    def picture(self, upto: str | None = None, scale: int = 1) -> Step:
        """The picture so far after a card, or the finished one."""
        count = len(self._cards) if upto is None else [c.id for c in self._cards].index(self.shot.card(upto).id) + 1
        return self._from_finer(lambda n: self._picture_of(count, n), scale)

    def card(self, card_id: str, scale: int = 1) -> Step:
        """What one card puts in, before its join; for a treat card the treated picture so far."""
        index = [c.id for c in self._cards].index(self.shot.card(card_id).id)
        return self._from_finer(lambda n: self._made_card(index, n).own, scale)

    def _from_finer(self, made: Callable[[int], Step], scale: int) -> Step:
        """What is not linear goes wrong where a pixel holds too much: nothing is computed coarser than at `COARSEST`."""
        finer = min(scale, COARSEST)
        return self.reduced(made(finer), scale // finer, "area")

    def pass_picture(self, source: str, wanted: str, scale: int = 1) -> Step:
        """A pass as RGBA for looking."""
        return as_rgba(self, source, wanted, scale)

    def _picture_of(self, count: int, scale: int) -> Step:
        below = NOTHING
        for index in range(count):
            key = ("so far", index, scale)
            if key not in self._made:
                self._made[key] = self._with_card(index, below, scale)
            below = self._made[key]
        return below

    # cards

    def _with_card(self, index: int, below: Step, scale: int) -> Step:
        card = self._cards[index]
        if not card.enabled or card.opacity == 0 or card.id in self.broken:
            return below
        try:
            with self._at(card=card.id):
                made = self._made_card(index, scale)
                return self._treat(card, below, made) if card.treat else self._joined(card, below, made)
        except UmbraxError as error:
            error.at(Where(card=card.id, frame=self.frame))
            if not self.keep_going:
                raise
            self.broken[card.id] = error
            return below

    def _made_card(self, index: int, scale: int) -> Made:
        key = ("card", index, scale)
        if key not in self._made:
            self._made[key] = self._make(index, scale)
        made: Made = self._made[key]
        return made

    def _make(self, index: int, scale: int) -> Made:
        card = self._cards[index]
        own = self._before_light(index, scale)
        lights, amounts = [], []
        only = False
        for params in self._active(card, "light"):
            with self._at(treatment=params.id):
                lights.append(self._light(index, params, scale, own))
            amounts.append(params.amount)
            only = only or (isinstance(params, SpreadParams) and params.output == "spread_only" and not card.treat)
        return Made(NOTHING if only else own, tuple(lights), tuple(amounts))

    def _base(self, index: int, scale: int) -> Step:
        """The picture of a card, cut; for a treat card the picture so far."""
        card = self._cards[index]
        if card.treat:
            return self._picture_of(index, scale)
        assert card.picture is not None
        own = PICTURES.get(card.picture.kind).build(self, card.picture, scale, card.join)
        for reference in card.cut:
            weight = self._weight(card, reference, own, scale)
            own = pointwise(
                "cut 1", None, [own, weight], lambda given: _scaled_by(given[0], given[1]),
                channels=4, domain=own.domain, where=self.where,
            )  # fmt: skip
        return own

    def _active(self, card: Card, stage: str) -> Iterator[TreatmentParams]:
        for params in card.treatments:
            treatment = TREATMENTS.get(params.kind)
            if treatment.stage == stage and params.enabled and params.amount != 0 and not treatment.neutral(params):
                yield params

    def _treated(self, card: Card, own: Step, params: TreatmentParams, scale: int) -> Step:
        treatment = TREATMENTS.get(params.kind)
        weight = self._weight(card, params.through, own, scale) if isinstance(params, ThroughParams) and params.through else None
        if treatment.mixed and (weight is not None or params.amount != 1):
            return self._treated_at_once(treatment, params, own, weight, scale)
        reach = treatment.reach(params, scale)

        def needs(window: Window) -> tuple[Window, ...]:
            wanted = treatment.needs(params, window, scale)["own"]
            return (own.domain if isinstance(wanted, str) else wanted,)

        result = Step(
            content_key(f"{treatment.kind} {treatment.version}", [_settings(params), scale], (own,)), treatment.kind,
            own.domain.grown(reach) if treatment.grows and own.edge != "extend" else own.domain, own.channels, (own,),
            needs, lambda window, given: treatment.apply(params, given[0], window, scale), own.edge, self.where, reach == 0,
        )  # fmt: skip
        return self._mixed(own, result, weight, params.amount)

    def _treated_at_once(self, treatment: Treatment, params: TreatmentParams, own: Step, weight: Step | None, scale: int) -> Step:
        """A pointwise treatment and its mix in one step: what is not kept in between need not be written."""
        mixed = treatment.mixed
        assert mixed is not None

        def compute(given: tuple[Picture, ...]) -> Any:
            return mixed(params, given[0], given[1] if weight is not None else None, given[0].window, scale).pixels

        return pointwise(
            f"{treatment.kind} {treatment.version} mixed", [_settings(params), params.amount, scale],
            [own] if weight is None else [own, weight], compute, channels=own.channels, edge=own.edge, domain=own.domain,
            where=self.where, counted_as=treatment.kind,
        )  # fmt: skip

    def _mixed(self, own: Step, treated: Step, weight: Step | None, amount: float) -> Step:
        if weight is None and amount == 1:
            return treated
        inputs = [own, treated] + ([weight] if weight is not None else [])
        ones = np.ones((1, 1, 1), np.float32)

        def compute(given: tuple[Picture, ...]) -> Any:
            below, top = given[0].pixels, given[1].pixels
            w = given[2].pixels if weight is not None else np.broadcast_to(ones, (*below.shape[:2], 1))
            out = blank(*below.shape)
            joining.mix(ready(below), ready(top), ready(w), np.float32(amount), out)
            return out

        return pointwise("mix 1", amount, inputs, compute, channels=own.channels, edge=treated.edge,
                         domain=own.domain.union(treated.domain), where=self.where)  # fmt: skip

    def _light(self, index: int, params: TreatmentParams, scale: int, own: Step) -> Step:
        """Light fed at full size, reduced, then spread: a lamp of two pixels blooms the same at every scale."""
        card = self._cards[index]
        treatment: Treatment = TREATMENTS.get(params.kind)
        assert isinstance(params, SpreadParams)
        assert treatment.feed is not None
        assert treatment.feed_part is not None
        source = own if scale == 1 else self._before_light(index, 1)
        inputs = [source]
        if isinstance(params.feed, CardFeed):
            inputs.append(self._weight(card, params.feed.matte, source, 1))
        feed = treatment.feed

        def compute(given: tuple[Picture, ...]) -> Any:
            pixels = given[0].pixels if len(given) == 1 else _scaled_by(given[0], given[1])
            return feed(params, pixels)

        fed = pointwise(
            f"feed {treatment.kind} {treatment.version}", treatment.feed_part(params), inputs, compute,
            channels=3, domain=source.domain, where=self.where,
        )  # fmt: skip
        finest = treatment.made_at(params, scale)
        reduced = self.reduced(fed, finest, "area")
        reach = treatment.reach(params, finest)
        spread = Step(
            content_key(f"{treatment.kind} {treatment.version}", [_settings(params), finest], (reduced,)), treatment.kind,
            reduced.domain.grown(treatment.extent(params, finest) if treatment.extent else reach), 3, (reduced,),
            lambda window: (window.grown(reach).intersect(reduced.domain),),
            lambda window, given: treatment.apply(params, given[0], window, finest), where=self.where,
        )  # fmt: skip
        return self.reduced(spread, scale // finest, "area")

    def _before_light(self, index: int, scale: int) -> Step:
        """A card's picture after its colour and spatial treatments, made at the scale that the finest of them wants."""
        card = self._cards[index]
        finest = min((TREATMENTS.get(p.kind).made_at(p, scale) for p in self._active(card, "spatial")), default=scale)
        own = self._base(index, finest)
        for stage in ("colour", "spatial"):
            for params in self._active(card, stage):
                with self._at(treatment=params.id):
                    own = self._treated(card, own, params, finest)
        return self.reduced(own, scale // finest, "area")

    def _joined(self, card: Card, below: Step, made: Made) -> Step:
        chosen, opacity, added = JOINS.get(card.join), card.opacity, made.added(card.opacity)
        if below is NOTHING and not made.lights and opacity == 1 and chosen.keeps_nothing:
            return made.own
        inputs = [below, made.own, *made.lights]

        def compute(given: tuple[Picture, ...]) -> Any:
            window = given[0].window
            out = join(chosen.kind, given[1], given[0], window, opacity).pixels
            return _with_lights(out, given[2:], added)

        return pointwise(
            f"join 1 {chosen.kind}", [opacity, *added], inputs, compute, channels=4,
            edge=chosen.edge(made.own.edge, below.edge), where=self.where,
        )  # fmt: skip

    def _treat(self, card: Card, below: Step, made: Made) -> Step:
        treated = self._mixed(below, made.own, None, card.opacity) if made.own is not below else below
        if not made.lights:
            return treated
        added = made.added(card.opacity)
        return pointwise(
            "light 1", added, [treated, *made.lights],
            lambda given: _with_lights(given[0].pixels, given[1:], added),
            channels=4, edge=treated.edge, where=self.where,
        )  # fmt: skip

    # mattes on cards

    def _weight(self, card: Card, reference: MatteRef, own: Step, scale: int) -> Step:
        """How much of a card's picture a matte means: its share where the picture carries that layer's alpha,
        its coverage elsewhere; on a treat card its coverage over the alpha of the picture so far."""
        if not card.treat and self._same_render(card, reference.matte):
            return self._channel(self.matte_planes(reference.matte, scale), 1, reference.invert)
        coverage = self.coverage(reference, scale)
        if not card.treat:
            return coverage
        return pointwise(
            "coverage over alpha 1", None, [coverage, own],
            lambda given: shares(given[0].pixels, given[1].pixels[..., 3:]),
            channels=1, domain=coverage.domain, edge=coverage.edge, where=self.where,
        )  # fmt: skip

    def _same_render(self, card: Card, matte_id: str) -> bool:
        assert card.picture is not None
        shown = set(PICTURES.get(card.picture.kind).sources(card.picture))
        pulled = self.sources_of(matte_id)
        return bool(pulled) and pulled <= shown and all(self._carries_alpha(name) for name in shown)

    def _carries_alpha(self, source: str) -> bool:
        info = self.source(source)
        return info.has("beauty") and info.find("beauty").has_alpha

    def element_alpha(self, card_id: str) -> Step:
        index = [card.id for card in self._cards].index(self.shot.card(card_id).id)
        own = self._made_card(index, 1).own
        return last_channel(own, "extend" if own.edge == "extend" else "empty")

    @contextmanager
    def _at(self, **place: Any) -> Iterator[None]:
        before = self.where
        self.where = replace(before, **place)
        try:
            yield
        except UmbraxError as error:
            error.at(self.where)
            raise
        finally:
            self.where = before


def _settings(params: TreatmentParams) -> dict[str, Any]:
    """What of a treatment changes its pixels: not its name, place or how much of it is mixed in."""
    return params.model_dump(mode="json", exclude={"id", "name", "enabled", "amount", "through", "feed", "output"})


def _scaled_by(picture: Picture, weight: Picture) -> Any:
    out = blank(*picture.pixels.shape)
    joining.scale_by(ready(picture.pixels), ready(weight.pixels), out)
    return out


def _with_lights(pixels: Any, lights: tuple[Picture, ...], amounts: tuple[float, ...]) -> Any:
    for light, amount in zip(lights, amounts, strict=True):
        out = blank(*pixels.shape)
        joining.add_light(ready(pixels), ready(light.pixels), np.float32(amount), out)
        pixels = out
    return pixels


__all__ = ["NOTHING", "Made", "ShotPlanner"]
