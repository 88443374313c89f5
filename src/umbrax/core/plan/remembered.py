"""Plans of single cards, kept from one plan of a shot to the next: an edit plans anew what it changed."""

import threading
from collections import OrderedDict
from typing import Any

from pydantic import BaseModel

from ..document.cards import Card
from ..document.references import card_mattes, card_sources, with_parts
from ..document.timing import at_frame
from ..mattes import MATTES
from ..treatments import TREATMENTS
from ..treatments.base import CardFeed, SpreadParams, TreatmentParams
from .layers import Made
from .mattes import MattePlanner

MOST = 4000  # cards at a scale


class CardPlans:
    """What cards were planned to, by all that it depends on; the longest unused go first. Safe to use from many threads."""

    def __init__(self, most: int = MOST):
        self._most = most
        self._kept: OrderedDict[Any, Made] = OrderedDict()
        self._texts: OrderedDict[int, tuple[BaseModel, str]] = OrderedDict()
        self._lock = threading.Lock()

    def text(self, model: BaseModel) -> str:
        """What a part of a document says; parts that an edit leaves alone are the same objects after it."""
        with self._lock:
            kept = self._texts.get(id(model))
            if kept is None:
                kept = self._texts[id(model)] = (model, model.model_dump_json())
                while len(self._texts) > self._most:
                    self._texts.popitem(last=False)
            return kept[1]

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


def _looks_around(treatment: TreatmentParams) -> bool:
    """Whether a treatment depends on other cards of its build."""
    lit = isinstance(treatment, SpreadParams) and (treatment.hidden or isinstance(treatment.feed, CardFeed))
    return lit or TREATMENTS.get(treatment.kind).stage == "surround"


def depends_on(plans: CardPlans, planner: MattePlanner, card: Card, scale: int) -> Any:
    """All that an element card's plan depends on; None where that is more than itself, its mattes and its sources.

    `card` has the plain numbers of the frame.
    """
    shot = planner.shot
    cards = list(card.with_inside())
    if any(one.treat for one in cards[:1]) or any(_looks_around(one) for one in card.treatments):
        return None
    mattes: dict[str, str] = {}
    sources = {source for one in cards for source, _ in card_sources(one)}
    for name in with_parts(shot.mattes, (matte for one in cards for matte, _ in card_mattes(one))):
        params = shot.mattes[name]
        kind = MATTES.get(params.kind)
        if kind.cards(params) or params.bake is not None:
            return None
        mattes[name] = plans.text(at_frame(params, planner.frame))
        sources.update(kind.sources(params))
    read = tuple((name, planner.source(name).identity, plans.text(shot.sources[name])) for name in sorted(sources))
    places = None if planner.places.still else planner.places.told()
    return (
        plans.text(card), tuple(sorted(mattes.items())), read, places, planner.display, planner.camera, planner.frame, scale,
        planner.feed_scale,
    )  # fmt: skip
