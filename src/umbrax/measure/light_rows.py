"""Rows of light that spreads, through the engine: what the emission pass of the station feeds is spread and joined each time, by a hair
another size, as when that is dragged; and once fed anew as well, by a hair another threshold."""

from collections.abc import Callable
from typing import Any

from .assembling_rows import COPY, SKY, TREATMENT, changing, copied, on_station, shot_with
from .engine_rows import HD
from .lens_rows import HALF
from .row import Row, Work

KINDS: dict[str, tuple[dict[str, Any], str]] = {
    "bloom": ({"size": 40.0}, "size"),
    "spikes": ({"length": 120.0, "arms": 6}, "length"),
    "reflections": ({"size": 40.0, "count": 5}, "size"),
    "halo": ({"size": 40.0}, "size"),
}
HIGH = {"bloom": 3.0}
USUAL = 6.0  # copies


def _lit(kind: str, changes: str, size: tuple[int, int]) -> Callable[[], tuple[Work, Work]]:
    settings = {"threshold": 1.0, "limit": 1e4, **KINDS[kind][0]}
    shot = shot_with(SKY, on_station({"kind": kind, **settings, "feed": {"pass": "emission"}}), size=size)
    return lambda: (changing(shot, (*TREATMENT, changes), settings[changes], size), copied(size))


def _row(kind: str, size: tuple[int, int], changes: str) -> Row:
    name = f"{kind} of the station's lamps, {size[0]}x{size[1]}"
    return Row(name if changes == KINDS[kind][1] else f"{name}, fed anew", COPY, HIGH.get(kind, USUAL), _lit(kind, changes, size))


LIGHT_ROWS = (
    *(_row(kind, size, changes) for size in (HD, HALF) for kind, (_, changes) in KINDS.items()),
    *(_row(kind, HD, "threshold") for kind in KINDS),
)
