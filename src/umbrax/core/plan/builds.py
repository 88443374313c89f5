"""Builds: cards joined from the back to the front into the picture so far."""

from collections.abc import Callable
from typing import Any

from ..document.cards import Card
from ..document.joining import BlendIn
from ..document.parameters import MatteRef
from ..document.tucking import Tuck
from ..errors import UmbraxError, Where
from ..joins import JOINS, join
from ..picture import Picture
from ..pictures import PICTURES
from .around import Lamp
from .cards import CardPlanner
from .depth import from_nearness, joined
from .feeds import covering_beyond, spans_over
from .in_front import seen
from .layers import Made, joined_layers, told, with_behind, with_laid, with_light
from .mattes import MattePlanner
from .reader import LOST
from .remembered import CardPlans, depends_on
from .steps import NOTHING, Step, pointwise
from .treatments import dimmed, mixed
from .tucking import Occluder, occluding, tucked


class Behind:
    """What lies behind a card in its build."""

    def __init__(self, build: "Build", index: int):
        self._build, self._index = build, index

    def picture(self, scale: int) -> Step:
        return self._build.unhidden(self._index).picture(scale, self._index)

    def beyond(self, scale: int) -> Step | None:
        return self._build.beyond(scale, self._index)

    def spans(self, scale: int) -> Step | None:
        return self._build.spans(scale, self._index)

    def depth(self, scale: int) -> Step | None:
        return self._build.depth(scale, self._index)

    def seen(self, scale: int) -> Step | None:
        return self._build.seen(self._index, scale)

    def lamp(self, card_id: str) -> Lamp:
        return self._build.lamp(card_id)


class Build:
    """The shot's own build, or that of a bundle; its cards have plain numbers. What was planned is kept by card and scale.

    `broken` cards are left out; cards whose pass is lost join them, with `keep_going` all that fail to plan.
    """

    def __init__(
        self, planner: MattePlanner, cards: tuple[Card, ...], broken: dict[str, UmbraxError], keep_going: bool, plans: CardPlans | None
    ):  # fmt: skip
        self.planner = planner
        self.cards = cards
        self.broken = broken
        self.keep_going = keep_going
        self._plans = plans
        self._cards = [CardPlanner(planner, card, Behind(self, index)) for index, card in enumerate(cards)]
        self._so_far: dict[tuple[Any, ...], Any] = {}
        self._made: dict[tuple[int, int, int], Made] = {}
        self._unhidden: dict[int, Build] = {}

    def picture(self, scale: int, count: int | None = None) -> Step:
        """The picture so far after the first `count` cards; of all without one."""
        so_far: Step = self._folded(self._with_card, NOTHING, scale, count)
        return so_far

    def unhidden(self, index: int) -> "Build":
        """The build with what holds a card back taken out of the cards behind it: what lies behind a tucked card, and not in front."""
        held = [one for one in self.cards[index].tuck if one.holds(self.planner.frame)]
        if not held:
            return self
        if index not in self._unhidden:
            cards = tuple(_without(card, [one.behind for one in held if one.card == card.id]) for card in self.cards)
            self._unhidden[index] = Build(self.planner, cards, self.broken, self.keep_going, self._plans)
        return self._unhidden[index]

    def _folded(self, add: Callable[[int, Any, int], Any], below: Any, scale: int, count: int | None) -> Any:
        """What the first `count` cards, or all, make of `below` one after the other: `add(index, below, scale)`, each asked once."""
        for index in range(len(self.cards) if count is None else count):
            key = (add.__name__, index, scale, self.planner.feed_scale)
            if key not in self._so_far:
                self._so_far[key] = add(index, below, scale)
            below = self._so_far[key]
        return below

    def card(self, index: int, scale: int) -> Made:
        key = (index, scale, self.planner.feed_scale)
        if key not in self._made:
            self._made[key] = self._remembered(index, scale)
        return self._made[key]

    def _remembered(self, index: int, scale: int) -> Made:
        key = None if self._plans is None else depends_on(self._plans, self.planner, self.cards[index], scale)
        if self._plans is None or key is None:
            return self._cards[index].made(scale)
        before = len(self.broken)
        made = self._plans.get(key) or self._cards[index].made(scale)
        if len(self.broken) == before:
            self._plans.put(key, made)
        return made

    def beyond(self, scale: int, count: int) -> Step | None:
        """How much of each pixel the first cards cover beyond the frame; 1 within. None where none reaches beyond it."""
        shown = (index for index in range(count) if self._is_made(index) and not self.cards[index].treat)
        each = (self._cards[index].beyond(self.card(index, scale).own, scale) for index in shown)
        found = [step for step in each if step is not None]
        return covering_beyond(self.planner.display.scaled(scale), found, self.planner.where) if found else None

    def spans(self, scale: int, count: int | None = None) -> Step | None:
        """Between what the full-size pixels of the picture so far lie at a scale, by what was rendered; None where nothing was."""
        so_far: Step | None = self._folded(self._with_spans, None, scale, count)
        return so_far

    def _with_spans(self, index: int, below: Step | None, scale: int) -> Step | None:
        own = self._cards[index].spans(scale) if self._is_made(index) else None
        if own is None or below is None or self.cards[index].treat:
            return below if own is None else own
        return spans_over([below, own])

    def depth(self, scale: int, count: int | None = None) -> Step | None:
        """How far away what the picture so far shows is; None where none of its cards tells."""
        near: Step | None = self._folded(self._with_depth, None, scale, count)
        return None if near is None else from_nearness(near, self.planner.where)

    def _with_depth(self, index: int, below: Step | None, scale: int) -> Step | None:
        card = self.cards[index]
        if not self._is_made(index) or card.treat or card.join != "over" or (card.depth is None and _falls_on_others(card)):
            return below
        depth = self._cards[index].depth("depth", scale)
        return below if depth is None else joined(below, depth, self.card(index, scale).own, card.opacity, self.planner.where)

    def seen(self, index: int, scale: int) -> Step | None:
        """How much of each pixel of a card is seen where it stands; None where nothing can hide it."""
        return seen(self._cards, [self._is_made(at) for at in range(len(self.cards))], index, scale)

    def lamp(self, card_id: str) -> Lamp:
        """An element card as one that others take light from."""
        index = next(at for at, card in enumerate(self.cards) if card.id == card_id)
        own, opacity, made = self._cards[index], self.cards[index].opacity, self._is_made(index)

        def light(wanted: str | None, scale: int) -> Step:
            return dimmed(own.light_of(wanted, scale), opacity) if made else NOTHING

        def spans(scale: int) -> Step | None:
            found = own.spans(scale) if made else None
            return None if found is None else dimmed(found, opacity)

        return Lamp(light, lambda scale: self.seen(index, scale), spans)

    def _is_made(self, index: int) -> bool:
        card = self.cards[index]
        return card.enabled and card.opacity != 0 and card.id not in self.broken

    def _with_card(self, index: int, below: Step, scale: int) -> Step:
        card, planner = self.cards[index], self.planner
        if not self._is_made(index):
            return below
        try:
            with planner.at(card=card.id):
                made = self.card(index, scale)
                return self._treat(card, below, made) if card.treat else self._joined(index, below, made, scale)
        except UmbraxError as error:
            error.at(Where(card=card.id, frame=planner.frame))
            # a card whose pass a version of the render lost shows nothing; it does not take the shot with it
            if not self.keep_going and error.code not in LOST:
                raise
            self.broken[card.id] = error
            return below

    def _joined(self, index: int, below: Step, made: Made, scale: int) -> Step:
        card = self.cards[index]
        chosen, opacity = JOINS.get(card.join), card.opacity
        held = tuple(one for one in card.tuck if one.holds(self.planner.frame))
        occluder = self.occluder(index, held, scale) if held else None
        layers = made.on_it
        if below is NOTHING and not layers and opacity == 1 and chosen.keeps_nothing:
            return with_light(made.own, made, opacity, self.planner.where)

        def compute(given: tuple[Picture, ...]) -> Any:
            on_it, hides = given[2 : 2 + len(layers)], None if occluder is None else given[-1]

            def onto(kind: str, top: Picture, below: Picture, much: float, blend_in: BlendIn | None = None) -> Picture:
                if hides is None:
                    return join(kind, top, below, below.window, much, blend_in)
                return Picture(tucked(below, top, hides, much), below.window, below.edge)

            behind = with_behind(given[0], layers, on_it, lambda top, below, much: onto("over", top, below, opacity * much))
            return onto(chosen.kind, with_laid(given[1], layers, on_it), behind, opacity, card.blend_in).pixels

        joined = pointwise(
            f"join 3 {chosen.kind}", [opacity, card.blend_in or chosen.usual, told(layers), occluder is not None],
            [below, made.own, *(layer.picture for layer in layers), *([] if occluder is None else [occluder])], compute,
            channels=4, edge=chosen.edge(made.own.edge, below.edge), where=self.planner.where,
        )  # fmt: skip
        return with_light(joined, made, opacity, self.planner.where)

    def planner_of(self, index: int) -> CardPlanner:
        """What plans one card."""
        return self._cards[index]

    def occluder(self, index: int, held: tuple[Tuck, ...], scale: int) -> Step | None:
        """The light in the picture so far that a card is held behind by some tucks; None where that is nothing."""
        found: list[Occluder] = []
        for at in range(index):
            card = self.cards[at]
            tucks = [one for one in held if one.card == card.id]
            if not tucks or card.treat or not self._is_made(at):
                continue
            made, planner = self.card(at, scale), self._cards[at]
            weights = tuple(planner.weight(one.behind, made.own, planner.in_build, scale) for one in tucks)
            between = [k for k in range(at + 1, index) if self._is_made(k) and not self.cards[k].treat and self.cards[k].join == "over"]
            in_front = tuple((self.card(k, scale).own, self.cards[k].opacity) for k in between)
            found.append(Occluder(joined_layers(made, self.planner.where), card.opacity, weights, in_front))
        return occluding(found, self.planner.where) if found else None

    def _treat(self, card: Card, below: Step, made: Made) -> Step:
        treated = mixed(below, made.own, None, card.opacity, self.planner.where) if made.own is not below else below
        return with_light(treated, made, card.opacity, self.planner.where)


def _falls_on_others(card: Card) -> bool:
    """What shows no light of its sources does not stand where they do: a shadow is as far away as what it falls on."""
    return card.picture is not None and not PICTURES.get(card.picture.kind).lit


def _without(card: Card, objects: list[MatteRef]) -> Card:
    """A card without some of its objects."""
    if not objects:
        return card
    cut = tuple(one.model_copy(update={"invert": not one.invert}) for one in objects)
    return card.model_copy(update={"cut": (*card.cut, *cut)})
