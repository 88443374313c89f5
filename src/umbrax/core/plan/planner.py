"""Document + frame -> the steps needed for what is wanted, each with a content key.

A card is made in this order, always: picture, cut, colour treatments, placing, spatial treatments, what gets in from around
it, light that spreads, opacity, join. Spread light travels beside the card without alpha and is added at the join.
"""

from collections.abc import Callable
from typing import Any

from ..document.cards import Card
from ..document.shot import Shot
from ..document.timing import at_frame
from ..document.tucking import Tuck
from ..errors import UmbraxError
from ..mattes.false_colour import false_colour
from ..pictures.base import as_rgba, own_alpha
from .builds import Build
from .depth import untold
from .mattes import MattePlanner
from .reader import PassReader
from .remembered import CardPlans
from .steps import Step
from .times import shown_at

COARSEST = 4
FED_AT = 2  # the coarsest scale that is fed as it is asked for: what one finer costs there is the whole shot at full size


class ShotPlanner(MattePlanner):
    """Plans one frame of one shot. `broken` cards are left out; with `keep_going` cards that fail to plan join them.

    With `plans` cards are planned once for as long as nothing that they depend on changes.
    """

    def __init__(
        self, shot: Shot, frame: int, reader: PassReader, *, broken: dict[str, UmbraxError] | None = None, keep_going: bool = False,
        plans: CardPlans | None = None,
    ):  # fmt: skip
        super().__init__(shot, frame, reader)
        self.broken = {} if broken is None else broken
        self.keep_going = keep_going
        self._plans = plans
        self._builds: dict[str, Build] = {}
        self._build = self._build_of(tuple((at_frame if plans is None else plans.at_frame)(card, frame) for card in shot.build))

    # what is wanted

    def picture(self, upto: str | None = None, scale: int = 1) -> Step:
        """The picture so far after a card, or the finished one; of one in a bundle the picture so far in there."""
        if upto is None:
            return self._from_finer(self._build.picture, scale)
        build, index = self._find(upto)
        return self._from_finer(lambda n: build.picture(n, index + 1), scale)

    def behind(self, card_id: str, scale: int = 1) -> Step:
        """The picture so far of a card's build, before it."""
        build, index = self._find(card_id)
        return self._from_finer(lambda n: build.picture(n, index), scale)

    def card(self, card_id: str, scale: int = 1) -> Step:
        """What one card puts in, before its join; for a treat card the treated picture so far."""
        build, index = self._find(card_id)
        return self._from_finer(lambda n: build.card(index, n).own, scale)

    def focus(self, card_id: str, scale: int = 1) -> Step:
        """What a card shows before it is defocused, coloured by what is in front of and behind what is sharp."""
        build, index = self._find(card_id)
        with self.at(card=card_id):
            return build.planner_of(index).focus(scale)

    def laid(self, card_id: str, treatment_id: str, scale: int = 1) -> Step:
        """What a treatment of a card takes from around it, before it is laid on it."""
        build, index = self._find(card_id)
        with self.at(card=card_id):
            return build.planner_of(index).laid(treatment_id, scale)

    def pass_picture(self, source: str, wanted: str, scale: int = 1) -> Step:
        """A pass as RGBA for looking, of the frame at which its source is shown."""
        with self.reading_at({source: shown_at(self.shot, source, self.frame)}):
            return as_rgba(self, source, wanted, scale)

    def ids_picture(self, source: str, layer: str, scale: int = 1) -> Step:
        """An ID layer in false colour, of the frame at which its source is shown."""
        with self.reading_at({source: shown_at(self.shot, source, self.frame)}):
            return self.reduced(false_colour(self, source, layer), scale, "area")

    def element_alpha(self, card_id: str) -> Step:
        build, index = self._find(card_id)
        # no more of it: what is laid on a card from around may show the card that is cut by its alpha
        return own_alpha(build.planner_of(index).own(1))

    def before_placing(self, card_id: str, scale: int) -> Step:
        """A card's picture, cut and graded, in its own pixels."""
        build, index = self._find(card_id)
        return build.planner_of(index).before_placing(scale)

    def depth_of(self, card_id: str, scale: int = 1) -> Step:
        """The depth of what an element card shows, where it stands in its build; an error where its source has none."""
        build, index = self._find(card_id)
        with self.at(card=card_id):
            found = build.planner_of(index).depth("depth", scale)
            if found is None:
                raise untold()
            return found

    def occluder_of(self, card_id: str, tuck: Tuck, scale: int = 1) -> Step | None:
        """The light in the picture so far that one tuck holds a card behind, whatever its frames say; None where that is nothing."""
        build, index = self._find(card_id)
        return build.occluder(index, (tuck,), scale)

    def build_picture(self, cards: tuple[Card, ...], scale: int) -> Step:
        return self._build_of(cards).picture(scale)

    def build_beyond(self, cards: tuple[Card, ...], scale: int) -> Step | None:
        return self._build_of(cards).beyond(scale, len(cards))

    def build_depth(self, cards: tuple[Card, ...], scale: int) -> Step | None:
        return self._build_of(cards).depth(scale)

    def build_spans(self, cards: tuple[Card, ...], scale: int) -> Step | None:
        return self._build_of(cards).spans(scale)

    def _from_finer(self, made: Callable[[int], Step], scale: int) -> Step:
        """What is not linear goes wrong where a pixel holds too much: nothing is computed coarser than at `COARSEST`.

        Light that spreads is fed at the scale that is asked for, beyond `FED_AT` at one scale finer.
        """
        finer = min(scale, COARSEST)
        self.feed_scale = scale if scale <= FED_AT else scale // 2
        return self.reduced(made(finer), scale // finer, "area")

    # builds

    def _build_of(self, cards: tuple[Card, ...]) -> Build:
        """The same build for the same cards: ids are unique in a shot."""
        first = cards[0].id if cards else ""
        if first not in self._builds:
            self._builds[first] = Build(self, cards, self.broken, self.keep_going, self._plans)
        return self._builds[first]

    def _find(self, card_id: str) -> tuple[Build, int]:
        """The build a card is in, and where."""
        self.shot.card(card_id)  # or a clear refusal
        bundle: Any = self.places[card_id].bundle
        if bundle is None:
            build = self._build
        else:
            outer, index = self._find(bundle)
            build = self._build_of(outer.cards[index].inside())
        return build, [card.id for card in build.cards].index(card_id)
