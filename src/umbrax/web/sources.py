"""Sources of a shot that come and go: what arrived, adding it, removing it with what uses it, and what a source lost."""

from pathlib import Path
from typing import Any

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.document.adding import added_sources, fitting_offset
from umbrax.core.document.first_build import is_plate
from umbrax.core.document.lost import Lost
from umbrax.core.document.removals import Removal, source_removal
from umbrax.core.errors import UmbraxError
from umbrax.media.reader import MediaReader
from umbrax.media.versions import named_alike
from umbrax.render.lost import find_lost
from umbrax.store import shots as store

from .browsing import LISTED_IN, FoundData, chosen_pictures, found_data, readable
from .new_sources import new_sources, remembered_kinds
from .shots import Gesture, ShotPath, ShotState, answered, edited
from .state import state

api = APIBlueprint("sources", __name__, url_prefix="/api", abp_tags=[Tag(name="sources")])


class ArrivedOrder(BaseModel):
    revision: int
    paths: list[str] = Field(min_length=1, max_length=200, description="files, patterns, movies or folders inside the media folders")
    folder: str = Field("", description=LISTED_IN)


class ArrivedData(BaseModel):
    """A picture that may become a source. `alike` is the source that it looks like a version of, `plate` whether it is a background."""

    found: FoundData
    plate: bool
    alike: str | None
    used: str | None = Field(description="the source that it is already")


class Arrived(BaseModel):
    arrived: list[ArrivedData]


class AddOrder(Gesture):
    """Add pictures as sources; `build` gives each its cards: plates at the back, everything else in front."""

    paths: list[str] = Field(min_length=1, max_length=200)
    apart: list[str] = Field(default_factory=list)
    folder: str = Field("", description=LISTED_IN)
    build: bool = True


class SourceQuery(BaseModel):
    revision: int
    source: str


class RevisionQuery(BaseModel):
    revision: int


class RemovalData(BaseModel):
    edits: list[dict[str, Any]] = Field(description="as an edit order takes them")
    with_it: list[str] = Field(description="what goes with it, in words")


class RemedyData(BaseModel):
    label: str
    edits: list[dict[str, Any]]


class LostData(BaseModel):
    """A name that a card or a matte asks a source for in vain, and what can be done."""

    noun: str
    name: str
    source: str
    message: str
    card: str | None
    matte: str | None
    remedies: list[RemedyData]


class LostList(BaseModel):
    lost: list[LostData]


@api.post("/shots/<int:shot_id>/arrived", responses={200: Arrived})
def arrived(path: ShotPath, body: ArrivedOrder) -> Response:
    """What lies at some paths, and which sources of the shot it may be a version of; nothing is changed yet."""
    shared = state()
    shot = shared.shot(path.shot_id, body.revision)
    reader = shared.reader(path.shot_id, shot)
    places = {name: place for name in shot.sources if (place := _place(reader, name)) is not None}
    answer = []
    found = chosen_pictures(body.paths, folder=body.folder)
    for one, told in zip(found, found_data(found), strict=True):
        used = next((name for name, place in places.items() if place == one.path), None)
        alike = next((name for name, place in places.items() if place != one.path and named_alike(place, one.path)), None)
        plate = one.whole is not None and is_plate(one.whole.frame_info)
        answer.append(ArrivedData(found=told, plate=plate, alike=None if used else alike, used=used))
    return answered(Arrived(arrived=answer))


def _place(reader: MediaReader, source: str) -> Path | None:
    """Where a source lies; None where that is outside of everything that may be read."""
    try:
        return reader.place_of(source)
    except UmbraxError:
        return None


@api.post("/shots/<int:shot_id>/sources", responses={200: ShotState})
def add_sources(path: ShotPath, body: AddOrder) -> Response:
    """Make pictures sources of the shot, as one step that can be undone."""
    shared = state()
    row = store.get_shot(shared.database, path.shot_id)
    shot = shared.shot(path.shot_id, row.head)
    with shared.gate.enter("", 0, "thumbnail"):  # frames are read, to see how their lights add up
        good = readable(chosen_pictures(body.paths, body.apart, body.folder), "added")
        new = new_sources(good, Path(row.folder), shot.sources, remembered_kinds(row.show_id))
    for one in new.values():
        if offset := fitting_offset(shot, one.found.frames):
            one.data["offset"] = offset
    infos = {name: one.info for name, one in new.items()}
    sums = {name: one.sum for name, one in new.items()}
    changes = added_sources(shot, {name: one.data for name, one in new.items()}, infos, sums, with_cards=body.build)
    return edited(path.shot_id, body.model_copy(update={"command": body.command or f"add {', '.join(new)}"[:200]}), changes)


@api.get("/shots/<int:shot_id>/sources/removal", responses={200: RemovalData})
def removal(path: ShotPath, query: SourceQuery) -> Response:
    """The edits that delete a source with what uses it, and what that is."""
    return answered(removal_data(source_removal(state().shot(path.shot_id, query.revision), query.source)))


def removal_data(found: Removal) -> RemovalData:
    return RemovalData(edits=[edit.model_dump(mode="json") for edit in found.edits], with_it=list(found.with_it))


@api.get("/shots/<int:shot_id>/lost", responses={200: LostList})
def lost(path: ShotPath, query: RevisionQuery) -> Response:
    """What cards and mattes ask of sources that these do not have, with remedies as edits."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    found = find_lost(shot, shared.reader(path.shot_id, shot))
    return answered(LostList(lost=[lost_data(one) for one in found]))


def lost_data(one: Lost) -> LostData:
    remedies = [RemedyData(label=r.label, edits=[edit.model_dump(mode="json") for edit in r.edits]) for r in one.remedies]
    return LostData(
        noun=one.noun, name=one.name, source=one.source, message=one.message, card=one.card, matte=one.matte, remedies=remedies
    )  # fmt: skip
