"""Gathering several objects at once: those a stroke goes over, and those that lie in a box."""

from collections.abc import Iterable

import numpy as np

from ..document.shot import Shot
from ..errors import UmbraxError
from ..picture import Window
from ..plan.placement import Placement
from ..plan.reader import PassReader
from .hits import LEAST, Shown, in_order, shown, touch

Gathered = tuple[str, str, list[str]]
INSIDE = 0.5  # of an object must lie in a box


def gathered(shot: Shot, reader: PassReader, frame: int, points: Iterable[tuple[int, int]], radius: int = 0) -> Gathered | None:
    """The source and ID layer that the first point with something shows, and each thing of it that the points touch, in their order.

    The layer is that of the objects, or where a source has none its first.
    """
    place: tuple[str, str] | None = None
    names: list[str] = []
    for x, y in points:
        found = touch(shot, reader, frame, x, y, radius)
        if found is None or not found.hits or (place and place[0] != found.source):
            continue
        layer = in_order(reader.describe(found.source, found.time))[0].name
        hit = next((one for one in found.hits if one.layer == layer), None)
        if hit is not None:
            place = (found.source, layer)
            if hit.shown_name not in names:
                names.append(hit.shown_name)
    return None if place is None else (*place, names)


def boxed(shot: Shot, reader: PassReader, frame: int, box: Window) -> Gathered | None:
    """The things of which at least half of what is seen lies in a box, largest first, of the frontmost source with any."""
    seen: dict[str, Shown] = {}
    for one in shown(shot, frame):
        seen.setdefault(one.source, one)
    for source, one in seen.items():
        try:
            info = reader.describe(source, one.time)
        except UmbraxError:
            continue
        if not info.ids:
            continue
        layer = in_order(info)[0]
        ids, coverage = reader.ranks(source, one.time, layer.name, layer.window)
        within = areas(*_inside(ids, coverage, layer.window, box, one.stands))
        if not within:
            continue
        whole = areas(ids, coverage)
        chosen = [value for value in within if within[value] >= INSIDE * whole[value] and whole[value] > LEAST]
        names = {value: name for name, value in (layer.names or {}).items()}
        if chosen:
            return source, layer.name, [names.get(value, f"#{value:08x}") for value in sorted(chosen, key=lambda one: -within[one])]
    return None


def _inside(ids: np.ndarray, coverage: np.ndarray, window: Window, box: Window, stands: Placement) -> tuple[np.ndarray, np.ndarray]:
    """What of a layer stands in a box of the frame, `[rank, ...]`."""
    if stands.still:
        rows, columns = box.intersect(window).slices_in(window)
        return ids[:, rows, columns], coverage[:, rows, columns]
    y, x = np.mgrid[window.y0 : window.y1, window.x0 : window.x1] + 0.5
    across, down = stands.at(x, y)
    there = (across >= box.x0) & (across < box.x1) & (down >= box.y0) & (down < box.y1)
    return ids[:, there], coverage[:, there]


def areas(ids: np.ndarray, coverage: np.ndarray) -> dict[int, float]:
    """How many pixels each ID covers, but ID 0."""
    there = (coverage > 0) & (ids != 0)
    values, places = np.unique(ids[there], return_inverse=True)
    sums = np.bincount(places.ravel(), coverage[there], minlength=len(values))
    return {int(value): float(total) for value, total in zip(values, sums, strict=True)}
