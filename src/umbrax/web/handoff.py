"""Hand-off: ordering renders, following, cancelling and trying them again, and fetching what was written."""

import io
import re
import zipfile
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import Any, Literal

from flask import send_file
from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.document.words import named
from umbrax.core.errors import UmbraxError, Where
from umbrax.jobs.cutting import defer_render
from umbrax.jobs.queue import forget_waiting
from umbrax.jobs.written import files_of
from umbrax.media.decoding import read_picture
from umbrax.media.sequences import frame_range
from umbrax.render.matte_files import MatteOrder, Pack, checked_mattes
from umbrax.render.output import RenderOrder, checked
from umbrax.store import renders as store
from umbrax.store.people import Role
from umbrax.store.refusals import gone
from umbrax.store.shots import get_shot

from . import encoding
from .people.identity import who
from .shots import ShotPath, answered
from .state import state
from .telling import without_folders

api = APIBlueprint("handoff", __name__, url_prefix="/api", abp_tags=[Tag(name="handoff")])
MOST_FRAMES = 100_000


class RenderPath(BaseModel):
    render_id: int


class FilePath(RenderPath):
    frame: int


class FileQuery(BaseModel):
    file: int = Field(0, ge=0, le=1000, description="which of the frame's files, from 0")


class RenderRequest(BaseModel):
    """What to write; frames as 1001-1024, 1001,1005, or empty for the whole shot."""

    revision: int
    frames: str = ""
    format: Literal["exr", "png"] = "exr"
    type: Literal["half", "float", "8", "16"] | None = None
    upto: str | None = None
    mattes: list[str] = Field(default_factory=list, max_length=200, description="write these mattes instead of the picture")
    pack: Literal["single", "rgb", "rgba", "named"] = Field("single", description="how several mattes are put into files")
    raise_alpha: bool = Field(True, description="where a format cannot hold light without alpha, alpha is raised to its brightness")


class BakeRequest(BaseModel):
    """Mattes to be written once for speed, on all frames of the shot."""

    revision: int
    mattes: list[str] = Field(min_length=1, max_length=200)


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
    what: str
    message: str | None
    note: str | None
    seconds: float
    bytes: int
    created_at: datetime


class RenderList(BaseModel):
    renders: list[RenderData]


def render_data(row: store.RenderRow) -> RenderData:
    message = None
    if row.error:
        where = named(state().shot(row.shot_id, row.revision), Where(card=row.error.get("card"), frame=row.error.get("frame")))
        place = ", ".join(f"{key} {value}" for key, value in (("card", where.card), ("frame", where.frame)) if value is not None)
        message = without_folders(row.error["message"]) + (f" ({place})" if place else "")
    return RenderData(
        id=row.id, shot_id=row.shot_id, revision=row.revision, first=min(row.frames), last=max(row.frames), total=len(row.frames),
        done=row.done, failed=row.failed, priority=row.priority, ordered_by=row.ordered_by,
        role=who().role(row.show_id) or "look", state=row.state,
        cancelling=row.cancel and row.state == "running", file_name=row.file_name,
        files=max([1, *(len(names) for names in row.written)]),
        type=row.pixel_type, what=_what(row), message=message, note=row.note, seconds=row.seconds, bytes=row.bytes, created_at=row.created_at,
    )  # fmt: skip


def _what(row: store.RenderRow) -> str:
    shot = state().shot(row.shot_id, row.revision)
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
    kind = body.type or ("half" if body.format == "exr" else "8")
    pack = None if not body.mattes else body.pack if len(body.mattes) > 1 else "single"
    name = f"{_stem(get_shot(shared.database, path.shot_id).name, body.mattes, pack)}.{{frame:04d}}.{body.format}"
    if pack is None:
        checked(shot, RenderOrder(tuple(frames), name, body.upto, None, kind))
    else:
        checked_mattes(shot, MatteOrder(tuple(frames), name, tuple(body.mattes), pack, kind))
    mattes = [shot.matte(one) for one in body.mattes]
    render_id = store.add_render(
        shared.database, path.shot_id, body.revision, frames, "", name, kind, body.upto, mattes, pack, body.raise_alpha
    )
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


def _finished(path: FilePath, number: int = 0) -> Path:
    """One of a frame's files."""
    row = store.get_render(state().database, path.render_id)
    files = files_of(row, path.frame)
    if number >= len(files):
        raise gone("no-file", f"frame {path.frame} has {len(files)} files, from 0, and none of number {number}")
    file = files[number]
    if path.frame not in row.done or not file.exists():
        raise gone("no-file", f"frame {path.frame} is not there yet; wait for it or render again")
    return file


@api.get("/renders/<int:render_id>/frames/<int(signed=True):frame>")
def get_frame(path: FilePath, query: FileQuery) -> Response:
    """One of the files of a finished frame."""
    file = _finished(path, query.file)
    return send_file(file, as_attachment=True, download_name=file.name)


@api.get("/renders/<int:render_id>/stills/<int(signed=True):frame>")
def get_still(path: FilePath) -> Response:
    """One finished frame to look at, read back from its file: PNG as it is, EXR through the sRGB view."""
    file = _finished(path)
    if file.suffix == ".png":
        response = send_file(file, mimetype="image/png")
    else:
        response = Response(encoding.jpeg(encoding.as_eight_bits(read_picture(file), "colour", 0.0), 92), mimetype="image/jpeg")
    response.cache_control.max_age = 0
    response.cache_control.private = True
    return response


@api.get("/renders/<int:render_id>/download")
def download(path: RenderPath) -> Response:
    """All finished frames in one zip, streamed file by file."""
    row = store.get_render(state().database, path.render_id)
    files = [file for frame in row.done for file in files_of(row, frame) if file.exists()]
    if not files:
        raise UmbraxError("no-file", "nothing is finished yet; wait for the first frame")
    stem = row.file_name.split(".", 1)[0]
    name = "mattes" if "{" in stem else stem
    return Response(
        _zipped(files, name),
        mimetype="application/zip",
        headers={"Content-Disposition": f'attachment; filename="{name}.zip"'},
    )


class _Drain(io.RawIOBase):
    """A file that only remembers what was written since it was last emptied."""

    def __init__(self) -> None:
        self.chunks: list[bytes] = []
        self.at = 0

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        self.chunks.append(bytes(data))
        self.at += len(data)
        return len(data)

    def tell(self) -> int:
        return self.at

    def empty(self) -> bytes:
        data, self.chunks = b"".join(self.chunks), []
        return data


def _zipped(files: list[Any], folder: str) -> Iterator[bytes]:
    drain = _Drain()
    with zipfile.ZipFile(drain, "w", zipfile.ZIP_STORED) as archive:
        for file in files:
            archive.write(file, f"{folder}/{file.name}")
            yield drain.empty()
    yield drain.empty()
