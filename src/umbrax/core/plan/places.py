"""Where the cards of a shot stand at a frame, and where a matte stands that is used on one of them."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

from ..document.cards import Card
from ..document.parameters import FRAME
from ..document.placing import Placing
from ..document.shot import Shot
from ..document.timing import at_frame
from ..mattes import MATTES
from ..picture import Window
from ..pictures import PICTURES
from .placement import HERE, Placement


def placement_of(placing: Placing, display: Window) -> Placement:
    """A placing at a frame, its numbers plain: p' = about + move + turned (scale (p - about))."""
    quarter, rest = divmod(placing.turn, 90)
    cos, sin = (1.0, 0.0) if rest == 0 else (math.cos(math.radians(rest)), math.sin(math.radians(rest)))
    for _ in range(int(quarter) % 4):
        cos, sin = -sin, cos
    (x, y), (across, down) = placing.about or (display.width / 2, display.height / 2), placing.scale
    # counter-clockwise on the screen, where y points down
    a, b, d, e = cos * across, sin * down, -sin * across, cos * down
    return Placement(
        a + 0.0, b + 0.0, x - a * x - b * y + placing.move[0], d + 0.0, e + 0.0, y - d * x - e * y + placing.move[1], placing.filter
    )  # fmt: skip


@dataclass(frozen=True)
class Place:
    """A card in its build: the bundle it is in, if any, its own placement there, and where that puts it in the frame."""

    card: Card
    bundle: str | None
    own: Placement
    total: Placement


class Places:
    """All cards of a shot at one frame, by id."""

    def __init__(self, shot: Shot, frame: int):
        self._shot = shot
        self._frame = frame
        self._placings = {card.id: card for card in shot.cards()}
        self._places: dict[str, Place] = {}
        self._stands: dict[tuple[str, str | None], Placement | None] = {}
        self._add(shot.build, frame, None, HERE)
        self.still = all(place.total.still for place in self._places.values())

    def _add(self, cards: tuple[Card, ...], frame: int, bundle: str | None, around: Placement) -> None:
        for card in cards:
            own = self._standing(card)
            self._places[card.id] = Place(card, bundle, own, around @ own)
            self._add(card.inside(), frame, card.id, around @ own)

    def _standing(self, card: Card) -> Placement:
        """Where a card stands in its build: as it is placed, moved on with what it follows."""
        placed = card.placing.model_fields_set
        own = placement_of(at_frame(card.placing, self._frame), self._shot.format.display) if placed else HERE
        return own if card.follow is None else (self._standing(self._placings[card.follow]) @ own).rounded()

    def __getitem__(self, card_id: str) -> Place:
        return self._places[card_id]

    @cached_property
    def told(self) -> str:
        """All that it depends on where a card or a matte stands, to compare."""
        return repr([
            (name, place.bundle, place.total, place.card.enabled, sorted(shown_by(place.card))) for name, place in self._places.items()
        ])  # fmt: skip

    def build_of(self, card_id: str | None) -> Placement:
        """Where the build stands that a card is in; the frame itself for the shot's own."""
        bundle = None if card_id is None else self._places[card_id].bundle
        return HERE if bundle is None else self._places[bundle].total

    def card_showing(self, sources: set[str], user: str | None = None) -> str | None:
        """The card whose picture is made of one of these sources: the one given, if it is, else the frontmost."""
        if user is not None and any(sources & shown_by(card) for card in self._places[user].card.with_inside()):
            return user
        front = frontmost((place.card for place in self._places.values()), sources)
        return user if front is None else front.id

    def matte(self, matte_id: str, on: str | None = None, user: str | None = None) -> Placement | None:
        """Where a matte stands in the frame, used on a card or by nobody; None where parts of it stand apart.

        What is pulled from a source stands where that one is shown, by the card that uses it or by the frontmost; what is drawn
        stays in the build of the card that uses it.
        """
        if on == FRAME:
            return HERE
        if on is not None:
            return self._places[on].total
        key = (matte_id, user)
        if key not in self._stands:
            self._stands[key] = self._matte(matte_id, user)
        return self._stands[key]

    def _matte(self, matte_id: str, user: str | None) -> Placement | None:
        params = self._shot.mattes[matte_id]
        kind = MATTES.get(params.kind)
        if cards := kind.cards(params):
            return self.build_of(cards[0])
        if sources := set(kind.sources(params)):
            shown = self.card_showing(sources, user)
            return HERE if shown is None else self._places[shown].total
        if not kind.references(params):
            return self.build_of(user)
        parts = {self.matte(ref.matte, ref.on, user) for ref in kind.references(params)}
        return parts.pop() if len(parts) == 1 else None


def frontmost(cards: Iterable[Card], sources: set[str]) -> Card | None:
    """Of cards, the backmost first, the frontmost whose picture is made of one of these sources; one that is off only where all are."""
    showing = [card for card in cards if sources & shown_by(card)]
    return next((card for card in reversed(showing) if card.enabled), showing[-1] if showing else None)


def shown_by(card: Card) -> set[str]:
    """The sources a card's own picture is made of; those inside a bundle are not its own."""
    return set() if card.picture is None else set(PICTURES.get(card.picture.kind).sources(card.picture))
