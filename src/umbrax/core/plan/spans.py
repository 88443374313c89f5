"""Of one card: between what its full-size pixels lie in a preview, and how sharp they are there."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Any, Protocol

from ..pictures import PICTURES
from ..treatments.base import Treatment, TreatmentParams
from ..treatments.defocus import DefocusParams, blur_of
from .around import OfCard
from .feeds import blurred, evened, sharpness_of, spans_of, spans_over
from .once import planned_once
from .placed import placed
from .places import shown_by
from .reader import LIT
from .steps import Step


class Blurred(OfCard, Protocol):
    """What is asked of the card."""

    def active(self, stage: str) -> Iterator[tuple[TreatmentParams, Treatment]]:
        """Its treatments of a stage that do something, in their order."""
        ...


class CardSpans:
    """Of one card."""

    def __init__(self, of: Blurred):
        self._of, self._card = of, of.card
        self.planner = of.planner
        self.planned: dict[tuple[Any, ...], Any] = {}

    def spans(self, scale: int) -> Step | None:
        """Between what the full-size pixels of the card's picture lie, by what was rendered; None where nothing was."""
        if self._card.treat:
            spans = self._of.behind.spans(scale)
            return evened(spans) if spans is not None and self._blurring() else spans
        if not self._blurring():
            return self._rendered(scale)
        sharp, rendered = self.sharpness(scale), self._rendered(scale)
        return None if sharp is None or rendered is None else blurred(rendered, sharp)

    def sharpness(self, scale: int) -> Step | None:
        """How sharp an element is that only a lens blurs."""
        blurring = self._blurring()
        params = blurring[0] if len(blurring) == 1 else None
        if self._card.treat or not isinstance(params, DefocusParams) or params.mode == "uniform":
            return None
        depth, display = self._of.depth(params.depth, scale), self.planner.display
        if depth is None:
            return None
        return sharpness_of(depth, lambda z: blur_of(params, z, display, scale), [params, display, scale], self.planner.where)

    def _blurring(self) -> list[TreatmentParams]:
        return [params for params, treatment in self._of.active("spatial") if treatment.blurs]

    @planned_once
    def _rendered(self, scale: int) -> Step | None:
        planner, picture, placement = self.planner, self._card.picture, self._of.placement
        assert picture is not None
        if placement.flat:
            return None
        found: list[Step] = []
        if (inside := self._card.inside()) and (step := planner.build_spans(inside, scale)) is not None:
            found.append(step)
        for source in sorted(shown_by(self._card)) if PICTURES.get(picture.kind).lit else ():
            info = planner.source(source)
            if (name := next((kind for kind in LIT if info.has(kind)), None)) is not None:
                found.append(spans_of(planner.read(source, name, 1, shown=True), info.find(name).has_alpha, scale))
        display, way = planner.display.scaled(scale), replace(placement, filter="bilinear")
        return spans_over([placed(step, way, scale, scale, display, planner.where) for step in found])
