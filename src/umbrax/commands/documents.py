"""Shot documents as files."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from umbrax.core.document.shot import Shot
from umbrax.core.document.text import read_text
from umbrax.core.document.words import named
from umbrax.core.errors import UmbraxError, Where


def read_shot(path: Path) -> Shot:
    """A shot document from a file, with the file named in every error."""
    try:
        text = path.read_text("utf-8")
    except FileNotFoundError:
        raise UmbraxError("missing-file", f"there is no file {str(path)!r}; check the path") from None
    except (OSError, UnicodeDecodeError) as error:
        reason = error.strerror if isinstance(error, OSError) else "it is not UTF-8 text"
        raise UmbraxError("bad-file", f"cannot read {str(path)!r}: {reason}; check the file") from None
    try:
        return read_text(text)
    except UmbraxError as error:
        raise error.at(Where(file=str(path))) from None


@contextmanager
def in_words(shot: Shot) -> Iterator[None]:
    """Errors in the block name the card and treatment as people do."""
    try:
        yield
    except UmbraxError as error:
        error.where = named(shot, error.where)
        raise
