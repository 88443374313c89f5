"""The seat check of a card: it and what is behind it in its build are made, measured, and told."""

from collections.abc import Callable
from pathlib import Path

from umbrax.core.document.cards import Card
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError, Where
from umbrax.core.measuring.seat import Answer, Seated, Side, seat_check
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner

from .card_facts import card_of
from .engine import Engine

ELEMENTS = ("rebuild", "pass", "plate", "bundle")


def seat_of(engine: Engine, shot: Shot, roots: list[Path], frame: int, card_id: str, watch: Callable[[], None]) -> list[Answer]:
    """What the seat check tells of an element card on a frame, as it is before its join; its treatments are in it."""
    card = card_of(shot, card_id)
    here = Where(card=card_id, frame=frame)
    if not is_seated(card):
        message = f"card {card.shown_name!r} is nothing that was rendered or filmed and lies over what is behind it; choose a card that is"
        raise UmbraxError("no-element", message, where=here)
    if not card.enabled:
        raise UmbraxError("card-off", f"card {card.shown_name!r} is off; switch it on", where=here)
    planner, window = ShotPlanner(shot, frame, engine.reader(shot, roots), plans=engine.plans), shot.format.display
    own, behind = (Side(evaluate(step, window, engine.cache, watch=watch).pixels) for step in (planner.card(card_id), planner.behind(card_id)))
    try:
        return seat_check(Seated(own, behind, frozenset(one.kind for one in card.treatments if one.enabled)))
    except UmbraxError as error:
        raise error.at(here) from None


def is_seated(card: Card) -> bool:
    """Whether a card is an element that could sit in what is behind it: designed pictures, text and shadows are what they are."""
    return card.picture is not None and card.join == "over" and card.picture.kind in ELEMENTS
