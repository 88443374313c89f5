"""Rows of light that spreads, through the engine: what the emission pass of the station feeds is made, spread and joined each time."""

from collections.abc import Callable
from typing import Any

from .assembling_rows import COPY, SKY, STATION, changing, copied, shot_with
from .row import Row, Work

KINDS: dict[str, dict[str, Any]] = {
    "bloom": {"size": 40.0},
    "spikes": {"length": 120.0, "arms": 6},
    "reflections": {"size": 40.0, "count": 5},
    "halo": {"size": 40.0},
}
HIGH = {"bloom": 3.0}


def _lit(kind: str) -> Callable[[], tuple[Work, Work]]:
    def shot(hair: float) -> Any:
        treatment = {"id": "t", "kind": kind, **KINDS[kind], "feed": {"pass": "emission"}, "threshold": 1.0 * hair, "limit": 1e4}
        return shot_with(SKY, {**STATION, "treatments": [treatment]})

    return lambda: (changing(shot), copied())


LIGHT_ROWS = tuple(Row(f"{kind} of the station's lamps, 1920x1080", COPY, HIGH.get(kind, 6.0), _lit(kind)) for kind in KINDS)
