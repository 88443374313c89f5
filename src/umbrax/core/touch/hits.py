"""What lies under a point of the picture: the card that answers, and the IDs it shows there."""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from ..document.cards import Card
from ..document.shot import Shot
from ..errors import UmbraxError
from ..picture import Window
from ..plan.placement import HERE, Placement
from ..plan.places import Places, shown_by
from ..plan.reader import FrameInfo, IdLayer, PassReader
from ..plan.times import shown_at, times_of


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
    """What a point shows: the card that shows it, if any, its source, and the IDs there by kind of layer, most covered first.

    `x` and `y` are the pixel of the source, read at the frame `time` of the shot; `frame_x` and `frame_y` are that of the frame, where the
    card is placed.
    """

    card: str | None
    source: str
    time: int
    x: int
    y: int
    hits: tuple[Hit, ...] = ()
    frame_x: int = 0
    frame_y: int = 0

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
    seen = list(shown(shot, frame))
    if source is not None:
        # a source looked at by itself stands nowhere else
        seen = [Shown(next((one.card for one in seen if one.source == source), None), source, HERE, shown_at(shot, source, frame))]
    for look in (_small_near, _nearest):
        for one in seen:
            if source is None and one.card is not None and one.card.picture is not None and one.card.picture.kind == "plate":
                continue
            found = _touched(reader, one, x, y, radius, look)
            if found is not None:
                return found
    return next((one.touched(*one.pixel(x, y)) for one in seen if _is_there(reader, one.time, one.source, *one.pixel(x, y))), None)


@dataclass(frozen=True)
class Shown:
    """A card, where one shows it, with a source of its picture, where that puts it in the frame, and at which frame it is read."""

    card: Card | None
    source: str
    stands: Placement
    time: int

    def pixel(self, x: int, y: int) -> tuple[int, int]:
        """The pixel of the source that is seen at one of the frame."""
        return _pixel(self.stands.inverse(), x, y)

    def touched(self, x: int, y: int, hits: tuple[Hit, ...] = ()) -> Touched:
        return Touched(self.card.id if self.card else None, self.source, self.time, x, y, hits, *_pixel(self.stands, x, y))


def _pixel(way: Placement, x: int, y: int) -> tuple[int, int]:
    across, down = (x, y) if way.still else way.at(x + 0.5, y + 0.5)
    return math.floor(across), math.floor(down)


def shown(shot: Shot, frame: int) -> Iterator[Shown]:
    """Cards that show a source, those in bundles too, frontmost first; a shadow is not touched, but what it falls on."""
    places = Places(shot, frame)
    for card in _in_front_first(shot.build):
        stands = places[card.id].total
        if card.picture is not None and card.picture.kind != "shadow" and not stands.flat:
            times = times_of(card, frame, shot.format.first)
            for source in sorted(shown_by(card)):
                yield Shown(card, source, stands, times.get(source, frame))


def _in_front_first(cards: tuple[Card, ...]) -> Iterator[Card]:
    for card in reversed(cards):
        if card.enabled:
            yield card
            yield from _in_front_first(card.inside())


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


def _touched(reader: PassReader, shown: Shown, x: int, y: int, radius: int, look: Look) -> Touched | None:
    source, frame = shown.source, shown.time
    info = _described(reader, source, frame)
    if info is None:
        return None
    layers = in_order(info)
    x, y = shown.pixel(x, y)
    if radius:
        radius = max(1, round(radius / shown.stands.zoom))
        for layer in layers:
            if place := look(reader, source, frame, layer, x, y, radius):
                x, y = place
                break
    hits = [hit for layer in layers for hit in _hits(reader, source, frame, layer, x, y)]
    return shown.touched(x, y, tuple(hits)) if hits else None
