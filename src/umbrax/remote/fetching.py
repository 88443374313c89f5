"""Frames that a server has written, brought into a folder here."""

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
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for frame in frames:
            for number in range(render["files"]):
                with server.asked("GET", f"/renders/{render['id']}/frames/{frame}", params={"file": number}) as answer:
                    yield Fetched(frame, *_kept(answer, folder))
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
    part = path.with_name(f".{path.name}.part")
    try:
        with part.open("wb") as file:
            for piece in answer.iter_content(PIECE):
                file.write(piece)
        os.utime(part, (changed, changed))
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)
    return path, True


def _name(answer: requests.Response) -> str:
    """What a file is called, without any folder before it."""
    header = Message()
    header["Content-Disposition"] = answer.headers.get("Content-Disposition", "")
    name = Path((header.get_filename() or "").replace("\\", "/")).name
    if not name or name.startswith("."):
        raise UmbraxError("bad-answer", f"the server calls a file {name!r}; fetch the frames in the page")
    return name
