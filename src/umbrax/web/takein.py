"""Taking in: what lies in the media folders, and making a shot of it."""

from pathlib import Path

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.document.edits import fresh_id
from umbrax.core.document.first_build import first_build
from umbrax.core.document.sources import PassSetting, Source
from umbrax.core.document.text import read_data
from umbrax.core.errors import UmbraxError
from umbrax.core.plan.reader import FrameInfo
from umbrax.media.adjusting import adjusted_info
from umbrax.media.finding import Found, find_here, find_in, folders_of
from umbrax.media.movies import is_movie, rate_of
from umbrax.store import shots as store

from .ordering import order_checkup
from .shots import ShotState, answered, shot_state
from .state import state

api = APIBlueprint("takein", __name__, url_prefix="/api", abp_tags=[Tag(name="take-in")])


class BrowseQuery(BaseModel):
    path: str = Field("", description="a folder inside one of the media folders; empty for these themselves")


class FolderData(BaseModel):
    name: str
    path: str


class FoundData(BaseModel):
    """A still or a sequence that can be taken in; `problem` says why it cannot."""

    name: str
    path: str
    first: int | None
    last: int | None
    frames: int
    missing: list[int]
    width: int
    height: int
    passes: int
    kinds: dict[str, int]
    ids: int
    problem: str | None
    attached: list[str] = Field(description="names of the files that are put together with it, one for each pass")
    movie: bool


class Browsed(BaseModel):
    """One folder: the way to it, the folders in it and the pictures in it."""

    path: str
    way: list[FolderData]
    folders: list[FolderData]
    found: list[FoundData]


class TakeInOrder(BaseModel):
    """Make a shot of pictures; a show of this name is used, or made."""

    show: str = Field(min_length=1, max_length=120)
    shot: str = Field(min_length=1, max_length=120)
    paths: list[str] = Field(min_length=1, max_length=200, description="files, patterns, movies, or folders, inside the media folders")
    apart: list[str] = Field(default_factory=list, description="of the paths, those whose files are not put together but become sources each")


@api.get("/media", responses={200: Browsed})
def browse(query: BrowseQuery) -> Response:
    """A folder of the media folders, with its sequences and stills put together."""
    shared = state()
    roots = [FolderData(name=root.name, path=str(root)) for root in _roots() if root.is_dir()]
    if not query.path:
        return answered(Browsed(path="", way=[], folders=roots, found=[]))
    folder, root = _inside(query.path)
    way = [FolderData(name=root.name, path=str(root))]
    for part in folder.relative_to(root).parts:
        way.append(FolderData(name=part, path=str(Path(way[-1].path) / part)))
    found = [_found(one) for one in find_here(folder, shared.engine.copies)]
    folders = [FolderData(name=f.name, path=str(f)) for f in folders_of(folder)]
    return answered(Browsed(path=str(folder), way=way, folders=folders, found=found))


@api.post("/take-in", responses={200: ShotState})
def take_in(body: TakeInOrder) -> Response:
    """Make a shot whose sources are these pictures, with a first build, and order its check-up."""
    shared = state()
    found = chosen_pictures(body.paths)
    for one in found:
        if str(one.path) in body.apart:
            found += one.attached.values()
            one.attached = {}
    good = [one for one in found if one.info is not None]
    if not good:
        told = next((one.problem for one in found if one.problem), "there are no pictures there")
        raise UmbraxError("nothing-found", f"nothing can be taken in: {told}")
    show = store.find_or_add_show(shared.database, body.show.strip(), str(Path(good[0].path).parent))
    shot = read_data(_document(body.shot.strip(), good, Path(show.folder), _remembered_kinds(show.id)))
    store.put_sources(shared.database, show.id, shot)
    shot_id = store.add_shot(shared.database, show.id, shot, command="take in")
    if shot_id is None:
        raise UmbraxError("shot-exists", f"the show {body.show!r} has a shot {body.shot!r} already; give this one another name")
    row = store.get_shot(shared.database, shot_id)
    order_checkup(shot_id, row.head)
    return answered(shot_state(row))


def _remembered_kinds(show_id: int) -> dict[str, str]:
    """The kinds that were given to passes by hand in the shots of a show, the newest last."""
    shared = state()
    rows = sorted((row for row in store.list_shots(shared.database) if row.show_id == show_id), key=lambda row: row.changed_at)
    return {
        name: setting.kind
        for row in rows
        if _is_readable(row)
        for source in shared.shot(row.id, row.head).sources.values()
        for name, setting in source.passes.items()
        if setting.kind is not None
    }


def _is_readable(row: store.ShotRow) -> bool:
    try:
        state().shot(row.id, row.head)
    except UmbraxError:
        return False
    return True


def _document(name: str, found: list[Found], folder: Path, known: dict[str, str]) -> dict[str, object]:
    infos: dict[str, FrameInfo] = {}
    sources: dict[str, dict[str, object]] = {}
    for one in found:
        assert one.info is not None
        key = fresh_id(infos, one.name)
        whole = one.whole
        assert whole is not None
        settings = {name: PassSetting(kind=known[name]) for name in whole.placed if name in known}
        infos[key] = adjusted_info(whole.frame_info(), Source(path=str(one.path), passes=settings))
        sources[key] = {"path": path_from(folder, one.path)}
        if one.attached:
            sources[key]["attached"] = {name: {"path": path_from(folder, other.path)} for name, other in one.attached.items()}
        if settings:
            sources[key]["passes"] = {name: {"kind": setting.kind} for name, setting in settings.items()}
    main = max(found, key=lambda one: (len(one.whole.placed) if one.whole else 0, not one.still))
    assert main.info is not None
    rendered = [one for one in found if not is_movie(one.path)]
    frames = [frame for one in rendered for frame in (one.frames[:1] + one.frames[-1:])] or main.frames or [1]
    rates = [rate_of(one.path) for one in found if is_movie(one.path)]
    layout: dict[str, object] = {"width": main.info.display.width, "height": main.info.display.height, "fps": rates[0] if rates else 24}
    layout |= {"first": min(frames), "last": max(frames)}
    for one, source in zip(found, sources.values(), strict=True):
        if is_movie(one.path) and min(frames) != one.frames[0]:
            source["offset"] = min(frames) - one.frames[0]
    return {"umbrax": 1, "name": name, "format": layout, "sources": sources, "build": first_build(infos)}


def path_from(folder: Path, path: Path) -> str:
    """A path as a shot writes it: from the show's folder where it lies in it."""
    return str(path.relative_to(folder) if path.is_relative_to(folder) else path)


def chosen_pictures(paths: list[str]) -> list[Found]:
    """Folders as a whole, files and patterns by their own names; each with what is put together with it."""
    copies = state().engine.copies
    folders: dict[Path, list[Found]] = {}
    found: list[Found] = []
    for place in (_inside(path)[0] for path in paths):
        if place.is_dir():
            found += find_in(place, copies)
            continue
        for folder in (place.parent, place.parent.parent):
            if folder not in folders:
                folders[folder] = find_here(folder, copies) if any(folder.is_relative_to(root) for root in _roots()) else []
            own = [one for one in folders[folder] if one.path == place]
            if own:
                found += own
                break
        else:
            raise UmbraxError("missing-file", f"there is no picture {place.name!r} in {place.parent.name!r}; choose it again")
    return found


def _found(one: Found) -> FoundData:
    info, whole = one.info, one.whole
    kinds: dict[str, int] = {}
    for placed in whole.placed.values() if whole else ():
        kinds[placed.found.kind] = kinds.get(placed.found.kind, 0) + 1
    return FoundData(
        name=one.name, path=str(one.path), first=one.frames[0] if one.frames else None, last=one.frames[-1] if one.frames else None,
        frames=len(one.frames) or 1, missing=one.missing, width=info.display.width if info else 0, height=info.display.height if info else 0,
        passes=len(whole.placed) if whole else 0, kinds=kinds, ids=len(whole.ids) if whole else 0, problem=one.problem,
        attached=list(one.attached), movie=is_movie(one.path),
    )  # fmt: skip


def _roots() -> list[Path]:
    return [root.resolve() for root in state().settings.roots]


def _inside(text: str) -> tuple[Path, Path]:
    """A path inside a media folder, and that folder."""
    real = inside_roots(text, _roots())
    return real, next(root for root in _roots() if real.is_relative_to(root))


def inside_roots(text: str, roots: list[Path]) -> Path:
    """A path or pattern with its links followed, refused where it leads outside all of these folders."""
    path = Path(text)
    real = (path.parent.resolve() / path.name) if "{" in path.name else path.resolve()
    if any(real.is_relative_to(root.resolve()) for root in roots):
        return real
    raise UmbraxError("outside", f"{text!r} is in none of the media folders; move the files into one, or add its folder to UMBRAX_MEDIA")
