"""Touch: what lies under a point of the picture, and the one gesture that makes a matte and a treatment of it."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from .edits import Edit, InsertItem, fresh_id
from .errors import UmbraxError
from .picture import Window
from .pictures import PICTURES
from .reading import IdLayer, PassReader
from .shot import Card, Shot
from .treatments import STAGES, TREATMENTS

On = Literal["object", "material", "both"]


@dataclass(frozen=True)
class Hit:
    """One ID under the cursor: its layer, bits, name if the manifest has it, and coverage there."""

    layer: str
    id: int
    name: str | None
    coverage: float

    @property
    def shown_name(self) -> str:
        return self.name or f"#{self.id:08x}"


@dataclass(frozen=True)
class Touched:
    """What a point shows: the frontmost enabled card with IDs there, and what of it."""

    card: str
    source: str
    object: Hit | None
    material: Hit | None


LEAST = 0.02  # what covers less of a pixel is not seen


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
    return [Hit(layer.name, value, names.get(value), share) for value, share in sorted(found.items(), key=lambda item: -item[1])]


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


def touch(shot: Shot, reader: PassReader, frame: int, x: int, y: int, radius: int = 0) -> Touched | None:
    """What the frontmost enabled card that has IDs at a pixel shows there; None where nothing answers.

    `radius`, in full-size pixels: a thing so small that it fits in it answers from that far; and so does anything
    where nothing is under the point itself.
    """
    for look in (_small_near, _nearest):
        for card in reversed(shot.build):
            if not card.enabled or card.picture is None or card.picture.kind in ("shadow", "plate"):
                continue
            for source in PICTURES.get(card.picture.kind).sources(card.picture):
                found = _touched(reader, frame, card, source, x, y, radius, look)
                if found is not None:
                    return found
    return None


def gathered(
    shot: Shot, reader: PassReader, frame: int, points: Iterable[tuple[int, int]], radius: int = 0
) -> tuple[str, str, list[str]] | None:
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


Look = Callable[[PassReader, str, int, IdLayer, int, int, int], tuple[int, int] | None]


def _touched(reader: PassReader, frame: int, card: Card, source: str, x: int, y: int, radius: int, look: Look) -> Touched | None:
    try:
        layers = reader.describe(source, frame).ids.values()
    except UmbraxError:
        return None
    if radius:
        for layer in sorted(layers, key=lambda layer: layer.kind != "object"):
            if place := look(reader, source, frame, layer, x, y, radius):
                x, y = place
                break
    best: dict[str, Hit] = {}
    for layer in layers:
        hits = _hits(reader, source, frame, layer, x, y)
        if hits and layer.kind in ("object", "material") and layer.kind not in best:
            best[layer.kind] = hits[0]
    if not best:
        return None
    return Touched(card.id, source, best.get("object"), best.get("material"))


@dataclass(frozen=True)
class Gesture:
    """What a touch makes: edits for one revision, and what to open afterwards."""

    edits: tuple[Edit, ...]
    card: str
    treatment: str
    matte: str


def treat_touched(shot: Shot, found: Touched, on: On, action: str, settings: dict[str, Any] | None = None) -> Gesture:
    """The edits that make a matte of what was touched and a treatment through it, in its stage on the touched card.

    A matte that means the same and has no refinements is used again.
    """
    treatment = TREATMENTS.get(action)
    edits: list[Edit] = []
    matte = _matte_for(shot, found, on, edits)
    card = shot.card(found.card)
    taken = [t.id for other in shot.build for t in other.treatments]
    number = 1 + max([int(t[1:]) for t in taken if t[:1] == "t" and t[1:].isdigit()], default=0)
    treatment_id = f"t{number}"
    use = {"feed": {"matte": matte}} if treatment.stage == "light" else {"through": matte}
    item = {"id": treatment_id, "kind": treatment.kind, **use, **(settings or starting_point(action))}
    edits.append(InsertItem(op="insert", path=("build", card.id, "treatments"), item=item, before=_place(card, treatment.stage)))
    return Gesture(tuple(edits), card.id, treatment_id, matte)


def starting_point(action: str) -> dict[str, Any]:
    """Settings at which a touch shows at once that something happened: common practice for isolated sources."""
    return {"bloom": {"threshold": 0.0, "size": 24.0, "amount": 1.0}, "grade": {"exposure": 0.5}}.get(action, {})


def _place(card: Card, stage: str) -> str | None:
    """Before the first treatment of a later stage."""
    later = STAGES[STAGES.index(stage) + 1 :]
    return next((t.id for t in card.treatments if TREATMENTS.get(t.kind).stage in later), None)


def _matte_for(shot: Shot, found: Touched, on: On, edits: list[Edit]) -> str:
    hits = {"object": [found.object], "material": [found.material], "both": [found.object, found.material]}[on]
    names = []
    for hit in hits:
        if hit is None:
            raise UmbraxError(
                "no-ids",
                f"nothing names the {on} here; touch another place or use the {'object' if on == 'material' else 'material'}",
            )
        names.append(_id_matte(shot, found.source, hit, edits))
    if len(names) == 1:
        return names[0]
    for matte_id, params in shot.mattes.items():
        used = tuple(ref.matte for ref in getattr(params, "mattes", ()))
        if getattr(params, "how", None) == "all_of" and sorted(used) == sorted(names) and not params.model_dump(mode="json").get("refine"):
            return matte_id
    matte_id = fresh_id([*shot.mattes, *names], " x ".join(names))
    edits.append(InsertItem(op="insert", path=("mattes",), item={"id": matte_id, "kind": "combined", "how": "all_of", "mattes": names}))
    return matte_id


def _id_matte(shot: Shot, source: str, hit: Hit, edits: list[Edit]) -> str:
    wanted = {"kind": "id", "source": source, "layer": hit.layer, "names": [hit.shown_name]}
    for matte_id, params in shot.mattes.items():
        if params.model_dump(mode="json", exclude={"name", "order"}) == wanted:
            return matte_id
    matte_id = fresh_id(shot.mattes, hit.shown_name)
    edits.append(InsertItem(op="insert", path=("mattes",), item={"id": matte_id, **wanted}))
    return matte_id
