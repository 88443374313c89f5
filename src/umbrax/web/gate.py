"""One gate in front of the kernels: one or two computations at a time, the most urgent first, overtaken ones dropped.

Nobody waits for long and few wait at once: who cannot be served is told so with a 503 and asks again, so that there are always
threads left for answers that need no computing.
"""

import itertools
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from flask import has_request_context, request

from umbrax.core.errors import Cancelled, UmbraxError
from umbrax.render.threads import sharing

ORDER: dict[str, int] = {"look": 0, "refine": 1, "thumbnail": 2, "prefetch": 3}
MOST_WAITING = (20, 12, 24, 8)  # by rank
MOST = sum(MOST_WAITING)
PATIENCE = 4.0  # seconds of waiting, all turns of a request together
KEPT_PLACES = 500  # of viewers
AGED = 2.0  # seconds after which one that waits goes before looks: where these never end, small pictures come all the same


def busy() -> UmbraxError:
    return UmbraxError("busy", "the server has more to compute than it can; ask again in a moment", status=503, again=True)


@dataclass(eq=False)
class Ticket:
    """A request's place, the same for all its turns. `watch` raises Cancelled once nobody waits for the answer any more."""

    gate: "Gate"
    viewer: str
    sequence: int
    rank: int
    number: int
    gone: Callable[[], bool]
    waited: float = 0.0
    since: float = 0.0  # when it began to wait for this turn
    beside: int = 0  # others that were computed, or about to be, when its turn came

    def watch(self) -> None:
        if self.gate.newest.get(self.viewer, self.sequence) > self.sequence or self.gone():
            raise Cancelled

    def order(self, now: float) -> tuple[int, int]:
        return (-1 if self.waited + now - self.since > AGED else self.rank, self.number)


class Gate:
    """Lets `slots` computations run; thumbnails and prefetch never take the last slot while a look may come."""

    def __init__(self, slots: int = 2):
        self.slots = slots
        self.newest: dict[str, int] = {}
        self._running = 0
        self._waiting: list[Ticket] = []
        self._count = itertools.count()
        self._places: dict[tuple[str, int], int] = {}
        self._condition = threading.Condition()

    @contextmanager
    def enter(self, viewer: str, sequence: int, priority: str) -> Iterator[Ticket]:
        """Wait for a slot. Raises Cancelled where the request was overtaken before it began, 503 where too many wait."""
        ticket = self.ticket(viewer, sequence, priority)
        with self.turn(ticket):
            yield ticket

    def ticket(self, viewer: str, sequence: int, priority: str) -> Ticket:
        """A place for a request that takes several turns; refused with 503 where too many of its kind wait."""
        rank = ORDER.get(priority, 2)
        with self._condition:
            if viewer:
                self.newest[viewer] = max(sequence, self.newest.get(viewer, 0))
                self._condition.notify_all()
                if len(self.newest) > 500:
                    self.newest.pop(next(iter(self.newest)))
            if sum(one.rank == rank for one in self._waiting) >= MOST_WAITING[rank]:
                raise busy()
            number = self._places.pop((viewer, rank), None)
            return Ticket(self, viewer, sequence, rank, next(self._count) if number is None else number, _disconnected())

    @contextmanager
    def turn(self, ticket: Ticket) -> Iterator[None]:
        """Wait for a slot and hold it. Raises Cancelled where the request was overtaken, 503 where it waited too long."""
        with self._condition:
            ticket.since = time.monotonic()
            self._waiting.append(ticket)
            try:
                while not self._may_run(ticket):
                    left = PATIENCE - ticket.waited - (time.monotonic() - ticket.since)
                    if left <= 0:
                        self._keep_place(ticket)
                        raise busy()
                    self._condition.wait(min(left, 0.5))
                    ticket.watch()
                ticket.watch()
                ticket.beside = min(self._running + len(self._waiting) - 1, self.slots - 1)
                self._running += 1
            finally:
                self._waiting.remove(ticket)
                ticket.waited += time.monotonic() - ticket.since
                self._condition.notify_all()
        try:
            with sharing(ticket.beside):
                yield
        finally:
            with self._condition:
                self._running -= 1
                self._condition.notify_all()

    def _keep_place(self, ticket: Ticket) -> None:
        """Who waited in vain and asks again goes before those who came meanwhile: else some would wait for ever."""
        if ticket.viewer:
            self._places[ticket.viewer, ticket.rank] = ticket.number
            if len(self._places) > KEPT_PLACES:
                self._places.pop(next(iter(self._places)))

    def _may_run(self, ticket: Ticket) -> bool:
        now = time.monotonic()
        first = min(self._waiting, key=lambda one: one.order(now))
        return first is ticket and self._running < (self.slots if ticket.rank < 2 else max(1, self.slots - 1))


def _disconnected() -> Callable[[], bool]:
    """What tells whether who asked has gone away."""
    found = request.environ.get("waitress.client_disconnected") if has_request_context() else None
    return found or (lambda: False)
