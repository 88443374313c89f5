"""A bounded cache of computed pictures that keeps what is expensive for its size and was wanted lately."""

import heapq
import math
import threading
from dataclasses import dataclass, field

from ..picture import Picture, Window

HALVING = 256  # uses of the cache after which a picture that rests is worth half
LARGEST_AREA = 1 << 28  # pixels of a picture, unless told: 4 GB of RGBA
GONE = 4096  # pictures that went and of which it is still known how often they were used
OFTEN = 16  # uses of a picture that count: what a drag needs again and again outlives what each of its steps leaves behind


@dataclass
class Counters:
    """What happened since the start; `computed` counts steps by what they do."""

    hits: int = 0
    misses: int = 0
    evicted: int = 0
    computed: dict[str, int] = field(default_factory=dict)

    def count(self, what: str) -> None:
        self.computed[what] = self.computed.get(what, 0) + 1


@dataclass
class _Entry:
    picture: Picture
    cost: float  # log2 of seconds a byte
    used: int
    times: int

    @property
    def worth(self) -> float:
        """log2 of what it is worth, but for what all entries lose alike as time goes on: it only changes when it is used."""
        return self.cost + math.log2(min(self.times, OFTEN)) + self.used / HALVING


class PictureCache:
    """Pictures by content key, up to a number of bytes; safe to use from many threads.

    A picture answers for every window inside its own. The entry with the least seconds a byte, the fewest uses and the longest rest
    goes first: its worth halves with every 256 uses of the cache since it was last wanted (greedy dual size frequency, Cherkasova,
    Improving WWW Proxies Performance with Greedy-Dual-Size-Frequency Caching Policy, 1998, with halving in place of its clock).

    Uses are remembered of what went (as by E. O'Neil, P. O'Neil and G. Weikum, The LRU-K page replacement algorithm, 1993): what is
    cheap and needed at each step of a drag would otherwise go at each in favour of what the step before made, which nobody needs again.
    """

    def __init__(self, limit_bytes: int, largest_area: int = LARGEST_AREA):
        self.limit = limit_bytes
        self.largest_area = largest_area  # pixels of a single picture that there is memory to make
        self.size = 0
        self.counters = Counters()
        self._entries: dict[str, _Entry] = {}
        self._gone: dict[str, int] = {}  # how often what went was used, what went first at the front
        self._order: list[tuple[float, str]] = []  # a heap; an entry that was used since is worth more than it says here
        self._clock = 0
        self._lock = threading.Lock()

    def __len__(self) -> int:
        return len(self._entries)

    def get(self, key: str, window: Window) -> Picture | None:
        """The picture under this key if it covers the window."""
        with self._lock:
            self._clock += 1
            entry = self._entries.get(key)
            if entry is None or not entry.picture.window.contains(window):
                self.counters.misses += 1
                return None
            entry.used = self._clock
            entry.times += 1
            self.counters.hits += 1
            return entry.picture

    def put(self, key: str, picture: Picture, seconds: float = 0.0) -> None:
        """Keep a picture; one that is larger than the whole cache is not kept."""
        size = picture.nbytes
        if size > self.limit:
            return
        with self._lock:
            old = self._entries.pop(key, None)
            if old is not None:
                self.size -= old.picture.nbytes
            times = 1 + (old.times if old is not None else self._gone.pop(key, 0))
            entry = self._entries[key] = _Entry(picture, math.log2((seconds + 1e-4) / (size + 1)), self._clock, times)
            self.size += size
            if self.size > self.limit:
                self._evict(key, self.limit)
            heapq.heappush(self._order, (entry.worth, key))
            if len(self._order) > 2 * len(self._entries) + 64:
                self._order = [(one.worth, name) for name, one in self._entries.items()]
                heapq.heapify(self._order)

    def _evict(self, newest: str, limit: int) -> None:
        """Let the least worth go until there is room; `newest` is not in the heap yet."""
        while self.size > limit and self._order:
            worth, key = heapq.heappop(self._order)
            entry = self._entries.get(key)
            if entry is None or key == newest:
                continue
            if entry.worth > worth:
                heapq.heappush(self._order, (entry.worth, key))
                continue
            del self._entries[key]
            self.size -= entry.picture.nbytes
            self.counters.evicted += 1
            self._gone[key] = entry.times
            if len(self._gone) > GONE:
                del self._gone[next(iter(self._gone))]

    def shrink_to(self, size: int) -> None:
        """Let the least worth go until no more than this is kept; what comes later may fill the cache again."""
        with self._lock:
            self._evict("", size)

    def clear(self) -> None:
        with self._lock:
            self._entries.clear()
            self._gone.clear()
            self._order.clear()
            self.size = 0

    def count(self, what: str) -> None:
        with self._lock:
            self.counters.count(what)
