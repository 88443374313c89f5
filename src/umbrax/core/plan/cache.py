"""A bounded cache of computed pictures that keeps what is expensive for its size and was wanted lately."""

import math
import threading
from dataclasses import dataclass, field

from ..picture import Picture, Window


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
    seconds: float
    used: int


class PictureCache:
    """Pictures by content key, up to a number of bytes; safe to use from many threads.

    A picture answers for every window inside its own. The entry with the least seconds a byte and the longest rest
    goes first: its worth halves with every 256 uses of the cache since it was last wanted.
    """

    def __init__(self, limit_bytes: int):
        self.limit = limit_bytes
        self.size = 0
        self.counters = Counters()
        self._entries: dict[str, _Entry] = {}
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
            self.counters.hits += 1
            return entry.picture

    def put(self, key: str, picture: Picture, seconds: float = 0.0) -> None:
        """Keep a picture; one that is larger than the whole cache is not kept."""
        size = picture.pixels.nbytes
        if size > self.limit:
            return
        with self._lock:
            old = self._entries.pop(key, None)
            if old is not None:
                self.size -= old.picture.pixels.nbytes
            self._entries[key] = _Entry(picture, seconds, self._clock)
            self.size += size
            while self.size > self.limit:
                self._evict(key)

    def _evict(self, newest: str) -> None:
        def worth(key: str) -> float:
            entry = self._entries[key]
            rest = self._clock - entry.used
            return (entry.seconds + 1e-4) / (entry.picture.pixels.nbytes + 1) * math.pow(2.0, -rest / 256)

        victim = min((key for key in self._entries if key != newest), key=worth)
        self.size -= self._entries.pop(victim).picture.pixels.nbytes
        self.counters.evicted += 1

    def clear(self) -> None:
        with self._lock:
            self._entries.clear()
            self.size = 0

    def count(self, what: str) -> None:
        with self._lock:
            self.counters.count(what)
