"""Cards that show their sources at another time than the shot's: whatever is asked of one of them is read then, its mattes included."""

from collections.abc import Callable, Container, Mapping
from contextlib import AbstractContextManager
from functools import wraps
from typing import Concatenate, ParamSpec, Protocol, TypeVar

from ..document.cards import Card
from ..document.references import card_mattes, card_sources, matte_sources
from ..document.shot import Shot
from ..pictures import PICTURES
from .places import frontmost, shown_by

Asked = ParamSpec("Asked")
Planned = TypeVar("Planned")


def times_of(card: Card, frame: int, first: int) -> dict[str, int]:
    """At which frames of a shot that begins at `first` a card reads its picture's sources at a frame, where that is another one."""
    kind = None if card.picture is None else PICTURES.get(card.picture.kind)
    if kind is None or kind.read_at is None or (at := kind.read_at(card.picture, frame, first)) == frame:
        return {}
    return dict.fromkeys(kind.sources(card.picture), at)


def shown_at(shot: Shot, source: str, frame: int) -> int:
    """At which frame a source is read that is looked at by itself: as the frontmost card reads it that shows it."""
    front = frontmost(shot.cards(), {source})
    return frame if front is None else times_of(front, frame, shot.format.first).get(source, frame)


def missing_in_shot(shot: Shot, source: str, present: Container[int]) -> list[int]:
    """The frames of a shot at which a source is read that has no such frame: as its cards show it, and at the shot's own for whatever else
    is made of it."""
    first, frames = shot.format.first, range(shot.format.first, shot.format.last + 1)
    timed = [card for card in shot.cards() if source in shown_by(card) and _has_time(card)]
    if not timed or any(_takes_from(shot, card, source) for card in shot.cards() if card not in timed):
        lacking = {frame for frame in frames if frame not in present}
    else:
        lacking = set()
    for card in timed:
        lacking.update(frame for frame in frames if times_of(card, frame, first).get(source, frame) not in present)
    return sorted(lacking)


def _has_time(card: Card) -> bool:
    return card.picture is not None and PICTURES.get(card.picture.kind).read_at is not None


def _takes_from(shot: Shot, card: Card, source: str) -> bool:
    """Whether a card takes something from a source at the frame of the shot."""
    if source in shown_by(card):
        return True
    pulled = matte_sources(shot.mattes, (matte for matte, _ in card_mattes(card)))
    return source in pulled or any(name == source for name, treatment in card_sources(card) if treatment is not None)


class Reads(Protocol):
    """What is asked of a planner."""

    times: Mapping[str, int]

    def reading_at(self, times: Mapping[str, int]) -> AbstractContextManager[None]: ...


class Timed(Protocol):
    """One with times of its own."""

    times: Mapping[str, int]

    @property
    def planner(self) -> Reads: ...


Of = TypeVar("Of", bound=Timed)


def in_its_time(method: Callable[Concatenate[Of, Asked], Planned]) -> Callable[Concatenate[Of, Asked], Planned]:
    """A method within which sources are read at the times of the one that is asked, whoever asks."""

    @wraps(method)
    def timed(of: Of, *asked: Asked.args, **more: Asked.kwargs) -> Planned:
        if of.times == of.planner.times:
            return method(of, *asked, **more)
        with of.planner.reading_at(of.times):
            return method(of, *asked, **more)

    return timed  # type: ignore[return-value]  # of `wraps`, which says less than it gives
