"""The media folders: what lies in them, and which folders they are."""

import os
from pathlib import Path

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.errors import UmbraxError
from umbrax.core.plan.reader import is_light
from umbrax.media.finding import Found, find_here, find_in, folders_around, folders_of
from umbrax.media.movies import is_movie
from umbrax.media.previews import preview
from umbrax.media.roots import Roots, real_path
from umbrax.media.versions import older_ones
from umbrax.store.media_folders import add_folder, remove_folder

from . import encoding
from .looks import SHOWN_AS_THEY_ARE
from .shots import answered
from .state import state
from .telling import without_folders

api = APIBlueprint("browsing", __name__, url_prefix="/api", abp_tags=[Tag(name="take-in")])
LISTED_IN = "the folder in which the paths were listed: what is put together there is"


class BrowseQuery(BaseModel):
    path: str = Field("", description="a folder inside one of the media folders; empty for these themselves")


class PreviewQuery(BaseModel):
    path: str = Field(min_length=1, max_length=4096, description="of a file, or the pattern of a sequence")
    key: str = Field("", max_length=64, description="`key` of what was found, so that browsers keep the picture as long as it is true")


class FolderData(BaseModel):
    name: str
    path: str
    added: bool = Field(False, description="a media folder that was added in the page, and can be left out again")


class HoleData(BaseModel):
    """The first and the last of some frames that are not there."""

    first: int
    last: int


class FoundData(BaseModel):
    """A still or a sequence that can be taken in; `problem` says why it cannot."""

    name: str
    path: str
    first: int | None
    last: int | None
    frames: int
    missing: list[HoleData]
    width: int
    height: int
    passes: int
    kinds: dict[str, int]
    ids: int
    problem: str | None
    key: str = Field(description="changes with the first file")
    attached: list[str] = Field(description="names of the files that are put together with it, one for each pass")
    movie: bool
    older: bool = Field(description="a newer version of it was found as well")


class Browsed(BaseModel):
    """One folder: the way to it, the folders in it and the pictures in it; and where uploads go."""

    path: str
    way: list[FolderData]
    folders: list[FolderData]
    found: list[FoundData]
    uploads: str


class FolderOrder(BaseModel):
    path: str = Field(min_length=1, max_length=4096)


class Suggested(BaseModel):
    """Folders of this computer whose paths begin as typed."""

    folders: list[str]


@api.get("/media", responses={200: Browsed})
def browse(query: BrowseQuery) -> Response:
    """A folder of the media folders, with its sequences and stills put together."""
    return _browsed(query.path)


def _browsed(path: str) -> Response:
    shared = state()
    uploads, added = str(shared.settings.uploads.resolve()), {root.resolve() for root in shared.added_folders()}
    if not path:
        folders = [FolderData(name=root.name, path=str(root), added=root in added) for root in media_roots().folders if root.is_dir()]
        return answered(Browsed(path="", way=[], folders=folders, found=[], uploads=uploads))
    roots = media_roots()
    folder = roots.check(Path(path))
    root = roots.root_of(folder) or folder
    way = [FolderData(name=root.name, path=str(root))]
    for part in folder.relative_to(root).parts:
        way.append(FolderData(name=part, path=str(Path(way[-1].path) / part)))
    found = found_data(find_here(folder, shared.engine.copies, roots))
    folders = [FolderData(name=f.name, path=str(f)) for f in folders_of(folder, roots)]
    return answered(Browsed(path=str(folder), way=way, folders=folders, found=found, uploads=uploads))


@api.get("/media/thumb")
def thumb(query: PreviewQuery) -> Response:
    """A small JPEG of the first frame of a file or pattern, before it is taken in."""
    shared, roots = state(), media_roots()
    with shared.gate.enter("", 0, "thumbnail"):
        picture, shown = preview(roots.check(Path(query.path)), shared.engine.copies, roots)
    data = not is_light(shown.kind, shown=True) and shown.kind not in SHOWN_AS_THEY_ARE
    response = Response(encoding.jpeg(encoding.as_eight_bits(picture, "colour", 0.0, data=data), 88), mimetype="image/jpeg")
    if query.key:  # another state of the file has another address
        response.cache_control.max_age = 86400
        response.cache_control.private = True
    return response


@api.post("/media/folders", responses={200: Browsed})
def add_media_folder(body: FolderOrder) -> Response:
    """Make a folder of this computer a media folder, and look into it."""
    path = Path(os.path.expanduser(body.path.strip()))
    if not path.is_absolute():
        raise UmbraxError("bad-folder", f"expected a whole path that begins with /, got {body.path!r}")
    real = real_path(path)
    if not real.is_dir():
        raise UmbraxError("no-folder", f"there is no folder {body.path!r} on this computer; check the path")
    if real == Path("/"):
        raise UmbraxError("bad-folder", "the whole computer cannot be a media folder; name the folder that the pictures lie in")
    folders_of(real)  # refuses one that cannot be looked into
    add_folder(state().database, real)
    state().forget_folders()
    return _browsed(str(real))


@api.post("/media/folders/remove", responses={200: Browsed})
def remove_media_folder(body: FolderOrder) -> Response:
    """Leave an added folder out of the media folders; the folder itself stays as it is."""
    remove_folder(state().database, Path(body.path))
    state().forget_folders()
    return _browsed("")


@api.get("/media/suggested", responses={200: Suggested})
def suggest(query: BrowseQuery) -> Response:
    """Folders for a path that is being typed."""
    typed = Path(os.path.expanduser(query.path or "/"))
    parent, start = (typed, "") if query.path.endswith("/") or not query.path else (typed.parent, typed.name)
    try:
        found = [str(folder) for folder in folders_of(parent) if folder.name.lower().startswith(start.lower())]
    except UmbraxError:
        found = []
    return answered(Suggested(folders=found[:20]))


def path_from(folder: Path, path: Path) -> str:
    """A path as a shot writes it: from the show's folder where it lies in it."""
    return str(path.relative_to(folder) if path.is_relative_to(folder) else path)


def chosen_pictures(paths: list[str], apart: list[str] | None = None, folder: str = "") -> list[Found]:
    """Folders as a whole, files and patterns by their own names; each with what is put together with it, but for those `apart`.

    `folder`: the one in which they were listed; what is put together there is.
    """
    copies, roots = state().engine.copies, media_roots()
    known: dict[Path, list[Found]] = {}
    listed = {one.path: one for one in find_here(roots.check(Path(folder)), copies, roots)} if folder else {}
    found: list[Found] = []
    for place in (roots.check(Path(path)) for path in paths):
        if place in listed:
            found.append(listed[place])
        elif place.is_dir():
            found += find_in(place, copies, roots)
        elif own := pictures_at(place, roots, known):
            found += own
        else:
            raise UmbraxError("missing-file", f"there is no picture {place.name!r} in {place.parent.name!r}; choose it again")
    for one in list(found):
        if apart and str(one.path) in apart:
            found += one.attached.values()
            one.attached = {}
    return found


def pictures_at(place: Path, roots: Roots, known: dict[Path, list[Found]]) -> list[Found]:
    """The picture of a file or pattern with what is put together with it, which may lie in folders called after passes; none where
    there is none. `known` keeps folders that were looked into."""
    for folder in folders_around(place, roots):
        if folder not in known:
            known[folder] = find_here(folder, state().engine.copies, roots)
        if own := [one for one in known[folder] if one.path == place]:
            return own
    return []


def readable(found: list[Found], to_do: str) -> list[Found]:
    """Those that can be read; refused where none can, with why."""
    good = [one for one in found if one.info is not None]
    if not good:
        raise nothing_found(found, to_do)
    return good


def nothing_found(found: list[Found], to_do: str) -> UmbraxError:
    told = next((one.problem for one in found if one.problem), "there are no pictures there")
    return UmbraxError("nothing-found", f"nothing can be {to_do}: {told}")


def found_data(found: list[Found]) -> list[FoundData]:
    older = older_ones(found)
    return [_found_data(one, one.path in older) for one in found]


def _found_data(one: Found, older: bool) -> FoundData:
    info, whole = one.info, one.whole
    kinds: dict[str, int] = {}
    for placed in whole.placed.values() if whole else ():
        kinds[placed.found.kind] = kinds.get(placed.found.kind, 0) + 1
    holes = [HoleData(first=first, last=last) for first, last in one.missing]
    return FoundData(
        name=one.name, path=str(one.path), first=one.frames[0] if one.frames else None, last=one.frames[-1] if one.frames else None,
        frames=len(one.frames) or 1, missing=holes, width=info.display.width if info else 0, height=info.display.height if info else 0,
        passes=len(whole.placed) if whole else 0, kinds=kinds, ids=len(whole.ids) if whole else 0,
        problem=one.problem and without_folders(one.problem), key=info.identity[:32] if info else "",
        attached=list(one.attached), movie=is_movie(one.path), older=older,
    )  # fmt: skip


def media_roots() -> Roots:
    return Roots([*state().settings.roots, *state().added_folders()])
