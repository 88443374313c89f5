"""Opening picture files: what cannot be read is told in one line that names it; what they are known again by."""

import hashlib
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import OpenImageIO as oiio
import structlog

from umbrax.core.errors import Cancelled, UmbraxError, Where

from .file_info import FileInfo
from .openfiles import too_many


def identity_of(path: Path) -> str:
    """Path, size and time of change: known at once, different whenever the pixels may be."""
    stat = os.stat(path)
    return hashlib.sha256(f"{path.resolve()}\0{stat.st_size}\0{stat.st_mtime_ns}".encode()).hexdigest()[:32]


def is_unchanged(info: FileInfo) -> bool:
    """Whether the file is still the one that was looked into."""
    try:
        return info.identity.startswith(identity_of(Path(info.path)))
    except OSError:
        return False


def bad_file(path: Path, why: str) -> UmbraxError:
    reason = " ".join(why.replace(str(path), path.name).split()) or "not a picture file"
    return UmbraxError(
        "bad-file",
        f"cannot read {path.name!r}: {reason[:200]}; check the file or render it again",
        where=Where(file=str(path)),
    )


@contextmanager
def reading(path: Path) -> Iterator[None]:
    """Whatever goes wrong in here is the file's fault, and is told in one line that names it.

    Files come from anywhere, and libraries answer to damaged ones with errors of many kinds.
    """
    try:
        yield
    except (UmbraxError, Cancelled):
        raise
    except MemoryError as error:
        raise bad_file(path, "it takes more memory than there is") from error
    except Exception as error:
        if isinstance(error, OSError) and (told := too_many(error)):
            raise told from error
        why = getattr(error, "strerror", None)  # of the system and of the movie library
        if not why:
            structlog.get_logger().warning("a damaged file", file=str(path), why=repr(error)[:200])
        raise bad_file(path, why or "its header is damaged") from error


def as_text(value: Any, others: str = "latin-1") -> str:
    """A name as text, of a file or in one: bytes that are no UTF-8 are read as `others`."""
    text = str(value)
    try:
        text.encode()
    except UnicodeEncodeError:
        return text.encode("utf-8", "surrogateescape").decode(others)
    return text


def bad_name(shown: Path) -> UmbraxError:
    return UmbraxError("bad-name", f"the name of {shown.name!r} is not in UTF-8; rename it", where=Where(file=str(shown)))


def check_there(path: Path) -> None:
    """Refuse what is not there, not a file or not ours to read, each in its own words."""
    shown = as_text(path)
    if shown != str(path):
        raise bad_name(Path(shown))
    if not path.exists():
        raise UmbraxError(
            "missing-file",
            f"there is no file {path.name!r} in {str(path.parent)!r}; check the path or the frame range",
            where=Where(file=str(path)),
        )
    if not path.is_file():
        raise UmbraxError(
            "not-a-file",
            f"{path.name!r} is not a file; name a picture file or a {{frame:04d}} pattern",
            where=Where(file=str(path)),
        )
    if not os.access(path, os.R_OK):
        raise UmbraxError("no-permission", f"no permission to read {path.name!r}; change its permissions", where=Where(file=str(path)))


def open_input(path: Path) -> Any:
    """An open OpenImageIO input; alpha is left as the file has it."""
    check_there(path)
    config = oiio.ImageSpec()
    config.attribute("oiio:UnassociatedAlpha", 1)
    found = oiio.ImageInput.open(str(path), config)
    if found is None:
        raise bad_file(path, oiio.geterror())
    return found
