"""The folders that pictures may be read from. Links are followed before anything is compared, here and nowhere else."""

import os
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

from umbrax.core.errors import UmbraxError, Where
from umbrax.settings import Settings

from .sequences import is_pattern

LONGEST_NAME, LONGEST_PATH = 255, 4096  # bytes, on Linux


class Roots:
    """Media folders as they really are, and links in them as they were first found: it is made for one answer, and not kept.

    A link inside one that leads out of all of them counts as if it were not there.
    """

    def __init__(self, folders: Iterable[Path]):
        self.folders = tuple(dict.fromkeys(map(_resolved, folders)))
        self._inside = tuple((root, os.path.join(root, "")) for root in self.folders)
        self._real: dict[str, Path] = {}
        self._real_folders: dict[str, Path] = {str(root): root for root in self.folders}

    def _followed(self, path: Path) -> Path:
        text = str(path)
        if text not in self._real:
            self._real[text] = _real_path(path, self._folder)
        return self._real[text]

    def _folder(self, path: Path) -> Path:
        text = str(path)
        if text not in self._real_folders:
            self._real_folders[text] = _resolved(path)
        return self._real_folders[text]

    def root_of(self, path: Path) -> Path | None:
        """The media folder that a path, with its links followed, lies in."""
        real = self._followed(path)
        text = str(real)
        return next((root for root, inside in self._inside if text.startswith(inside) or real == root), None)

    def holds(self, path: Path) -> bool:
        return self.root_of(path) is not None

    def check(self, path: Path) -> Path:
        """A path or pattern with its links followed; refused where it leads outside."""
        if not self.holds(path):
            message = f"{str(path)!r} is in none of the media folders; move the files into one, or add its folder to them"
            raise UmbraxError("outside", message, where=Where(file=str(path)))
        return self._followed(path)

    def places_of(self, text: str) -> Iterator[Path]:
        """What a path may mean, beginning at each folder in turn; without what leads outside."""
        for root in self.folders:
            if self.holds(path := root / text):
                yield self._followed(path)


def roots_of_show(settings: Settings, show_folder: str, added: Iterable[Path] = ()) -> list[Path]:
    """Where the sources of a show are looked for, its own folder first; `added` are folders that no setting names.

    A show's folder gives no right of its own: one that lies in no media folder, or in none any more, is left out.
    """
    known = [*settings.roots, *added, settings.baked]
    own = Path(show_folder)
    return [own, *known] if Roots(known).holds(own) else known


def real_path(path: Path) -> Path:
    """A path with its links followed; of a pattern, those of the folder, since each of its files may be a link of its own."""
    return _real_path(path, _resolved)


def _real_path(path: Path, folder: Callable[[Path], Path]) -> Path:
    """The same, where `folder` follows that of its folder: many paths share one."""
    try:
        text, name = str(path), path.name
        if (len(text) > LONGEST_NAME or not text.isascii()) and _is_too_long(os.fsencode(text)):
            raise _bad(path, "it is longer than a path can be")
        if name in ("", ".."):
            return _resolved(path)
        place = folder(path.parent) / name
        return _resolved(place) if not is_pattern(name) and os.path.islink(place) else place
    except (RuntimeError, UnicodeEncodeError) as error:  # what a ring of links is to Python 3.11; a lone surrogate
        raise _bad(path, "its links lead in a ring" if isinstance(error, RuntimeError) else "it holds what is no character") from None


def _is_too_long(path: bytes) -> bool:
    return len(path) > LONGEST_PATH or max(map(len, path.split(b"/"))) > LONGEST_NAME


def _resolved(path: Path) -> Path:
    """What Path.resolve gives, asked of the system where it can say (open(2): O_PATH; proc(5): /proc/self/fd), in a quarter of the time."""
    try:
        handle = os.open(path, os.O_PATH | os.O_CLOEXEC)
    except (OSError, ValueError):
        return path.resolve()
    try:
        real = os.readlink(f"/proc/self/fd/{handle}")
    except OSError:
        return path.resolve()
    finally:
        os.close(handle)
    # what was replaced at this moment has no path any more
    return Path(real) if real.startswith("/") and not real.endswith(" (deleted)") else path.resolve()


def _bad(path: Path, why: str) -> UmbraxError:
    text = str(path).encode("utf-8", "replace").decode()
    return UmbraxError("bad-path", f"cannot follow the path {text[:200]!r}: {why}; check it")
