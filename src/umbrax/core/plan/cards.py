"""The stages of one card: picture, cut, colour treatments, placing, spatial treatments, what gets in from around it, light that spreads."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from ..document.cards import BundlePicture, Card
from ..document.parameters import MatteRef
from ..errors import UmbraxError
from ..mattes.ids import shares
from ..pictures import PICTURES
from ..pictures.base import last_channel, own_alpha
from ..treatments import TREATMENTS
from ..treatments.base import LimitedParams, SpreadParams, Treatment, TreatmentParams, with_camera
from ..treatments.defocus import FOCUS, DefocusParams
from .around import Around, Behind
from .depth import everywhere
from .feeds import covering_beyond
from .layers import Layer, Made, beside_alpha, inside_alpha
from .mattes import MattePlanner
from .once import planned_once
from .placed import ended, placed, source_scale
from .placement import EVERYWHERE, HERE, Space
from .places import shown_by
from .spans import CardSpans
from .spreading import Spreading
from .steps import NOTHING, Step, pointwise
from .times import in_its_time, times_of
from .treatments import applied, asked_of, treated, weighed


class CardPlanner:
    """Plans one card."""

    def __init__(self, planner: MattePlanner, card: Card, behind: Behind):
        self.planner = planner
        self.card = card
        self.behind = behind
        place = planner.places[card.id]
        self.placement = place.own
        self.own_pixels = Space(card.id, place.total)
        self.in_build = Space(card.id, planner.places.build_of(card.id))
        self._spreading = Spreading(self)
        self._spans = CardSpans(self)
        self.planned: dict[tuple[Any, ...], Any] = {}
        self.times = times_of(card, planner.frame, planner.first)

    @in_its_time
    def made(self, scale: int) -> Made:
        own, layers = self.own(scale), []
        for params, treatment in self.active("surround") if own is not NOTHING else ():
            with self.planner.at(treatment=params.id):
                layers.append(Layer(self._laid(params, treatment, scale), params.amount, treatment.lays(params), treatment.behind))
        for params, _ in self.active("light"):
            assert isinstance(params, SpreadParams)
            with self.planner.at(treatment=params.id):
                layers.append(Layer(self._spreading.light(params, scale), params.amount, None))
        return Made(own, tuple(layers))

    @in_its_time
    def own(self, scale: int) -> Step:
        """The card's picture without what is laid on it from around, and without the light it spreads: nothing where that is all it gives."""
        lights = (params for params, _ in self.active("light") if isinstance(params, SpreadParams))
        only = not self.card.treat and any(params.output == "spread_only" for params in lights)
        return NOTHING if only else self.before_layers(scale)

    def active(self, stage: str) -> Iterator[tuple[TreatmentParams, Treatment]]:
        for params in self.card.treatments:
            treatment = TREATMENTS.get(params.kind)
            if treatment.stage != stage or not params.enabled or params.amount == 0:
                continue
            params = with_camera(params, treatment, self.planner.camera)
            if not treatment.neutral(params):
                yield params, treatment

    # own picture

    @planned_once
    @in_its_time
    def before_layers(self, scale: int) -> Step:
        """The card's picture after its colour and spatial treatments, made at the scale that the finest of them wants."""
        finest = min((treatment.made_at(params, scale) for params, treatment in self.active("spatial")), default=scale)
        own = self.where_it_stands(finest)
        for params, treatment in self.active("spatial"):
            own = self._treated(params, treatment, own, self.in_build, finest)
        return self.planner.reduced(own, scale // finest, "area")

    @in_its_time
    def light_of(self, wanted: str | None, scale: int, sharp: bool = False) -> Step:
        """The card's picture before light spreads from it, and with `sharp` before anything spatial is done to it; or another pass of its
        source, where it stands and cut as it is."""
        if wanted is None:
            return self.where_it_stands(scale) if sharp else self.before_layers(scale)
        return self._cut(self.around(self.in_build, scale).picture_of(wanted), self.in_build, scale)

    @planned_once
    @in_its_time
    def where_it_stands(self, scale: int) -> Step:
        """The picture as it stands in its build; what is graded before does not know where that is."""
        if self.placement.flat:
            return NOTHING
        own_scale = source_scale(self.placement, scale)
        own, display = self.before_placing(own_scale), self.planner.display
        stands = placed(own, self.placement, own_scale, scale, display.scaled(scale), self.planner.where)
        return ended(stands, self.in_build.stands, scale, display)

    @planned_once
    @in_its_time
    def before_placing(self, scale: int) -> Step:
        """The picture, cut and graded, in its own pixels; for a treat card the picture so far."""
        picture = self.card.picture
        laid_down = None if picture is None else PICTURES.get(picture.kind).laid_down
        own = self.behind.picture(scale) if picture is None else self._base(scale)
        if laid_down is None:
            own = self._cut(own, self.own_pixels, scale)
        for params, treatment in self.active("colour"):
            own = self._treated(params, treatment, own, self.own_pixels, scale)
        return own if laid_down is None else self._cut(laid_down(self.planner, picture, own, self.card.join), self.own_pixels, scale)

    @planned_once
    @in_its_time
    def depth(self, wanted: str, scale: int) -> Step | None:
        """How far away what the card shows is, where it stands in its build; None where nothing tells."""
        planner, card = self.planner, self.card
        if card.treat:
            return self.behind.depth(scale)
        if card.depth is not None:
            return everywhere(card.depth, planner.where)
        if (inside := card.inside()) and not self.placement.flat:
            found = planner.build_depth(inside, own_scale := source_scale(self.placement, scale))
            way = replace(self.placement, filter="nearest")
            return found and placed(found, way, own_scale, scale, planner.display.scaled(scale), planner.where, "far")
        sources = [source for source in shown_by(card) if planner.source(source).has(wanted)]
        return self.around(self.in_build, scale).depth_of_source(wanted) if len(sources) == 1 and not self.placement.flat else None

    @in_its_time
    def beyond(self, own: Step, scale: int) -> Step | None:
        """How much of each pixel its picture `own` covers beyond the frame, 1 within; None where it ends there. What only goes on covers
        nothing."""
        if self.card.treat:
            return self.behind.beyond(scale)
        if (inside := self.card.inside()) and self.placement.still:
            return self.planner.build_beyond(inside, scale)
        frame = self.planner.display.scaled(scale)
        return None if frame.contains(own.domain) else covering_beyond(frame, [last_channel(own)], self.planner.where)

    def _cut(self, own: Step, space: Space, scale: int) -> Step:
        for reference in self.card.cut:
            own = weighed(own, self.weight(reference, own, space, scale), self.planner.where)
        return own

    def _base(self, scale: int) -> Step:
        """The picture of an element as it is."""
        assert self.card.picture is not None
        planner = self.planner
        planner.stands = self.own_pixels.stands
        if not planner.stands.still:
            planner.seen = EVERYWHERE
        try:
            return PICTURES.get(self.card.picture.kind).build(planner, self.card.picture, scale, self.card.join)
        finally:
            planner.seen, planner.stands = planner.display, HERE

    def _treated(self, params: TreatmentParams, treatment: Treatment, own: Step, space: Space, scale: int) -> Step:
        with self.planner.at(treatment=params.id):
            asked = asked_of(treatment, params, self.around(space, scale))
            return treated(treatment, params, own, asked, self._through(params, own, space, scale), scale, self.planner.where)

    @in_its_time
    def focus(self, scale: int) -> Step:
        """The picture before it is defocused, what is nearer than what is sharp in one colour and what is farther in another."""
        found = [params for params, _ in self.active("spatial") if isinstance(params, DefocusParams)]
        if not found:
            raise UmbraxError("no-defocus", f"card {self.card.shown_name!r} is not defocused; touch something and choose focus here")
        with self.planner.at(treatment=found[0].id):
            own, asked = self.where_it_stands(scale), asked_of(FOCUS, found[0], self.around(self.in_build, scale))
            return applied(FOCUS, found[0], own, asked, scale, own.domain, 4, self.planner.where)

    # what is laid on it

    @in_its_time
    def laid(self, treatment_id: str, scale: int) -> Step:
        """What one treatment takes from around it, by itself; an error where that is none of such."""
        for params, treatment in self.active("surround"):
            if params.id == treatment_id:
                with self.planner.at(treatment=params.id):
                    layer = self._laid(params, treatment, scale, alone=True)
                    return layer if treatment.behind else weighed(layer, last_channel(self.before_layers(scale)), self.planner.where)
        raise UmbraxError("nothing-laid", "this treatment lays nothing on the card; look at a light wrap, a bleed or a shadow that is on")

    def _laid(self, params: TreatmentParams, treatment: Treatment, scale: int, alone: bool = False) -> Step:
        finest = treatment.made_at(params, scale)
        own = self.before_layers(finest)
        weight = self._through(params, own, self.in_build, finest)
        asked = asked_of(treatment, params, self.around(self.in_build, finest))
        if treatment.behind:
            casts = own if weight is None else weighed(own, weight, self.planner.where)
            domain = treatment.falls_on(params, own.domain, finest)
            layer = applied(treatment, params, casts, asked, finest, domain, 4, self.planner.where)
            hidden = 0.0 if alone or self.card.join != "over" else self.card.opacity
            return beside_alpha(layer, own_alpha(own), hidden, scale // finest)
        layer = applied(treatment, params, own, asked, finest, own.domain, 4, self.planner.where)
        return inside_alpha(layer if weight is None else weighed(layer, weight, self.planner.where), own_alpha(own), scale // finest)

    @in_its_time
    def spans(self, scale: int) -> Step | None:
        """Between what the full-size pixels of the card's picture lie at a scale, by what was rendered; None where nothing was."""
        return self._spans.spans(scale)

    @in_its_time
    def sharpness(self, scale: int) -> Step | None:
        """How sharp an element is that only a lens blurs, 1 for what is in focus, 0 for what is spread over half a pixel and more."""
        return self._spans.sharpness(scale)

    def around(self, space: Space, scale: int) -> Around:
        return Around(self, space, space is self.in_build, scale)

    # mattes

    def _through(self, params: TreatmentParams, own: Step, space: Space, scale: int) -> Step | None:
        if not isinstance(params, LimitedParams) or params.through is None:
            return None
        return self.weight(params.through, own, space, scale)

    @in_its_time
    def weight(self, reference: MatteRef, own: Step, space: Space, scale: int) -> Step:
        """How much of the card's picture a matte means: its share where the picture carries that layer's alpha, its coverage
        elsewhere; on what is joined of several its coverage over the alpha of that."""
        planner = self.planner
        planes = planner.planes_in(reference, space, scale)
        joined = self.card.treat or isinstance(self.card.picture, BundlePicture)
        if not joined and self._carries(reference.matte):
            return planner.channel(planes, 1, reference.invert)
        coverage = planner.channel(planes, 0, reference.invert)
        if not joined:
            return coverage
        return pointwise(
            "coverage over alpha 1", None, [coverage, own], lambda given: shares(given[0].pixels, given[1].pixels[..., 3:]),
            channels=1, domain=coverage.domain, edge=coverage.edge, where=planner.where,
        )  # fmt: skip

    def _carries(self, matte_id: str) -> bool:
        """Whether the picture carries the alpha of all that a matte is pulled from."""
        shown, pulled = shown_by(self.card), self.planner.sources_of(matte_id)
        lit = self.card.picture is not None and PICTURES.get(self.card.picture.kind).lit
        return lit and bool(pulled) and pulled <= shown and all(self._has_alpha(name) for name in shown)

    def _has_alpha(self, source: str) -> bool:
        info = self.planner.source(source)
        return info.has("beauty") and info.find("beauty").has_alpha
