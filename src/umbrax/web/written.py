"""What renders have written, to fetch and to look at: frames, all of them in one zip, movies."""

import io
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from flask import send_file
from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.errors import UmbraxError
from umbrax.core.views import looking
from umbrax.jobs.written import files_of, movie_of
from umbrax.media.files import inspect
from umbrax.media.finished import finished_light
from umbrax.media.writing import holds_light
from umbrax.store import renders as store
from umbrax.store.refusals import gone

from . import encoding
from .handoff import RenderPath
from .state import state

SHOWN_AS_IT_IS = (".png", ".jpg")

api = APIBlueprint("written", __name__, url_prefix="/api", abp_tags=[Tag(name="handoff")])


class FilePath(RenderPath):
    frame: int


class FileQuery(BaseModel):
    file: int = Field(0, ge=0, le=1000, description="which of the frame's files, from 0")


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
    """One finished frame to look at, read back from its file: PNG and JPEG as they are, EXR through the view of its shot; in the shape it has
    where its pixels are not square."""
    file = _finished(path)
    aspect = inspect(file).pixel_aspect
    if file.suffix in SHOWN_AS_IT_IS and aspect == 1:
        response = send_file(file)
    else:
        row = store.get_render(state().database, path.render_id)
        view = "srgb" if row.mattes or not holds_light(file) else state().shot(row.shot_id, row.revision).colour.view
        codes = encoding.in_shape(looking(finished_light(file), view=view), aspect)
        response = Response(encoding.jpeg(codes, 92), mimetype="image/jpeg")
    response.cache_control.max_age = 0
    response.cache_control.private = True
    return response


@api.get("/renders/<int:render_id>/download-movie")
def get_movie(path: RenderPath) -> Response:
    """The movie of a render."""
    file = _movie(path)
    return send_file(file, as_attachment=True, download_name=file.name)


@api.get("/renders/<int:render_id>/watch")
def watch_movie(path: RenderPath) -> Response:
    """The movie of a render to be played in the page, which asks for parts of it."""
    response = send_file(_movie(path), conditional=True)
    response.cache_control.private = True
    return response


def _movie(path: RenderPath) -> Path:
    row = store.get_render(state().database, path.render_id)
    if row.movie is None or row.movie_bytes is None or not movie_of(row).exists():
        raise gone("no-file", "there is no movie of this render; wait for it or have one made")
    return movie_of(row)


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
