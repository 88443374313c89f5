"""How often somebody may try to sign in: after a few wrong passwords each further one is waited for, twice as long each time."""

import threading
import time
from collections import OrderedDict
from collections.abc import Callable

from umbrax.core.errors import UmbraxError

FREE = 5  # wrong ones that cost nothing
LONGEST = 300.0  # seconds
FORGOTTEN = 3600.0
KEPT = 10_000


class Attempts:
    """Counts wrong passwords, by name and by where they come from. Nobody is shut out for good: what was wrong is forgotten after an
    hour, and whoever is signed in stays so."""

    def __init__(self, clock: Callable[[], float] = time.monotonic):
        self._clock = clock
        self._wrong: OrderedDict[str, tuple[int, float]] = OrderedDict()
        self._lock = threading.Lock()

    def check(self, *keys: str) -> None:
        """Refuse, with 429 and for how long, where one of these has been wrong too often."""
        now = self._clock()
        with self._lock:
            left = max(self._until(key) - now for key in keys)
        if left > 0:
            raise _too_often(left)

    def wrong(self, *keys: str) -> None:
        """Count a wrong password before it is looked at: those that come at the same time count too."""
        now = self._clock()
        with self._lock:
            for key in keys:
                count, at = self._wrong.pop(key, (0, now))
                self._wrong[key] = ((count if now - at < FORGOTTEN else 0) + 1, now)
            while len(self._wrong) > KEPT:
                self._wrong.popitem(last=False)

    def right(self, *keys: str) -> None:
        with self._lock:
            for key in keys:
                self._wrong.pop(key, None)

    def _until(self, key: str) -> float:
        count, at = self._wrong.get(key, (0, 0.0))
        return at + min(2.0 ** (count - FREE), LONGEST) if count >= FREE and self._clock() - at < FORGOTTEN else 0.0


def _too_often(seconds: float) -> UmbraxError:
    whole = max(1, round(seconds + 0.5))
    error = UmbraxError("too-often", f"too many wrong passwords; try again in {whole} second{'s' * (whole > 1)}", detail={"seconds": whole})
    error.status = 429
    return error
