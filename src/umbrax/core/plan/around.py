"""What a treatment of a card may look at besides the card's own picture, in the pixels of its stage."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Protocol

from ..document.cards import Card
from ..document.parameters import MatteRef
from ..document.tiling import Tiling
from ..errors import UmbraxError
from ..picture import Edge
from ..pictures.base import as_rgba, own_alpha
from ..pictures.texture import tiled
from .depth import sharp, told_apart, untold
from .mattes import MattePlanner
from .placed import placed, source_scale
from .placement import EVERYWHERE, HERE, Placement, Space
from .places import shown_by
from .read import ends_in
from .reader import COVERAGES, is_light
from .steps import Step


@dataclass(frozen=True)
class Lamp:
    """A card that light is taken from: its light, or that of another pass of its source, at a scale; how much of each pixel of it is
    seen; and between what its full-size pixels lie. None where nothing hides it, or nothing tells."""

    light: Callable[[str | None, int], Step]
    seen: Callable[[int], Step | None]
    spans: Callable[[int], Step | None]


class Behind(Protocol):
    """What lies behind a card in its build; and what lies in front of it."""

    def picture(self, scale: int) -> Step:
        """The picture so far."""
        ...

    def beyond(self, scale: int) -> Step | None:
        """How much of each pixel the pictures cover beyond the frame that it is made of, 1 within: a border that only goes on counts for
        nothing, nor does the light they spread. None where they end at the frame."""
        ...

    def spans(self, scale: int) -> Step | None:
        """Between what its full-size pixels lie at a scale, by what was rendered."""
        ...

    def depth(self, scale: int) -> Step | None:
        """How far away it is; None where nothing tells."""
        ...

    def seen(self, scale: int) -> Step | None:
        """How much of each pixel of the card is seen; None where nothing can hide it."""
        ...

    def lamp(self, card_id: str) -> Lamp:
        """Another element card of the build as one that light is taken from."""
        ...


class OfCard(Protocol):
    """What is asked of the card itself."""

    planner: MattePlanner
    card: Card
    behind: Behind
    placement: Placement

    def before_layers(self, scale: int) -> Step:
        """Its picture before light spreads from it."""
        ...

    def where_it_stands(self, scale: int) -> Step:
        """Its picture before anything spatial is done to it."""
        ...

    def depth(self, wanted: str, scale: int) -> Step | None:
        """How far away it is; None where nothing tells."""
        ...


class Around:
    """Of one card at one scale: `placed_yet` where the card's picture stands in its build already, in `space`."""

    def __init__(self, of: OfCard, space: Space, placed_yet: bool, scale: int):
        self._of, self._planner, self._card, self._behind, self._placement = of, of.planner, of.card, of.behind, of.placement
        self._space, self._placed_yet, self._scale = space, placed_yet, scale
        self.frame = of.planner.frame
        self.display = of.planner.display
        self.luma = of.planner.luma

    def at_full_size(self) -> "Around":
        return Around(self._of, self._space, self._placed_yet, 1)

    def below(self) -> Step:
        below = self._behind.picture(self._scale)
        return below if self._placed_yet else self._standing(below, self._placement.inverse(), self._scale)

    def shown(self) -> Step:
        return self._of.before_layers(self._scale)

    def alpha(self) -> Step:
        return own_alpha(self._of.where_it_stands(self._scale))

    def of_pass(self, wanted: str) -> Step:
        return self._pass(wanted, self._planner.read)

    def depth(self, wanted: str) -> Step:
        found = self._of.depth(wanted, self._scale)
        if found is None:
            raise untold(wanted)
        return found

    def depth_told_apart(self, wanted: str) -> Step:
        """That, as `told_apart` gives it."""
        return told_apart(self.depth(wanted), self._planner.where)

    def depth_of_source(self, wanted: str) -> Step:
        """A depth pass of the card's own source, its edges told apart by IDs."""
        return self._pass(wanted, lambda source, name, scale: sharp(self._planner, source, name, scale))

    def picture_of(self, wanted: str) -> Step:
        """The same as a picture, RGBA, with the alpha that it takes from its source where it has none."""
        return self._pass(wanted, lambda source, name, scale: as_rgba(self._planner, source, name, scale))

    def _pass(self, wanted: str, read: Callable[[str, str, int], Step]) -> Step:
        sources = sorted(shown_by(self._card))
        if len(sources) != 1:
            raise UmbraxError("several-sources", f"pass {wanted!r}: the picture of this card is not made of one source; use one that is")
        if not self._placed_yet:
            return read(sources[0], wanted, self._scale)
        own_scale, kind = source_scale(self._placement, self._scale), self._planner.source(sources[0]).find(wanted).kind
        way = self._placement if is_light(kind, shown=False) or kind in COVERAGES else replace(self._placement, filter="nearest")
        return self._standing(read(sources[0], wanted, own_scale), way, own_scale, ends_in(kind))

    def turn(self) -> tuple[float, float, float, float]:
        way = self._placement if self._placed_yet else HERE
        return way.a, way.b, way.d, way.e

    def tiled(self, source: str, how: Tiling) -> Step:
        return tiled(self._planner, source, how, self._scale, EVERYWHERE)

    def matte(self, reference: MatteRef) -> Step:
        planes = self._planner.planes_in(reference, self._space, self._scale)
        return self._planner.channel(planes, 0, reference.invert)

    def _standing(self, step: Step, way: Placement, own_scale: int, ends: Edge = "empty") -> Step:
        display = self._planner.display.scaled(self._scale)
        return placed(step, way, own_scale, self._scale, display, self._planner.where, ends)
