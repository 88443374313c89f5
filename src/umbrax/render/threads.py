"""How many processors the loops of one computation use."""

from collections.abc import Iterator
from contextlib import contextmanager

import numba


@contextmanager
def sharing(beside: int) -> Iterator[None]:
    """Within, this thread's loops use a share of the processors: `beside` others are computed at the same time. Two loops that each take
    all processors wait for one another at their ends."""
    before = numba.get_num_threads()
    numba.set_num_threads(max(1, before // (beside + 1)))
    try:
        yield
    finally:
        numba.set_num_threads(before)
