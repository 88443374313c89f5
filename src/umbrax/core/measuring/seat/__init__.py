"""The seat check: whether an element sits in what is behind it, told in numbers that can be compared, with what would make them alike."""

from ...errors import UmbraxError
from . import blacks, fringe, grain, sharpness, surroundings
from .base import Answer, Question, Remedy, Seated, Side

__all__ = ["Answer", "Remedy", "Seated", "Side", "seat_check"]

QUESTIONS: tuple[Question, ...] = (blacks.blacks, grain.grain, sharpness.sharpness, fringe.fringe, surroundings.surroundings)
FEWEST = 400  # solid pixels


def seat_check(seated: Seated) -> list[Answer]:
    """All questions in their order; refused where there is no element, or nothing behind it that is seen."""
    if seated.own.solid.sum() < FEWEST:
        raise UmbraxError("nothing-here", "next to nothing of this card is seen on this frame; choose a frame that shows it")
    if (seated.behind.solid & (seated.own.alpha < 0.5)).sum() < FEWEST:
        raise UmbraxError("nothing-behind", "nothing behind this card is seen on this frame: there is nothing that it could sit in")
    return [question(seated) for question in QUESTIONS]
