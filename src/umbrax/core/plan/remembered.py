"""Plans of single cards, kept from one plan of a shot to the next: an edit plans anew what it changed."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from pydantic import BaseModel

from ..document.cards import Card
from ..document.references import card_mattes, card_sources, with_parts
from ..document.timing import at_frame
from ..errors import UmbraxError
from ..mattes import MATTES
from ..treatments import TREATMENTS
from ..treatments.base import CardFeed, SpreadParams, TreatmentParams
from .layers import Made
from .mattes import MattePlanner
from .times import times_of

MOST = 4000  # cards at a scale
FINDINGS = 3  # of each part of a document

Part = TypeVar("Part", bound=BaseModel)
Found = TypeVar("Found")


class KnownParts:
    """What was found out about parts of documents, by the objects that they are: what an edit leaves alone is the same object after it.

    The longest known go first. Safe to use from many threads.
    """

    def __init__(self, most: int):
        self._most = most
        self._known: OrderedDict[tuple[Any, int], tuple[BaseModel, Any]] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, part: Part, find: Callable[[Part], Found]) -> Found:
        known = self._known.get((find, id(part)))
        if known is None:
            known = (part, find(part))  # the part as well: while it is kept, no other object has its id
            with self._lock:
                self._known[find, id(part)] = known
                while len(self._known) > self._most:
                    self._known.popitem(last=False)
        found: Found = known[1]
        return found


class CardPlans:
    """What cards were planned to, by all that it depends on; the longest unused go first. Safe to use from many threads."""

    def __init__(self, most: int = MOST):
        self._most = most
        self._kept: OrderedDict[Any, Made] = OrderedDict()
        self._lock = threading.Lock()
        self.parts = KnownParts(FINDINGS * most)

    def at_frame(self, part: Part, frame: int) -> Part:
        """A part of a document with its plain numbers at a frame; one in which nothing moves is what it is."""
        return part if self.parts.of(part, _told).still else at_frame(part, frame)

    def __len__(self) -> int:
        return len(self._kept)

    def get(self, key: Any) -> Made | None:
        with self._lock:
            made = self._kept.get(key)
            if made is not None:
                self._kept.move_to_end(key)
            return made

    def put(self, key: Any, made: Made) -> None:
        with self._lock:
            self._kept[key] = made
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)


@dataclass(frozen=True)
class _Uses:
    """What a card is made of, with all that lies inside it."""

    mattes: tuple[str, ...]
    sources: frozenset[str]
    looks_around: bool  # it depends on other cards of its build


def _uses(card: Card) -> _Uses:
    cards = list(card.with_inside())
    mattes = dict.fromkeys(matte for one in cards for matte, _ in card_mattes(one))
    sources = frozenset(source for one in cards for source, _ in card_sources(one))
    return _Uses(tuple(mattes), sources, card.treat or any(map(_looks_around, card.treatments)))


def _looks_around(treatment: TreatmentParams) -> bool:
    lit = isinstance(treatment, SpreadParams) and (treatment.hidden or isinstance(treatment.feed, CardFeed))
    return lit or TREATMENTS.get(treatment.kind).stage == "surround"


@dataclass(frozen=True)
class _Told:
    """A part of a document as text, and whether nothing in it has key frames or flickers."""

    text: str
    still: bool


def _told(part: BaseModel) -> _Told:
    text = part.model_dump_json()
    # a name may say so as well
    moves = ('"keys"' in text or '"flicker"' in text) and at_frame(part, 0) is not part
    return _Told(text, not moves)


def _identity(planner: MattePlanner, source: str, frame: int) -> str:
    """What a source holds at a frame; whoever needs it there says so where there is nothing."""
    try:
        return planner.source_at(source, frame).identity
    except UmbraxError as error:
        return str(error)


def depends_on(plans: CardPlans, planner: MattePlanner, card: Card, scale: int) -> Any:
    """All that an element card's plan depends on; None where that is more than itself, its mattes and its sources.

    `card` has the plain numbers of the frame.
    """
    shot, parts = planner.shot, plans.parts
    uses = parts.of(card, _uses)
    if uses.looks_around:
        return None
    mattes: dict[str, str] = {}
    sources = set(uses.sources)
    for name in with_parts(shot.mattes, uses.mattes):
        params = shot.mattes[name]
        kind = MATTES.get(params.kind)
        if kind.cards(params) or params.bake is not None:
            return None
        mattes[name] = parts.of(plans.at_frame(params, planner.frame), _told).text
        sources.update(kind.sources(params))
    reads = {(name, planner.frame) for name in sources}
    for one in card.with_inside():
        reads.update(times_of(one, planner.frame, planner.first).items())
    read = tuple((name, at, _identity(planner, name, at), parts.of(shot.sources[name], _told).text) for name, at in sorted(reads))
    places = None if planner.places.still else planner.places.told
    return (
        parts.of(card, _told).text, tuple(sorted(mattes.items())), read, places, planner.display, planner.luma, planner.camera,
        planner.frame, scale, planner.feed_scale,
    )  # fmt: skip
