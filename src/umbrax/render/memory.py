"""What this process holds in memory, and keeping that within a budget.

Most of it is the cache of pictures, which knows its size. Beside it lies what is being computed, and what the C library keeps of
memory that was given back to it: pieces of some megabytes, spread out, grow to gigabytes. They are handed back to the system.
"""

import ctypes
import gc
import itertools
import threading
import time
from collections.abc import Callable
from pathlib import Path

import structlog

from umbrax.core.plan.cache import PictureCache

EVERY = 1.0  # seconds
TIDY = 15  # looks: what is being computed takes idle memory again at once, and pays a quarter of its time for it
SLACK = 768 << 20  # bytes beside the cache that are left alone
LEAST_CACHE = 0.25  # of its limit
STATUS = Path("/proc/self/status")


def anonymous_bytes() -> int:
    """What this process holds that no file backs (Linux, proc_pid_status(5): RssAnon)."""
    line = next(line for line in STATUS.read_text().splitlines() if line.startswith("RssAnon"))
    return int(line.split()[1]) << 10


def give_back() -> None:
    """Hand idle memory back to the system (malloc_trim(3) of the GNU C library; others do it by themselves)."""
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
    if trim is not None:
        trim(0)


def keep_within(budget: int, caches: tuple[PictureCache, ...], held: int, tidy: bool = True) -> bool:
    """Bring what is held nearer to a budget; True where there was something to do. With `tidy` much idle memory goes back also within it."""
    cached = sum(cache.size for cache in caches)
    if held <= budget and not (tidy and held - cached > SLACK):
        return False
    give_back()
    over = anonymous_bytes() - budget
    if over > 0:
        main = caches[0]
        main.shrink_to(max(int(main.limit * LEAST_CACHE), main.size - over))
        give_back()
    return True


def keep_memory_within(budget: Callable[[], int], caches: tuple[PictureCache, ...]) -> None:
    """Look once a second, as long as the process lives, what it may hold now.

    What is there by now stays: Python's collector need not look at it again, which holds all threads for a tenth of a second each time.
    """
    gc.collect()
    gc.freeze()

    def look() -> None:
        for turn in itertools.count():
            time.sleep(EVERY)
            try:
                keep_within(budget(), caches, anonymous_bytes(), tidy=turn % TIDY == 0)
            except OSError as error:
                structlog.get_logger().warning("cannot tell how much memory is held", why=str(error))
                return

    threading.Thread(target=look, name="memory", daemon=True).start()
