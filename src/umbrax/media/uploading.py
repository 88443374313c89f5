"""Files that come in pieces: kept apart until they are whole, then put under their name; a broken-off one goes on."""

import contextlib
import fcntl
import json
import os
import re
import time
import uuid
from collections.abc import Iterable
from dataclasses import dataclass, replace
from io import FileIO
from pathlib import Path

from umbrax.core.errors import UmbraxError

from .disk import disk_full, is_full

LARGEST = 64 << 30
PARTIAL = ".partial"
DEEPEST = 8  # folders in folders
KEPT_SECONDS = 24 * 3600
LONGEST = 200  # bytes of a name: file systems take 255, and a number may be put to it


@dataclass(frozen=True)
class Upload:
    """`folder` is the batch and the folders the file lay in; `offset` the size of what is on disk: nothing else says how far it is."""

    id: str
    folder: str
    name: str
    length: int
    offset: int


class Uploads:
    """Uploads under one folder; each batch becomes a folder of its own."""

    def __init__(self, folder: Path):
        self.folder = folder

    def begin(self, name: str, batch: str, length: int, inside: str = "") -> Upload:
        """Make room for a file of a batch, `inside` the folders it came in; its name loses every folder in front of it."""
        if not 0 < length <= LARGEST:
            raise UmbraxError("bad-size", f"cannot take {name!r} of {length} bytes; files of up to {LARGEST >> 30} GB can be brought in")
        below = [_plain(part, "folder") for part in re.split(r"[/\\]", inside)[:DEEPEST] if part]
        made = Upload(uuid.uuid4().hex, "/".join([_plain(batch, "upload"), *below]), _plain(name, "file"), length, 0)
        self._partial(made.id).parent.mkdir(parents=True, exist_ok=True)
        self._forget_old()
        self._partial(made.id).touch()
        self._tell(made)
        return made

    def _tell(self, upload: Upload) -> None:
        told = {"folder": upload.folder, "name": upload.name, "length": upload.length}
        self._partial(upload.id).with_suffix(".json").write_text(json.dumps(told))

    def _forget_old(self) -> None:
        """Uploads that nobody has gone on with for a day give their room back."""
        for path in (self.folder / PARTIAL).iterdir():
            with contextlib.suppress(OSError):
                if path.stat().st_mtime < time.time() - KEPT_SECONDS:
                    path.unlink()

    def find(self, upload: str) -> Upload:
        """How far an upload is."""
        path = self._partial(upload)
        try:
            told = json.loads(path.with_suffix(".json").read_text())
        except (OSError, ValueError):
            raise _no_upload() from None
        final = self.folder / told["folder"] / told["name"]
        offset = path.stat().st_size if path.exists() else final.stat().st_size if final.exists() else 0
        return Upload(upload, told["folder"], told["name"], told["length"], offset)

    def append(self, upload: str, offset: int, pieces: Iterable[bytes]) -> Upload:
        """Add bytes at the end; refused where the end is elsewhere. Whole, the file is renamed into its batch."""
        found = self.find(upload)
        path, left = self._partial(upload), found.length - offset
        if not path.exists():  # whole, and under its name
            if offset != found.offset or any(pieces):
                raise _elsewhere(found.offset, offset)
            return found
        with open(path, "ab", buffering=0) as file:
            _lock(file, found.name)
            if file.tell() != offset:
                raise _elsewhere(file.tell(), offset)
            try:
                for piece in pieces:
                    if len(piece) > left:
                        raise UmbraxError("too-long", f"{found.name!r} is longer than it said; start it again")
                    rest = memoryview(piece)
                    while rest:
                        rest = rest[file.write(rest) or 0 :]
                    left -= len(piece)
                if left == 0:
                    os.fsync(file.fileno())
            except OSError as error:
                raise (disk_full(repr(found.name)) if is_full(error) else error) from error
        if left == 0:
            self._place(found)
        return self.find(upload)

    def _place(self, whole: Upload) -> None:
        """Put a whole file under its name; what lies there under the same one stays, and this one's folder gets a number."""
        batch, _, below = whole.folder.partition("/")
        for number in range(1, 1000):
            folder = "/".join(part for part in (batch if number == 1 else f"{batch}-{number}", below) if part)
            final = self.folder / folder / whole.name
            # where a file is called as the folder would be, as where one has that name already
            with contextlib.suppress(FileExistsError, NotADirectoryError):
                final.parent.mkdir(parents=True, exist_ok=True)
                os.link(self._partial(whole.id), final)  # unlike a renaming this never takes the place of a file
                self._tell(replace(whole, folder=folder))
                self._partial(whole.id).unlink()
                return
        raise UmbraxError("taken-name", f"there are too many files {whole.name!r} in {batch!r}; bring it in under another name")

    def _partial(self, upload: str) -> Path:
        if not re.fullmatch(r"[0-9a-f]{32}", upload):
            raise _no_upload()
        return self.folder / PARTIAL / f"{upload}.bin"


def _lock(file: FileIO, name: str) -> None:
    """One writer an upload: a connection that broke may still be writing when the next one comes."""
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        message = f"{name!r} is being written by another connection; try again in a moment"
        raise UmbraxError("busy-upload", message, status=423) from None


def _no_upload() -> UmbraxError:
    return UmbraxError("no-upload", "there is no such upload; start it again", status=404)


def _elsewhere(wanted: int, offset: int) -> UmbraxError:
    message = f"expected bytes from {wanted}, got them from {offset}; ask how far it is and go on there"
    return UmbraxError("bad-offset", message, status=409)


def _plain(name: str, otherwise: str) -> str:
    """One path component without control characters, never hidden, and no longer than a file system takes; its ending stays."""
    last = re.split(r"[/\\]", name)[-1]
    cleaned = "".join(c for c in last if c.isprintable() and c not in "{}").strip().lstrip(".")
    stem, dot, ending = cleaned.rpartition(".")
    if not dot or len(ending.encode()) > LONGEST // 4:
        stem, dot, ending = cleaned, "", ""
    room = LONGEST - len((dot + ending).encode())
    return stem.encode()[:room].decode("utf-8", "ignore") + dot + ending or otherwise
