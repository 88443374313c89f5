"""What several ask of one card's plan, planned for the first of them only."""

from collections.abc import Callable
from functools import wraps
from typing import Any, Concatenate, ParamSpec, Protocol, TypeVar

Asked = ParamSpec("Asked")
Planned = TypeVar("Planned")


class FeedScale(Protocol):
    """What of a planner the plan of a card depends on besides the card and what is asked."""

    @property
    def feed_scale(self) -> int: ...


class Keeps(Protocol):
    """One whose plans are kept, by what was asked for."""

    planned: dict[Any, Any]

    @property
    def planner(self) -> FeedScale: ...


Of = TypeVar("Of", bound=Keeps)


def planned_once(method: Callable[Concatenate[Of, Asked], Planned]) -> Callable[Concatenate[Of, Asked], Planned]:
    """A method that plans what it is asked for once for each scale that light is fed at; what it raises is not kept."""

    @wraps(method)
    def kept(of: Of, *asked: Asked.args, **more: Asked.kwargs) -> Planned:
        key = (method.__name__, of.planner.feed_scale, asked, *more.items())
        if key not in of.planned:
            of.planned[key] = method(of, *asked, **more)
        found: Planned = of.planned[key]
        return found

    return kept  # type: ignore[return-value]  # of `wraps`, which says less than it gives
