"""Cards that show their sources at another time than the shot's: whatever is asked of one of them is read then, its mattes included."""

from collections.abc import Callable, Mapping
from contextlib import AbstractContextManager
from functools import wraps
from typing import Concatenate, ParamSpec, Protocol, TypeVar

from ..document.cards import Card
from ..pictures import PICTURES

Asked = ParamSpec("Asked")
Planned = TypeVar("Planned")


def times_of(card: Card, frame: int, first: int) -> dict[str, int]:
    """At which frames of a shot that begins at `first` a card reads its picture's sources at a frame, where that is another one."""
    if card.picture is None:
        return {}
    kind = PICTURES.get(card.picture.kind)
    at = kind.read_at(card.picture, frame, first)
    return {} if at == frame else dict.fromkeys(kind.sources(card.picture), at)


class Reads(Protocol):
    """What is asked of a planner."""

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
        with of.planner.reading_at(of.times):
            return method(of, *asked, **more)

    return timed  # type: ignore[return-value]  # of `wraps`, which says less than it gives
