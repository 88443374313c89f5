"""The folders that pictures may be read from. Links are followed before anything is compared, here and nowhere else."""

import os
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

from umbrax.core.errors import UmbraxError, Where
from umbrax.settings import Settings

from .sequences import is_pattern

LONGEST_NAME, LONGEST_PATH = 255, 4096  # bytes, on Linux
DEEP = 60  # folders in one another: a path that is not there is followed by one step for each


class Roots:
    """Media folders as they really are, and links in them as they were first found: it is made for one answer, and not kept.

    A link inside one that leads out of all of them counts as if it were not there.
    """

    def __init__(self, folders: Iterable[Path]):
        self.folders = tuple(dict.fromkeys(Path(_resolved(str(folder))) for folder in folders))
        self._inside = tuple((root, str(root), os.path.join(root, "")) for root in self.folders)
        self._real: dict[str, str] = {}
        self._real_folders: dict[str, str] = {itself: itself for _, itself, _ in self._inside}

    def _followed(self, text: str) -> str:
        if text not in self._real:
            self._real[text] = _real_path(text, self._folder)
        return self._real[text]

    def _folder(self, text: str) -> str:
        """A folder with its links followed: many paths share one."""
        if text not in self._real_folders:
            self._real_folders[text] = _resolved(text, self._folder)
        return self._real_folders[text]

    def root_of(self, path: Path) -> Path | None:
        """The media folder that a path, with its links followed, lies in."""
        real = self._followed(str(path))
        return next((root for root, itself, inside in self._inside if real.startswith(inside) or real == itself), None)

    def holds(self, path: Path) -> bool:
        return self.root_of(path) is not None

    def _held(self, path: Path) -> Path | None:
        """A path with its links followed; None where these lead outside."""
        return Path(self._followed(str(path))) if self.holds(path) else None

    def check(self, path: Path) -> Path:
        """A path or pattern with its links followed; refused where it leads outside."""
        if (real := self._held(path)) is None:
            message = f"{str(path)!r} is in none of the media folders; move the files into one, or add its folder to them"
            raise UmbraxError("outside", message, where=Where(file=str(path)))
        return real

    def places_of(self, text: str) -> Iterator[Path]:
        """What a path may mean, beginning at each folder in turn; without what leads outside."""
        return (real for root in self.folders if (real := self._held(root / text)) is not None)

    def first_of(self, text: str, is_there: Callable[[Path], bool]) -> Path | None:
        """The first of these that is there; links are followed only then."""
        for path in (root / text for root in self.folders):
            _check_text(str(path))
            if is_there(path) and (real := self._held(path)) is not None:
                return real
        return None


def roots_of_show(settings: Settings, show_folder: str, added: Iterable[Path] = ()) -> list[Path]:
    """Where the sources of a show are looked for, its own folder first; `added` are folders that no setting names.

    A show's folder gives no right of its own: one that lies in no media folder, or in none any more, is left out.
    """
    known = [*settings.roots, *added, settings.baked]
    own = Path(show_folder)
    return [own, *known] if Roots(known).holds(own) else known


def real_path(path: Path) -> Path:
    """A path with its links followed; of a pattern, those of the folder, since each of its files may be a link of its own."""
    return Path(_real_path(str(path), _resolved))


def _real_path(text: str, folder: Callable[[str], str]) -> str:
    """The same of a path as Python writes it, where `folder` follows that of its folder."""
    above, name = os.path.split(text)
    _check_text(text)
    try:
        if name in ("", ".", ".."):
            return _resolved(text)
        place = os.path.join(folder(above or "."), name)
        return _resolved(place) if not is_pattern(name) and os.path.islink(place) else place
    except RuntimeError:  # what a ring of links is to Python 3.11
        raise _bad(text, "its links lead in a ring") from None


def _check_text(text: str) -> None:
    """Refuse what no path can be."""
    if len(text) <= LONGEST_NAME and text.isascii():
        return
    try:
        path = os.fsencode(text)
    except UnicodeEncodeError:  # a lone surrogate
        raise _bad(text, "it holds what is no character") from None
    if len(path) > LONGEST_PATH or max(map(len, path.split(b"/"))) > LONGEST_NAME:
        raise _bad(text, "it is longer than a path can be")


def _resolved(text: str, folder: Callable[[str], str] | None = None) -> str:
    """What Path.resolve gives, asked of the system where it can say (open(2): O_PATH; proc(5): /proc/self/fd), in a quarter of the time.

    Of what is not there, where `folder` follows that of its folder, only its own name is looked at.
    """
    try:
        handle = os.open(text, os.O_PATH | os.O_CLOEXEC)
    except (OSError, ValueError) as error:
        above, name = os.path.split(text)
        plain = isinstance(error, FileNotFoundError) and above and name not in ("", ".", "..") and text.count("/") < DEEP
        if folder is None or not plain or os.path.islink(text):
            return str(Path(text).resolve())
        return os.path.join(folder(above), name)
    try:
        real = os.readlink(f"/proc/self/fd/{handle}")
    except OSError:
        return str(Path(text).resolve())
    finally:
        os.close(handle)
    # what was replaced at this moment has no path any more
    return real if real.startswith("/") and not real.endswith(" (deleted)") else str(Path(text).resolve())


def _bad(text: str, why: str) -> UmbraxError:
    shown = text.encode("utf-8", "replace").decode()
    return UmbraxError("bad-path", f"cannot follow the path {shown[:200]!r}: {why}; check it")
