"""One gate in front of the kernels: one or two computations at a time, the most urgent first, overtaken ones dropped."""

import heapq
import itertools
import threading
from collections.abc import Iterator
from contextlib import contextmanager

from umbrax.core.errors import Cancelled

ORDER: dict[str, int] = {"look": 0, "refine": 1, "thumbnail": 2, "prefetch": 3}


class Ticket:
    """A request's place: `watch` raises Cancelled once a newer request of the same viewer has come."""

    def __init__(self, gate: "Gate", viewer: str, sequence: int):
        self.gate, self.viewer, self.sequence = gate, viewer, sequence

    def watch(self) -> None:
        if self.gate.newest.get(self.viewer, self.sequence) > self.sequence:
            raise Cancelled


class Gate:
    """Lets `slots` computations run; thumbnails and prefetch never take the last slot while a look may come."""

    def __init__(self, slots: int = 2):
        self.slots = slots
        self.newest: dict[str, int] = {}
        self._running = 0
        self._waiting: list[tuple[int, int]] = []
        self._count = itertools.count()
        self._condition = threading.Condition()

    @contextmanager
    def enter(self, viewer: str, sequence: int, priority: str) -> Iterator[Ticket]:
        """Wait for a slot. Raises Cancelled where the request was overtaken before it began."""
        ticket = Ticket(self, viewer, sequence)
        rank = ORDER.get(priority, 2)
        with self._condition:
            if viewer:
                self.newest[viewer] = max(sequence, self.newest.get(viewer, 0))
                self._condition.notify_all()
                if len(self.newest) > 500:
                    self.newest.pop(next(iter(self.newest)))
            place = (rank, next(self._count))
            heapq.heappush(self._waiting, place)
            try:
                while not (self._waiting[0] == place and self._running < (self.slots if rank < 2 else max(1, self.slots - 1))):
                    self._condition.wait(1.0)
                    ticket.watch()
                ticket.watch()
                self._running += 1
            finally:
                self._waiting.remove(place)
                heapq.heapify(self._waiting)
                self._condition.notify_all()
        try:
            yield ticket
        finally:
            with self._condition:
                self._running -= 1
                self._condition.notify_all()
