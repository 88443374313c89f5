"""What lies under a point of the picture: the card that answers, and the IDs it shows there."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from ..document.cards import Card
from ..document.shot import Shot
from ..errors import UmbraxError
from ..picture import Window
from ..pictures import PICTURES
from ..plan.reader import FrameInfo, IdLayer, PassReader


@dataclass(frozen=True)
class Hit:
    """One ID under the cursor: its layer and that one's kind, bits, name if the manifest has it, and coverage there."""

    layer: str
    kind: str
    id: int
    name: str | None
    coverage: float

    @property
    def shown_name(self) -> str:
        return self.name or f"#{self.id:08x}"


@dataclass(frozen=True)
class Touched:
    """What a point shows: the card that shows it, if any, its source, and the IDs there by kind of layer, most covered first."""

    card: str | None
    source: str
    x: int
    y: int
    hits: tuple[Hit, ...] = ()

    def first(self, kind: str) -> Hit | None:
        return next((hit for hit in self.hits if hit.kind == kind), None)

    @property
    def object(self) -> Hit | None:
        return self.first("object")

    @property
    def material(self) -> Hit | None:
        return self.first("material")


ORDER = ("object", "material", "asset")
LEAST = 0.02  # what covers less of a pixel is not seen


def in_order(info: FrameInfo) -> list[IdLayer]:
    """The ID layers of a source as they answer: objects first."""
    return sorted(info.ids.values(), key=lambda layer: ORDER.index(layer.kind) if layer.kind in ORDER else len(ORDER))


def _around(layer: IdLayer, x: int, y: int, radius: int) -> Window:
    return Window(x - radius, y - radius, x + radius + 1, y + radius + 1).intersect(layer.window)


def _hits(reader: PassReader, source: str, frame: int, layer: IdLayer, x: int, y: int) -> list[Hit]:
    """What a layer holds at a pixel, most covered first."""
    window = _around(layer, x, y, 0)
    if window.empty:
        return []
    ids, coverage = reader.ranks(source, frame, layer.name, window)
    names = {value: name for name, value in (layer.names or {}).items()}
    found: dict[int, float] = {}
    for value, share in zip(ids[:, 0, 0], coverage[:, 0, 0], strict=True):
        if value and share > LEAST:
            found[int(value)] = found.get(int(value), 0.0) + float(share)
    return [Hit(layer.name, layer.kind, value, names.get(value), share) for value, share in sorted(found.items(), key=lambda item: -item[1])]


def _small_near(reader: PassReader, source: str, frame: int, layer: IdLayer, x: int, y: int, radius: int) -> tuple[int, int] | None:
    """The clearest pixel of the nearest thing so small that it lies whole within the radius; None where there is none."""
    window = _around(layer, x, y, radius)
    if window.empty:
        return None
    ids, coverage = reader.ranks(source, frame, layer.name, window)
    seen = (ids != 0) & (coverage > LEAST)
    rows, columns = np.mgrid[window.y0 : window.y1, window.x0 : window.x1]
    away = np.hypot(rows - y, columns - x)
    rim = (away > radius - 1) & (rows > layer.window.y0) & (rows < layer.window.y1 - 1)
    rim &= (columns > layer.window.x0) & (columns < layer.window.x1 - 1)
    large = set(np.unique(ids[:, rim][seen[:, rim]]).tolist())
    nearest: tuple[float, int, int] | None = None
    for value in set(np.unique(ids[seen]).tolist()) - large:
        share = np.where(ids == value, coverage, 0).sum(axis=0)
        distance = float(away[share > LEAST].min())
        if nearest is None or distance < nearest[0]:
            row, column = np.unravel_index(int(np.argmax(share)), share.shape)
            nearest = distance, int(column) + window.x0, int(row) + window.y0
    return None if nearest is None else nearest[1:]


def _nearest(reader: PassReader, source: str, frame: int, layer: IdLayer, x: int, y: int, radius: int) -> tuple[int, int] | None:
    """The nearest pixel within the radius that holds anything."""
    window = _around(layer, x, y, radius)
    if window.empty:
        return None
    ids, coverage = reader.ranks(source, frame, layer.name, window)
    rows, columns = np.nonzero(((ids != 0) & (coverage > LEAST)).any(axis=0))
    if not len(rows):
        return None
    away = np.hypot(rows + window.y0 - y, columns + window.x0 - x)
    best = int(np.argmin(away))
    return (int(columns[best]) + window.x0, int(rows[best]) + window.y0) if away[best] <= radius else None


def touch(shot: Shot, reader: PassReader, frame: int, x: int, y: int, radius: int = 0, source: str | None = None) -> Touched | None:
    """What a point shows: the frontmost enabled card that has IDs there, else the frontmost one with anything there.

    `radius`, in full-size pixels: a thing so small that it fits in it answers from that far; and so does anything
    where nothing is under the point itself. With a `source` only that one answers, whether a card shows it or not.
    """
    shown = list(_shown(shot))
    if source is not None:
        shown = [(next((card for card, one in shown if one == source), None), source)]
    for look in (_small_near, _nearest):
        for card, name in shown:
            if source is None and card is not None and card.picture is not None and card.picture.kind == "plate":
                continue
            found = _touched(reader, frame, card, name, x, y, radius, look)
            if found is not None:
                return found
    return next((Touched(card.id if card else None, name, x, y) for card, name in shown if _is_there(reader, frame, name, x, y)), None)


def _shown(shot: Shot) -> Iterator[tuple[Card | None, str]]:
    """Cards that show a source, frontmost first; a shadow is not touched, but what it falls on."""
    for card in reversed(shot.build):
        if card.enabled and card.picture is not None and card.picture.kind != "shadow":
            for source in PICTURES.get(card.picture.kind).sources(card.picture):
                yield card, source


def shown_sources(shot: Shot) -> list[str]:
    """The sources of the cards that can be touched, frontmost first, each once."""
    return list(dict.fromkeys(source for _, source in _shown(shot)))


def _is_there(reader: PassReader, frame: int, source: str, x: int, y: int) -> bool:
    """Whether a source is not see-through at a pixel."""
    info = _described(reader, source, frame)
    here = Window(x, y, x + 1, y + 1)
    if info is None or not info.has("beauty"):
        return False
    beauty = info.find("beauty")
    if not beauty.window.contains(here):
        return False
    return not beauty.has_alpha or float(reader.pixels(source, frame, beauty.name, here)[0, 0, -1]) > LEAST


def _described(reader: PassReader, source: str, frame: int) -> FrameInfo | None:
    try:
        return reader.describe(source, frame)
    except UmbraxError:
        return None


Look = Callable[[PassReader, str, int, IdLayer, int, int, int], tuple[int, int] | None]


def _touched(reader: PassReader, frame: int, card: Card | None, source: str, x: int, y: int, radius: int, look: Look) -> Touched | None:
    info = _described(reader, source, frame)
    if info is None:
        return None
    layers = in_order(info)
    if radius:
        for layer in layers:
            if place := look(reader, source, frame, layer, x, y, radius):
                x, y = place
                break
    hits = [hit for layer in layers for hit in _hits(reader, source, frame, layer, x, y)]
    return Touched(card.id if card else None, source, x, y, tuple(hits)) if hits else None
