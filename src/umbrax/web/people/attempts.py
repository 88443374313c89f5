"""How often somebody may try to sign in: after a few wrong passwords each further one is waited for, twice as long each time."""

import threading
import time
from collections import OrderedDict
from collections.abc import Callable

from umbrax.core.errors import UmbraxError

FREE = 5  # wrong ones of a name that cost nothing
FREE_OF_PLACE = 20  # of everybody who comes from one address together
LONGEST = 300.0  # seconds
FORGOTTEN = 3600.0
KEPT = 10_000


class Attempts:
    """Counts wrong passwords of one key after the other, a name or an address. Nobody is shut out for good: what was wrong is forgotten
    after an hour, and whoever is signed in stays so."""

    def __init__(self, free: int = FREE, clock: Callable[[], float] = time.monotonic):
        self.free = free
        self._clock = clock
        self._wrong: OrderedDict[str, tuple[int, float]] = OrderedDict()
        self._lock = threading.Lock()

    def begin(self, key: str) -> None:
        """Refuse, with 429 and for how long, where this has been wrong too often; else count one more as wrong, before it is looked at:
        those that come at the same time count too."""
        now = self._clock()
        with self._lock:
            count, at = self._wrong.pop(key, (0, now))
            count = count if now - at < FORGOTTEN else 0
            left = at + min(2.0 ** (count - self.free), LONGEST) - now if count >= self.free else 0.0
            self._wrong[key] = (count, at) if left > 0 else (count + 1, now)
            while len(self._wrong) > KEPT:
                self._wrong.popitem(last=False)
        if left > 0:
            raise _too_often(left)

    def right(self, key: str) -> None:
        """What was counted was right after all."""
        with self._lock:
            self._wrong.pop(key, None)


def _too_often(seconds: float) -> UmbraxError:
    whole = max(1, round(seconds + 0.5))
    message = f"too many wrong passwords; try again in {whole} second{'s' * (whole > 1)}"
    return UmbraxError("too-often", message, detail={"seconds": whole}, status=429)
