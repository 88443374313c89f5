"""Files of this machine brought to a server by the open tus protocol, in pieces that a broken connection goes on with."""

import secrets
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import NamedTuple

from tusclient.client import TusClient
from tusclient.exceptions import TusCommunicationError

from umbrax.core.errors import UmbraxError

from .server import Server, error_in

PIECE = 16 << 20
TRIES, DELAY = 10, 3.0  # of a piece, and seconds between them


class Brought(NamedTuple):
    """A file here and the folders it lies in within what was named."""

    path: Path
    inside: str


def files_to_bring(paths: list[Path]) -> list[Brought]:
    """The files that are named, and those in folders that are, hidden ones left out. Raises UmbraxError where there are none."""
    found = []
    for path in paths:
        if path.is_dir():
            # one folder says nothing about its files, of several each does
            above = [] if len(paths) == 1 else [path.resolve().name]
            for file in sorted(path.rglob("*")):
                below = file.relative_to(path).parts
                if file.is_file() and not any(part.startswith(".") for part in below):
                    found.append(Brought(file, "/".join([*above, *below[:-1]])))
        elif path.is_file():
            found.append(Brought(path, ""))
        else:
            raise UmbraxError("missing-file", f"there is no file or folder {str(path)!r} here; check the path")
    if not found:
        raise UmbraxError("missing-file", "there are no files in what was named; check the folder")
    return found


def new_batch() -> str:
    """A name for what is brought together: it becomes a folder of its own on the server."""
    return f"sent-{datetime.now(UTC):%Y-%m-%d-%H-%M-%S}-{secrets.token_hex(2)}"


def upload(server: Server, files: list[Brought], batch: str) -> Iterator[Brought]:
    """Bring files one after the other; each is told of when it is there."""
    client = TusClient(f"{server.address}/api/uploads", headers=dict(server.headers))
    for one in files:
        told = {"filename": one.path.name, "batch": batch, "folder": one.inside}
        try:
            with one.path.open("rb") as file:
                client.uploader(file_stream=file, chunk_size=PIECE, metadata=told, retries=TRIES, retry_delay=DELAY).upload()
        except TusCommunicationError as error:
            raise UmbraxError("bad-upload", f"{one.path.name!r} could not be brought to the server: {_words(error)}") from None
        except OSError as error:
            raise UmbraxError("bad-file", f"cannot read {str(one.path)!r}: {error.strerror or error}; check the file") from None
        yield one


def _words(error: TusCommunicationError) -> str:
    """As the server says it, where it is ours."""
    told = error_in(error.response_content)
    return told.message if told else " ".join(str(error).split())[:200] or "no answer; check the address"
