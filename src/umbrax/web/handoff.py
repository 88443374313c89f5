"""Hand-off: ordering renders, following, cancelling and trying them again, and fetching what was written."""

import re
from datetime import datetime
from pathlib import Path
from typing import Literal

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.colour import WORKING
from umbrax.core.document.shot import Shot
from umbrax.core.document.words import named
from umbrax.core.errors import UmbraxError, Where
from umbrax.jobs.cutting import defer_render
from umbrax.jobs.queue import forget_waiting
from umbrax.jobs.written import movie_of
from umbrax.media.movie_writing import CODINGS, MovieKind
from umbrax.media.sequences import frame_range
from umbrax.media.writing import Space, pixel_type
from umbrax.render.matte_files import MatteOrder, Pack, checked_mattes
from umbrax.render.output import RenderOrder, checked, space_of
from umbrax.store import renders as store
from umbrax.store.people import Role
from umbrax.store.shots import get_shot

from .people.identity import who
from .shots import ShotPath, answered
from .state import state
from .telling import without_folders

api = APIBlueprint("handoff", __name__, url_prefix="/api", abp_tags=[Tag(name="handoff")])
MOST_FRAMES = 100_000
Format = Literal["exr", "png", "tiff", "jpeg"]
ENDINGS: dict[Format, str] = {"exr": ".exr", "png": ".png", "tiff": ".tif", "jpeg": ".jpg"}


class RenderPath(BaseModel):
    render_id: int


class RenderRequest(BaseModel):
    """What to write; frames as 1001-1024, 1001,1005, or empty for the whole shot."""

    revision: int
    frames: str = ""
    format: Format = "exr"
    type: Literal["half", "float", "8", "16"] | None = None
    scale: Literal[1, 2, 4, 8] = Field(1, description="what is written has 1/scale of the size")
    upto: str | None = None
    mattes: list[str] = Field(default_factory=list, max_length=200, description="write these mattes instead of the picture")
    pack: Literal["single", "rgb", "rgba", "named"] = Field("single", description="how several mattes are put into files")
    movie: MovieKind | None = Field(None, description="a movie that is made of the frames when all are there; of the picture, or of one matte")
    caption: bool = Field(False, description="write the shot's name, frame and revision into the pictures of the movie")
    space: Space | None = Field(None, description="the primaries that EXR is written in; by default those that the shot works in")
    raise_alpha: bool = Field(True, description="where a format cannot hold light without alpha, alpha is raised to its brightness")


class BakeRequest(BaseModel):
    """Mattes to be written once for speed, on all frames of the shot."""

    revision: int
    mattes: list[str] = Field(min_length=1, max_length=200)


class MovieRequest(BaseModel):
    movie: MovieKind
    caption: bool = Field(False, description="write the shot's name, frame and revision into its pictures")


class MovieData(BaseModel):
    """The movie of a render: how many frames are in it, and how large it is once it is whole."""

    kind: MovieKind
    words: str
    file_name: str
    fps: float
    joined: int
    bytes: int | None


class RenderData(BaseModel):
    """A render and how far it is."""

    id: int
    shot_id: int
    revision: int
    first: int
    last: int
    total: int
    done: list[int]
    state: Literal["queued", "running", "paused", "done", "failed", "cancelled"]
    failed: list[int] = Field(description="frames that could not be made")
    priority: int
    ordered_by: str | None
    role: Role = Field(description="what whoever asks may do in its show")
    cancelling: bool
    file_name: str
    files: int = Field(description="a frame has so many files")
    type: str
    space: Space
    width: int = Field(description="of its frames, in pixels")
    height: int
    what: str
    message: str | None
    note: str | None
    seconds: float
    bytes: int
    movie: MovieData | None
    joinable: bool = Field(description="a movie can be made of its frames: they hold the picture, or one matte")
    created_at: datetime


class RenderList(BaseModel):
    renders: list[RenderData]


def render_data(row: store.RenderRow) -> RenderData:
    shot, message = state().shot(row.shot_id, row.revision), None
    size = shot.format.display.scaled(row.scale)
    if row.error:
        where = named(shot, Where(card=row.error.get("card"), frame=row.error.get("frame")))
        place = ", ".join(f"{key} {value}" for key, value in (("card", where.card), ("frame", where.frame)) if value is not None)
        message = without_folders(row.error["message"]) + (f" ({place})" if place else "")
    return RenderData(
        id=row.id, shot_id=row.shot_id, revision=row.revision, first=min(row.frames), last=max(row.frames), total=len(row.frames),
        done=row.done, failed=row.failed, priority=row.priority, ordered_by=row.ordered_by,
        role=who().role(row.show_id) or "look", state=row.state,
        cancelling=row.cancel and row.state == "running", file_name=row.file_name,
        files=max([1, *(len(names) for names in row.written)]),
        type=row.pixel_type, what=_what(row, shot), message=message, note=row.note, seconds=row.seconds, bytes=row.bytes,
        movie=_movie(row, shot), joinable=_joinable(row.mattes, row.pack), space=row.space, width=size.width, height=size.height,
        created_at=row.created_at,
    )  # fmt: skip


def _movie(row: store.RenderRow, shot: Shot) -> MovieData | None:
    if row.movie is None:
        return None
    kind: MovieKind = row.movie  # type: ignore[assignment]
    return MovieData(
        kind=kind, words=CODINGS[kind].words, file_name=movie_of(row).name, fps=shot.format.rate, joined=row.joined, bytes=row.movie_bytes
    )


def _joinable(mattes: list[str], pack: str | None) -> bool:
    return len(mattes) <= 1 and pack != "baked"


def _not_joinable() -> UmbraxError:
    return UmbraxError("bad-movie", "a movie holds the picture, or one matte; render several mattes as frames, or one by one")


def _what(row: store.RenderRow, shot: Shot) -> str:
    if not row.mattes:
        return f"up to {shot.card(row.upto).shown_name}" if row.upto else "finished picture"
    told = f"matte {shot.matte_name(row.mattes[0])}" if len(row.mattes) == 1 else f"{len(row.mattes)} mattes"
    ways = {"rgb": ", three a file", "rgba": ", four a file", "named": ", by name", "baked": ", baked"}
    return told + ways.get(row.pack or "", "")


@api.get("/shots/<int:shot_id>/renders", responses={200: RenderList})
def list_renders(path: ShotPath) -> Response:
    """The renders of a shot, newest first."""
    return answered(RenderList(renders=[render_data(row) for row in store.list_renders(state().database, path.shot_id)]))


@api.post("/shots/<int:shot_id>/renders", responses={200: RenderData})
def order_render(path: ShotPath, body: RenderRequest) -> Response:
    """Put a render into the queue."""
    shared = state()
    shot = shared.shot(path.shot_id, body.revision)
    frames = frame_range(body.frames, shot.format.first, shot.format.last)
    if len(frames) > MOST_FRAMES:
        raise UmbraxError("bad-frames", f"expected at most {MOST_FRAMES} frames, got {len(frames)}")
    pack = None if not body.mattes else body.pack if len(body.mattes) > 1 else "single"
    if body.movie and not _joinable(body.mattes, body.pack):
        raise _not_joinable()
    name = f"{_stem(get_shot(shared.database, path.shot_id).name, body.mattes, pack)}.{{frame:04d}}{ENDINGS[body.format]}"
    kind = pixel_type(Path(name), body.type)
    space: Space = WORKING
    if pack is None:
        order = RenderOrder(tuple(frames), name, body.upto, None, kind, body.scale, space=body.space)
        checked(shot, order)
        space = space_of(shot, order)
    else:
        checked_mattes(shot, MatteOrder(tuple(frames), name, tuple(body.mattes), pack, kind, body.scale))
    mattes = [shot.matte(one) for one in body.mattes]
    render_id = store.add_render(
        shared.database, path.shot_id, body.revision, frames, "", name, kind, body.upto, mattes, pack, body.raise_alpha,
        movie=body.movie, caption=body.caption, space=space, scale=body.scale,
    )  # fmt: skip
    return _queued(render_id, shared.settings.renders / f"{render_id:06d}")


@api.post("/shots/<int:shot_id>/bakes", responses={200: RenderData})
def order_bake(path: ShotPath, body: BakeRequest) -> Response:
    """Put the writing of mattes for speed into the queue; when it is done they are read from there."""
    shared = state()
    shot = shared.shot(path.shot_id, body.revision)
    frames = list(range(shot.format.first, shot.format.last + 1))
    name = f"{_stem(get_shot(shared.database, path.shot_id).name, body.mattes, 'baked')}.{{frame:04d}}.exr"
    mattes = [shot.matte(one) for one in body.mattes]
    checked_mattes(shot, MatteOrder(tuple(frames), name, tuple(mattes), "baked", "half"))
    render_id = store.add_render(shared.database, path.shot_id, body.revision, frames, "", name, "half", None, mattes, "baked")
    return _queued(render_id, shared.settings.baked / f"baked-{render_id:06d}")


def _queued(render_id: int, folder: Path) -> Response:
    store.set_folder(state().database, render_id, str(folder.resolve()))
    _defer(render_id)
    return told_of_render(render_id)


def told_of_render(render_id: int) -> Response:
    """A render as it is now."""
    return answered(render_data(store.get_render(state().database, render_id)))


def _stem(shot: str, mattes: list[str], pack: Pack | None) -> str:
    """How the files of a render begin."""
    if pack == "single":
        return _plain(mattes[0]) if len(mattes) == 1 else "{matte}"
    ends = {"rgb": "-mattes-{part}", "rgba": "-mattes-{part}", "named": "-mattes", "baked": "-mattes"}
    return _plain(shot) + ends.get(pack or "", "")


def _plain(name: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "shot"


def _defer(render_id: int) -> None:
    store.set_job(state().database, render_id, defer_render(state().database, render_id))


@api.get("/renders/<int:render_id>", responses={200: RenderData})
def get_render(path: RenderPath) -> Response:
    """How far a render is."""
    return told_of_render(path.render_id)


@api.post("/renders/<int:render_id>/cancel", responses={200: RenderData})
def cancel_render(path: RenderPath) -> Response:
    """Stop a render; the frames that are complete stay."""
    store.ask_to_cancel(state().database, path.render_id)
    forget_waiting(state().database, path.render_id)
    return told_of_render(path.render_id)


@api.post("/renders/<int:render_id>/retry", responses={200: RenderData})
def retry_render(path: RenderPath) -> Response:
    """Do the frames that are missing, of a render that failed, rests or was stopped."""
    row = store.get_render(state().database, path.render_id)
    if row.state in ("failed", "cancelled", "paused"):
        forget_waiting(state().database, path.render_id)
        store.reopen(state().database, path.render_id)
        _defer(path.render_id)
    return told_of_render(path.render_id)


@api.post("/renders/<int:render_id>/movie", responses={200: RenderData})
def order_movie(path: RenderPath, body: MovieRequest) -> Response:
    """Make a movie of the frames of a render that is done, in place of one that it has."""
    database, row = state().database, store.get_render(state().database, path.render_id)
    if not _joinable(row.mattes, row.pack):
        raise _not_joinable()
    if row.state in ("queued", "running", "paused"):
        raise UmbraxError("not-done", "a movie is made of all frames: wait until the render is done", status=409)
    forget_waiting(database, path.render_id)
    store.reopen(database, path.render_id)
    store.ask_for_movie(database, path.render_id, body.movie, body.caption)
    _defer(path.render_id)
    return told_of_render(path.render_id)
