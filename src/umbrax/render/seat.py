"""What the seat check of a card measures: it, and what is behind it in its build."""

from collections.abc import Callable
from pathlib import Path

from umbrax.core.document.cards import Card
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError, Where
from umbrax.core.measuring.seat import Seated, Side
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner

from .card_facts import card_of
from .engine import Engine

ELEMENTS = ("rebuild", "pass", "plate", "bundle")


def seated(engine: Engine, shot: Shot, roots: list[Path], frame: int, card_id: str, watch: Callable[[], None]) -> Seated:
    """An element card on a frame as it is before its join, its treatments in it, and the picture so far behind it; at full size."""
    card, here = card_of(shot, card_id), Where(card=card_id, frame=frame)
    if not is_seated(card):
        message = f"card {card.shown_name!r} is nothing that was rendered or filmed and lies over what is behind it; choose a card that is"
        raise UmbraxError("no-element", message, where=here)
    if not card.enabled:
        raise UmbraxError("card-off", f"card {card.shown_name!r} is off; switch it on", where=here)
    planner, window = ShotPlanner(shot, frame, engine.reader(shot, roots), plans=engine.plans), shot.format.display
    own, behind = (
        Side(evaluate(step, window, engine.cache, watch=watch).pixels, planner.luma)
        for step in (planner.card(card_id), planner.behind(card_id))
    )
    return Seated(own, behind, frozenset(one.kind for one in card.treatments if one.enabled))


def is_seated(card: Card) -> bool:
    """Whether a card is an element that could sit in what is behind it: designed pictures, text and shadows are what they are."""
    return card.picture is not None and card.join == "over" and card.picture.kind in ELEMENTS
