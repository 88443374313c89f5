"""What the page is drawn from: what sources hold, and the parameter models of treatments, joins and pictures."""

import json
from functools import cache
from typing import Any, get_args

import numpy as np
from flask import request
from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.colour import PRIMARIES, Working, primaries_matrix
from umbrax.core.document.cards import Card
from umbrax.core.document.placing import Placing
from umbrax.core.document.references import matte_uses
from umbrax.core.errors import UmbraxError
from umbrax.core.joins.base import JOINS, PURPOSES, Join
from umbrax.core.mattes import MATTES, Refine
from umbrax.core.pictures import PICTURES
from umbrax.core.pictures.passes import Timing
from umbrax.core.pictures.rebuild import Light, parts_of_lights
from umbrax.core.pictures.text import Box, Leader
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.reader import KINDS, IdLayer, PassInfo
from umbrax.core.plan.times import missing_in_shot, shown_at
from umbrax.core.treatments import STAGES, TREATMENTS, WISHES
from umbrax.core.treatments.base import ThroughParams
from umbrax.media.codes import holds_codes
from umbrax.media.places import frames_at, moves
from umbrax.media.primaries import told_primaries
from umbrax.render.seat import ELEMENTS
from umbrax.store.display_names import display_names_of

from .people.rights import may_here
from .sheets import sheet_key
from .shots import ShotPath, answered
from .state import state
from .telling import without_folders

api = APIBlueprint("describing", __name__, url_prefix="/api", abp_tags=[Tag(name="describing")])


class ContentsQuery(BaseModel):
    revision: int
    frame: int


class PassData(BaseModel):
    name: str
    kind: str
    channels: list[str]
    width: int
    height: int
    has_alpha: bool
    part: bool = Field(False, description="it is a part of another light that is there whole")
    attached: list[str] = Field(default_factory=list, description="the files attached to the source that it lies in, by their names")


class IdLayerData(BaseModel):
    name: str
    kind: str
    ranks: int
    named: int | None = Field(description="how many names its manifest has; null where it has none")
    first: str | None = Field(None, description="one of them")
    display_names: dict[str, str] = Field(default_factory=dict, description="by name or by # and the ID")
    attached: list[str] = Field(default_factory=list, description="the files attached to the source that it lies in, by their names")


class SourceData(BaseModel):
    """A source at a frame; `problem` says why it cannot be read there."""

    name: str
    path: str
    passes: list[PassData]
    ids: list[IdLayerData]
    missing: list[int]
    frames: int
    folder: str = Field("", description="where its files lie")
    primaries: str | None = Field(None, description="of its colours, as its files say: the name of a colour space, or other")
    curve: str | None = Field(None, description="how its codes become light, as its files say: film_log, pq, hlg, power or table")
    codes: bool = Field(False, description="it has pictures as codes that were made for a display")
    problem: str | None = None


class MatteUse(BaseModel):
    """Where a matte is used; `baked`: whether it is read from its bake on this frame, null where it was never baked."""

    id: str
    uses: list[str]
    baked: bool | None = None


class SheetKeys(BaseModel):
    """What the pictures of the tray depend on: a new key, a new contact sheet."""

    passes: str
    mattes: str


class Contents(BaseModel):
    """The answer names its revision and frame: pictures asked for later are of the same."""

    revision: int
    frame: int
    sources: list[SourceData]
    mattes: list[MatteUse]
    sheets: SheetKeys
    missing: list[int] = Field(description="frames of the shot for which a source has no file")


@api.get("/shots/<int:shot_id>/contents", responses={200: Contents})
def contents(path: ShotPath, query: ContentsQuery) -> Response:
    """The passes and ID layers of every source, and where each matte is used."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    works = may_here("work")
    reader = shared.reader(path.shot_id, shot)
    sources = []
    display_names = display_names_of(shared.database, path.shot_id)
    for name, source in shot.sources.items():
        missing: list[int] = []
        frames, folder = 1, ""
        try:
            place = reader.place_of(name)
            folder = str(place.parent) if works else ""
            if moves(place):
                present = {frame + source.offset for frame in frames_at(place)}
                frames = len(present)
                missing = missing_in_shot(shot, name, present)
            info = reader.describe(name, shown_at(shot, name, query.frame))
            whole = reader.frame_of(name, shown_at(shot, name, query.frame))
            main, lies = whole.main, {one: list(placed.attached) for one, placed in whole.placed.items()}
            parts = parts_of_lights(info)
            passes = [_pass_data(found, lies[found.name], found.name in parts) for found in info.passes.values()]
            ids = [_layer_data(layer, display_names, lies[layer.name]) for layer in info.ids.values()]
            sources.append(
                SourceData(
                    name=name, path=source.path, passes=passes, ids=ids, missing=missing, frames=frames, folder=folder,
                    primaries=told_primaries(main), curve=main.curve and main.curve.kind, codes=holds_codes(main),
                )
            )  # fmt: skip
        except UmbraxError as error:
            sources.append(
                SourceData(
                    name=name,
                    path=source.path,
                    passes=[],
                    ids=[],
                    missing=missing,
                    frames=frames,
                    folder=folder,
                    problem=without_folders(error.message),
                )
            )
    lost = sorted({frame for source_data in sources for frame in source_data.missing})
    planner = ShotPlanner(shot, query.frame, reader)
    mattes = [MatteUse(id=matte, uses=matte_uses(shot, matte), baked=_baked(planner, matte)) for matte in shot.mattes]
    sheets = SheetKeys(passes=sheet_key(shot, reader, query.frame, "passes"), mattes=sheet_key(shot, reader, query.frame, "mattes"))
    return answered(Contents(revision=query.revision, frame=query.frame, sources=sources, mattes=mattes, sheets=sheets, missing=lost))


def _pass_data(found: PassInfo, attached: list[str], part: bool) -> PassData:
    return PassData(
        name=found.name, kind=found.kind, channels=list(found.channels), width=found.window.width, height=found.window.height,
        has_alpha=found.has_alpha, attached=attached, part=part,
    )  # fmt: skip


def _baked(planner: ShotPlanner, matte: str) -> bool | None:
    if planner.shot.mattes[matte].bake is None:
        return None
    try:
        return planner.baked_planes(matte) is not None
    except UmbraxError:
        return False


def _layer_data(layer: IdLayer, display_names: dict[int, str], attached: list[str]) -> IdLayerData:
    by_name = {name: display_names[value] for name, value in (layer.names or {}).items() if value in display_names}
    raw = {f"#{value:08x}": name for value, name in display_names.items()}
    names = layer.names
    return IdLayerData(
        name=layer.name, kind=layer.kind, ranks=layer.ranks, named=None if names is None else len(names), first=min(names) if names else None,
        display_names=raw | by_name, attached=attached,
    )  # fmt: skip


@api.get("/models")
def models() -> Response:
    """The parameter models the card panel is drawn from: JSON Schema with titles, units and soft ranges."""
    response = Response(_all_models(), mimetype="application/json")
    response.add_etag()
    response.cache_control.no_cache = True  # kept, but asked for again: another version of the program has others
    response.make_conditional(request)
    return response


@cache
def _all_models() -> bytes:
    """The same as long as the program runs, and a second's work."""
    data: dict[str, Any] = {
        "stages": list(STAGES),
        "treatments": [
            {
                "kind": t.kind,
                "title": t.title,
                "stage": t.stage,
                "elements_only": t.elements_only,
                "summary": t.summary,
                "lays": issubclass(t.params, ThroughParams),
                "touch": None if t.touch is None else {"wish": t.touch.wish, "key": t.touch.key, "words": t.touch.words or t.title},
                "of_camera": dict(t.of_camera),
                "schema": _described(t.params),
            }
            for t in TREATMENTS
        ],
        "joins": [_join_data(j) for j in JOINS],
        "purposes": list(PURPOSES),
        "wishes": list(WISHES),
        "pictures": [{"kind": p.kind, "title": p.title, "seated": p.kind in ELEMENTS, "schema": _described(p.params)} for p in PICTURES],
        "mattes": [{"kind": m.kind, "title": m.title, "schema": _described(m.params)} for m in MATTES],
        "pass_kinds": list(KINDS),
        "working": {name: _space_data(name) for name in get_args(Working)},
        "card": {name: _described(Card)["properties"][name] for name in ("opacity", "depth")},
        "placing": _described(Placing),
        "light": _described(Light),
        "timing": _described(Timing),
        "text_box": _described(Box),
        "text_leader": _described(Leader),
        "refine": _described(Refine),
    }
    return json.dumps(data).encode()


def _space_data(name: str) -> dict[str, Any]:
    own, display = PRIMARIES[name], PRIMARIES["lin_rec709"]
    turns = (primaries_matrix(own, display), primaries_matrix(display, own))
    there, back = ((np.eye(3) if matrix is None else matrix).tolist() for matrix in turns)
    return {"to_display": there, "from_display": back}


def _join_data(join: Join) -> dict[str, Any]:
    return {
        "kind": join.kind, "title": join.title, "purpose": join.purpose, "formula": join.formula, "outside": join.outside,
        "usual": join.usual if join.display is not None else None, "lays": join.lays,
    }  # fmt: skip


def _described(model: type[BaseModel]) -> dict[str, Any]:
    """The JSON Schema of a model, its properties at the top: one that holds itself, as cards do in bundles, has them elsewhere."""
    schema = model.model_json_schema(by_alias=True)
    itself = schema.get("$ref", "").rpartition("/")[2]
    return {**schema["$defs"][itself], "$defs": schema["$defs"]} if itself else schema
