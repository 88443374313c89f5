"""Which values of a data pass are worth looking at: the usual span, and how often each value occurs."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

NOTHING = 1e9  # depth from here on means that nothing is there
FEW = 0.05  # of the values at either end that the usual span leaves out
MOST = 200_000  # values looked at


@dataclass(frozen=True)
class Span:
    """`low` to `high` hold nearly all values, `least` and `most` all; `nothing` is the share that is no value at all."""

    low: float
    high: float
    least: float
    most: float
    nothing: float
    counts: tuple[int, ...] = ()


def is_nothing(values: NDArray[np.float32]) -> NDArray[np.bool_]:
    """Not a number, infinite, or as large as what depth passes write where nothing stands."""
    return np.asarray(~(np.abs(values) < NOTHING))


def usual_span(values: NDArray[np.float32], bins: int = 0) -> Span:
    """The span of `float32[...]`; one around 0 where values lie on both sides of it. `bins` counts values over least to most."""
    flat = values.reshape(-1)
    some = flat[:: max(1, flat.size // MOST)]
    there = some[~is_nothing(some)]
    if not there.size:
        return Span(0.0, 1.0, 0.0, 1.0, 1.0, (0,) * bins)
    least, most = float(there.min()), float(there.max())
    low, high = (float(v) for v in np.quantile(there, (FEW, 1 - FEW)))
    if low < 0 < high:
        high = max(high, -low)
        low = -high
    if high - low < 1e-6 * max(abs(high), 1e-6):  # nearly all alike: everything there is
        low, high = least, most if most > least else least + 1.0
    edges = (least, most) if most > least else (least, least + 1.0)
    counts = np.histogram(there, bins, edges)[0] if bins else ()
    return Span(low, high, least, most, 1 - there.size / some.size, tuple(int(count) for count in counts))
