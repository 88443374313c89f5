"""Gathering several objects at once: those a stroke goes over, and those that lie in a box."""

from collections.abc import Iterable

import numpy as np

from ..errors import UmbraxError
from ..picture import Window
from ..reading import PassReader
from ..shot import Shot
from .hits import LEAST, shown_sources, touch

Gathered = tuple[str, str, list[str]]
INSIDE = 0.5  # of an object must lie in a box


def gathered(shot: Shot, reader: PassReader, frame: int, points: Iterable[tuple[int, int]], radius: int = 0) -> Gathered | None:
    """The source and layer that the first point with an object shows, and each object of it that the points touch, in their order."""
    place: tuple[str, str] | None = None
    names: list[str] = []
    for x, y in points:
        found = touch(shot, reader, frame, x, y, radius)
        if found is None or found.object is None:
            continue
        place = place or (found.source, found.object.layer)
        if place == (found.source, found.object.layer) and found.object.shown_name not in names:
            names.append(found.object.shown_name)
    return None if place is None else (*place, names)


def boxed(shot: Shot, reader: PassReader, frame: int, box: Window) -> Gathered | None:
    """The objects of which at least half of what is seen lies in a box, largest first, of the frontmost source with any."""
    for source in shown_sources(shot):
        try:
            info = reader.describe(source, frame)
        except UmbraxError:
            continue
        layer = next((one for one in info.ids.values() if one.kind == "object"), None)
        if layer is None:
            continue
        ids, coverage = reader.ranks(source, frame, layer.name, layer.window)
        inside = box.intersect(layer.window)
        rows = slice(inside.y0 - layer.window.y0, inside.y1 - layer.window.y0)
        columns = slice(inside.x0 - layer.window.x0, inside.x1 - layer.window.x0)
        within = areas(ids[:, rows, columns], coverage[:, rows, columns])
        if not within:
            continue
        whole = areas(ids, coverage)
        chosen = [value for value in within if within[value] >= INSIDE * whole[value] and whole[value] > LEAST]
        names = {value: name for name, value in (layer.names or {}).items()}
        if chosen:
            return source, layer.name, [names.get(value, f"#{value:08x}") for value in sorted(chosen, key=lambda one: -within[one])]
    return None


def areas(ids: np.ndarray, coverage: np.ndarray) -> dict[int, float]:
    """How many pixels each ID covers, but ID 0."""
    there = (coverage > 0) & (ids != 0)
    values, places = np.unique(ids[there], return_inverse=True)
    sums = np.bincount(places.ravel(), coverage[there], minlength=len(values))
    return {int(value): float(total) for value, total in zip(values, sums, strict=True)}
