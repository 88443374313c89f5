"""Pictures of a server brought here: the frames and movies that it has written, and looks."""

import contextlib
import os
from collections.abc import Iterable, Iterator
from email.message import Message
from email.utils import parsedate_to_datetime
from pathlib import Path
from typing import Any, NamedTuple

import requests

from umbrax.core.errors import UmbraxError

from .server import Server

PIECE = 1 << 20


class Fetched(NamedTuple):
    """A file of a frame; `fresh` where it was not there already."""

    frame: int
    path: Path
    fresh: bool


def fetch_frames(server: Server, render: dict[str, Any], frames: Iterable[int], folder: Path) -> Iterator[Fetched]:
    """The files of some finished frames of a render, each whole before it gets its name; what is there already is not fetched again.

    `render` is as the server tells of it. Raises UmbraxError where the folder cannot be written to.
    """
    with _writing_to(folder):
        folder.mkdir(parents=True, exist_ok=True)
        for frame in frames:
            for number in range(render["files"]):
                with server.asked("GET", f"/renders/{render['id']}/frames/{frame}", params={"file": number}) as answer:
                    yield Fetched(frame, *_kept(answer, folder))


def fetch_movie(server: Server, render_id: int, folder: Path) -> tuple[Path, bool]:
    """The movie of a render, whole before it gets its name; False where it was there already."""
    with _writing_to(folder):
        folder.mkdir(parents=True, exist_ok=True)
        with server.asked("GET", f"/renders/{render_id}/download-movie") as answer:
            return _kept(answer, folder)


def keep_look(server: Server, shot_id: int, order: dict[str, Any], out: Path) -> str | None:
    """Write a look into a file. What was left out of it, if anything was. Raises UmbraxError where it cannot be written."""
    with _writing_to(out.parent), server.asked("POST", f"/shots/{shot_id}/look", json=order) as answer:
        out.parent.mkdir(parents=True, exist_ok=True)
        _write_whole(answer, out)
        return answer.headers.get("X-Problem")


@contextlib.contextmanager
def _writing_to(folder: Path) -> Iterator[None]:
    try:
        yield
    except OSError as error:
        raise UmbraxError("cannot-write", f"cannot write to {str(folder)!r}: {error.strerror or error}; check the folder") from None


def _kept(answer: requests.Response, folder: Path) -> tuple[Path, bool]:
    """The file of an answer, and whether it had to be read: one of the same size and time is it already."""
    path = folder / _name(answer)
    size, changed = int(answer.headers["Content-Length"]), parsedate_to_datetime(answer.headers["Last-Modified"]).timestamp()
    with contextlib.suppress(FileNotFoundError):
        here = path.stat()
        if here.st_size == size and here.st_mtime == changed:
            return path, False
    _write_whole(answer, path, changed)
    return path, True


def _write_whole(answer: requests.Response, path: Path, changed: float | None = None) -> None:
    """What an answer holds, as a file that gets its name when it is whole."""
    part = path.with_name(f".{path.name}.part")
    try:
        with part.open("wb") as file:
            for piece in answer.iter_content(PIECE):
                file.write(piece)
        if changed is not None:
            os.utime(part, (changed, changed))
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)


def _name(answer: requests.Response) -> str:
    """What a file is called, without any folder before it."""
    header = Message()
    header["Content-Disposition"] = answer.headers.get("Content-Disposition", "")
    name = Path((header.get_filename() or "").replace("\\", "/")).name
    if not name or name.startswith("."):
        raise UmbraxError("bad-answer", f"the server calls a file {name!r}; fetch the frames in the page")
    return name
