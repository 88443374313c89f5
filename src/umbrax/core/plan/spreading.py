"""Light that the treatments of a card spread: what feeds each, and what becomes of it, at full size and in previews."""

from collections.abc import Iterator
from typing import Protocol

from ..document.parameters import MatteRef
from ..errors import UmbraxError, Where
from ..treatments import TREATMENTS
from ..treatments.base import CardFeed, MatteFeed, PassFeed, SpreadParams, Treatment, TreatmentParams
from .around import Around, OfCard
from .feeds import fed, in_patches, passed_on
from .placement import Space
from .steps import Step
from .treatments import asked_of, spread, weighed


class Lit(OfCard, Protocol):
    """What is asked of the card whose treatments spread light."""

    in_build: Space

    def active(self, stage: str) -> Iterator[tuple[TreatmentParams, Treatment]]:
        """Its treatments of a stage that do something, in their order."""
        ...

    def around(self, space: Space, scale: int) -> Around:
        """What a treatment of it may look at."""
        ...

    def light_of(self, wanted: str | None, scale: int, sharp: bool = False) -> Step:
        """Its picture before light spreads from it, `sharp` before it is blurred, or another pass of its source as that."""
        ...

    def weight(self, reference: MatteRef, own: Step, space: Space, scale: int) -> Step:
        """How much of its picture a matte means."""
        ...

    def beyond(self, own: Step, scale: int) -> Step | None:
        """How much of each pixel its picture covers beyond the frame; None where it ends there."""
        ...

    def spans(self, scale: int) -> Step | None:
        """Between what the full-size pixels of its picture lie."""
        ...

    def sharpness(self, scale: int) -> Step | None:
        """How much of it is sharp, where a lens blurs it."""
        ...


class Spreading:
    """Of one card."""

    def __init__(self, of: Lit):
        self._of = of
        self._planner = of.planner

    def light(self, params: SpreadParams, scale: int) -> Step:
        """The light that a treatment spreads: a lamp of two pixels blooms the same at every scale."""
        treatment = TREATMENTS.get(params.kind)
        finest = treatment.made_at(params, scale)
        if params.feed == "above":
            light = self._above(params, finest)
        else:
            light = self._feed(params, finest)
        asked = asked_of(treatment, params, self._of.around(self._of.in_build, finest))
        return self._planner.reduced(spread(treatment, params, light, asked, finest, self._planner.where), scale // finest, "area")

    def _above(self, params: SpreadParams, scale: int) -> Step:
        """What the treatment above it put into the picture."""
        before: SpreadParams | None = None
        for one, _ in self._of.active("light"):
            assert isinstance(one, SpreadParams)
            if one.id == params.id:
                break
            before = one
        if before is None:
            raise UmbraxError("nothing-above", f"no treatment above {params.name or params.kind!r} spreads light; move it below one that does")
        return passed_on(self.light(before, scale), before.amount, params.limit, self._planner.where)

    def _feed(self, params: SpreadParams, scale: int) -> Step:
        """What a treatment spreads at a scale, as near as can be told to what it spreads at full size. It is fed at a finer one, unless
        it is blurred by a lens that tells what is hidden: then that is not made finer for it."""
        feed, planner = params.feed, self._planner
        sharp = self._of.sharpness(scale) if scale > 1 and not isinstance(feed, CardFeed | PassFeed) else None
        spans = None if sharp is None else self._of.spans(scale)
        fed_at = scale
        if spans is None:
            sharp, fed_at = None, 1 if isinstance(feed, PassFeed) else min(scale, planner.feed_scale)
            spans_at = self._of.behind.lamp(feed.card).spans if isinstance(feed, CardFeed) else self._of.spans
            spans = None if fed_at == 1 else spans_at(fed_at)
        light = self._fed(params, fed_at, spans)
        if spans is not None:
            # where a lens leaves it sharp it is as it was before: no need to blur all of it at full size
            light = in_patches(light, spans, sharp, self._fed(params, 1, None, sharp is not None), fed_at, planner.where)
        return planner.reduced(light, scale // fed_at, "area")

    def _fed(self, params: SpreadParams, scale: int, spans: Step | None, sharp: bool = False) -> Step:
        of, feed, where = self._of, params.feed, self._planner.where
        if isinstance(feed, CardFeed):
            lamp = of.behind.lamp(feed.card)
            light = lamp.light(feed.pass_, scale)
            return _as_seen(fed(params, light, None, spans, light.domain, where), lamp.seen(scale), where)
        own = of.light_of(feed.pass_ if isinstance(feed, PassFeed) else None, scale, sharp)
        weight = of.weight(feed.matte, own, of.in_build, scale) if isinstance(feed, MatteFeed) else None
        domain = own.domain
        if of.card.treat or of.card.inside():  # what cards have spread past the frame does not spread back, nor what only goes on there
            beyond = of.beyond(own, scale)
            domain = domain.intersect(of.planner.display.scaled(scale) if beyond is None else beyond.domain)
            if beyond is not None:
                weight = beyond if weight is None else weighed(beyond, weight, where)
        light = fed(params, own, weight, spans, domain, where)
        return _as_seen(light, of.behind.seen(scale), where) if params.hidden else light


def _as_seen(light: Step, seen: Step | None, where: Where) -> Step:
    """What of light that is fed is seen: what is in front of a lamp does not know where in a pixel of a preview the lamp is."""
    return light if seen is None else weighed(light, seen, where)
