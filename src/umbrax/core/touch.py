"""Touch: what lies under a point of the picture, and the one gesture that makes a matte and a treatment of it."""

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


def _hits(reader: PassReader, source: str, frame: int, layer: IdLayer, x: int, y: int, radius: int) -> list[Hit]:
    """What a layer holds at a pixel, most covered first; where nothing is, what is nearest within the radius."""
    window = Window(x - radius, y - radius, x + radius + 1, y + radius + 1).intersect(layer.window)
    if window.empty:
        return []
    ids, coverage = reader.ranks(source, frame, layer.name, window)
    names = {value: name for name, value in (layer.names or {}).items()}
    rows, columns = np.mgrid[window.y0 : window.y1, window.x0 : window.x1]
    away = np.hypot(rows - y, columns - x)
    here = ((ids != 0) & (coverage > 0.02)).any(axis=0)
    if not here.any():
        return []
    away[~here] = np.inf
    row, column = np.unravel_index(int(np.argmin(away)), away.shape)
    found: dict[int, float] = {}
    for value, share in zip(ids[:, row, column], coverage[:, row, column], strict=True):
        if value and share > 0:
            found[int(value)] = found.get(int(value), 0.0) + float(share)
    return [Hit(layer.name, value, names.get(value), share) for value, share in sorted(found.items(), key=lambda item: -item[1])]


def small_first(reader: PassReader, source: str, frame: int, layer: IdLayer, x: int, y: int, radius: int) -> list[Hit]:
    """Like the hits at a pixel, but a small thing nearby is not lost to a large one behind it."""
    direct = _hits(reader, source, frame, layer, x, y, 0)
    if radius == 0 or direct:
        return direct
    return _hits(reader, source, frame, layer, x, y, radius)


def touch(shot: Shot, reader: PassReader, frame: int, x: int, y: int, radius: int = 0) -> Touched | None:
    """What the frontmost enabled card that has IDs at a pixel shows there; None where nothing answers.

    `radius`: how far around small things answer, in full-size pixels.
    """
    for reach in (0, radius) if radius else (0,):
        for card in reversed(shot.build):
            if not card.enabled or card.treat or card.picture is None:
                continue
            for source in PICTURES.get(card.picture.kind).sources(card.picture):
                found = _touched(shot, reader, frame, card, source, x, y, reach)
                if found is not None:
                    return found
    return None


def _touched(shot: Shot, reader: PassReader, frame: int, card: Card, source: str, x: int, y: int, radius: int) -> Touched | None:
    assert card.picture is not None
    if card.picture.kind in ("shadow", "plate"):
        return None
    try:
        info = reader.describe(source, frame)
    except UmbraxError:
        return None
    best: dict[str, Hit] = {}
    for layer in info.ids.values():
        hits = small_first(reader, source, frame, layer, x, y, radius)
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
