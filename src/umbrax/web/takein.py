"""Taking in: making a shot of pictures that were chosen or brought."""

import os
from pathlib import Path

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.document.edits import fresh_id
from umbrax.core.document.first_build import first_build
from umbrax.core.document.text import read_data
from umbrax.core.errors import UmbraxError
from umbrax.media.finding import Found
from umbrax.media.movies import is_movie, rate_of
from umbrax.media.versions import without_version
from umbrax.store import shots as store
from umbrax.store.shows import ShowRow, find_or_add_show, find_show

from .browsing import LISTED_IN, chosen_pictures, readable
from .new_sources import new_sources, remembered_kinds
from .ordering import order_checkup
from .people.identity import know_again, who
from .people.rights import forbidden, require
from .shots import ShotState, answered, shot_state
from .state import state

api = APIBlueprint("takein", __name__, url_prefix="/api", abp_tags=[Tag(name="take-in")])


class TakeInOrder(BaseModel):
    """Make a shot of pictures; a show of this name is used, or made. Without a name the shot is called after its pictures."""

    show: str = Field(min_length=1, max_length=120)
    shot: str = Field("", max_length=120)
    paths: list[str] = Field(min_length=1, max_length=200, description="files, patterns, movies, or folders, inside the media folders")
    apart: list[str] = Field(default_factory=list, description="of the paths, those whose files are not put together but become sources each")
    folder: str = Field("", description=LISTED_IN)


@api.post("/take-in", responses={200: ShotState})
def take_in(body: TakeInOrder) -> Response:
    """Make a shot whose sources are these pictures, with a first build, and order its check-up."""
    shared = state()
    with shared.gate.enter("", 0, "thumbnail"):  # frames are read, to see how their lights add up
        good = readable(chosen_pictures(body.paths, body.apart, body.folder), "taken in")
        show = _show_of(body.show.strip(), _folder_of(good[0]))
        name = body.shot.strip() or _free_name(show.id, _main_of(good).name)
        shot = read_data(_document(name, good, Path(show.folder), remembered_kinds(show.id)))
    shot_id = store.add_shot(shared.database, show.id, shot, command="take in")
    if shot_id is None:
        raise UmbraxError("shot-exists", f"the show {body.show!r} has a shot {name!r} already; give this one another name")
    row = store.get_shot(shared.database, shot_id)
    order_checkup(shot_id, row.head)
    return answered(shot_state(row))


def _folder_of(one: Found) -> str:
    """The folder that a picture lies in, with all that is put together with it."""
    return os.path.commonpath([path.parent for path in (one.path, *(other.path for other in one.attached.values()))])


def _show_of(name: str, folder: str) -> ShowRow:
    """The show of a name that whoever asks works on, or a new one where they may make one."""
    database = state().database
    found = find_or_add_show(database, name, folder) if who().may_somewhere("own") else find_show(database, name)
    asking = know_again()  # whoever makes a show is its owner
    if found is None or asking.role(found.id) is None:
        raise forbidden(f"you may not make a show {name!r}; choose one that you work on, or ask whoever looks after the server")
    require(asking, found.id, "work")
    return found


def _free_name(show_id: int, stem: str) -> str:
    """A name after the pictures that no shot of the show has."""
    plain = without_version(stem).replace("_", " ")
    title = plain[:1].upper() + plain[1:]
    return fresh_id([row.name for row in store.list_shots(state().database) if row.show_id == show_id], title or "Shot")


def _main_of(found: list[Found]) -> Found:
    return max(found, key=lambda one: (len(one.whole.placed) if one.whole else 0, not one.still))


def _document(name: str, found: list[Found], folder: Path, known: dict[str, str]) -> dict[str, object]:
    new = new_sources(found, folder, {}, known)
    main = _main_of(found)
    assert main.info is not None
    rendered = [one for one in found if not is_movie(one.path)]
    frames = [frame for one in rendered for frame in (one.frames[:1] + one.frames[-1:])] or main.frames or [1]
    rates = [rate_of(one.path) for one in found if is_movie(one.path)]
    layout: dict[str, object] = {"width": main.info.display.width, "height": main.info.display.height, "fps": rates[0] if rates else 24}
    layout |= {"first": min(frames), "last": max(frames), "pixel_aspect": main.info.pixel_aspect}
    for one in new.values():
        if is_movie(one.found.path) and min(frames) != one.found.frames[0]:
            one.data["offset"] = min(frames) - one.found.frames[0]
    sources = {key: one.data for key, one in new.items()}
    build = first_build({key: one.info for key, one in new.items()}, {key: one.sum for key, one in new.items()})
    return {"umbrax": 1, "name": name, "format": layout, "sources": sources, "build": build}
