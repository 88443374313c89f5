"""What pictures lie in a folder: stills and sequences, one file per pass put together, and what each holds."""

import os
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import pairwise
from pathlib import Path

from umbrax.core.checkup.sequence import Hole, holes_of
from umbrax.core.errors import UmbraxError

from .fastcopies import FastCopies
from .file_info import FileInfo
from .gathering import SourceFrame, gather
from .grouping import main_of, passes_by_name, tells_of_a_pass
from .movies import ENDINGS as MOVIES
from .movies import is_movie
from .opening import as_text, bad_name
from .places import file_at, frames_at
from .rank_names import Numbered
from .roots import Roots
from .sequences import numbered_names, width_of

DEEPEST = 4  # folders in folders that are looked into
FRAME_DIGITS = 4
PICTURES = {".exr", ".png", ".jpg", ".jpeg", ".tif", ".tiff", ".dpx", ".hdr", ".psd", ".webp", ".tx"}


@dataclass
class Found:
    """A still, a sequence or a movie: its place, its frames, and what its first readable file holds.

    `attached` are those whose passes belong to it, by the names they will go by.
    """

    path: Path
    name: str
    frames: list[int] = field(default_factory=list)
    info: FileInfo | None = None
    problem: str | None = None
    attached: dict[str, "Found"] = field(default_factory=dict)

    @property
    def still(self) -> bool:
        return not self.frames

    @property
    def whole(self) -> SourceFrame | None:
        """Its first frame with the passes of what is attached."""
        if self.info is None:
            return None
        return gather(self.info, {name: one.info for name, one in self.attached.items() if one.info is not None}, {})

    @property
    def missing(self) -> list[Hole]:
        return holes_of(self.frames)


def find_pictures(folder: Path, copies: FastCopies, roots: Roots) -> list[Found]:
    """Everything in one folder, by name. A number at the end is a frame number where two files share the rest."""
    numbered, stills = numbered_names(sorted(_entries(folder, roots)))
    found = []
    shared = _of_one_frame(numbered)
    for (before, ending), numbers in numbered.items():
        if len(numbers) == 1 and not before.endswith((".", "_", "-")) and not shared & set(numbers.values()):
            stills.append(f"{before}{next(iter(numbers.values()))}{ending}")
            continue
        pattern = f"{before}{{frame:0{width_of(numbers.values())}d}}{ending}"
        found.append(Found(folder / pattern, before.rstrip("._-") or folder.name, sorted(numbers)))
    found += [Found(folder / name, Path(name).stem) for name in stills]
    for one in found:
        _look_into(one, copies)
    return sorted(found, key=lambda one: one.name.lower())


def _of_one_frame(numbered: Numbered) -> set[str]:
    """Numbers right after a name that are those of a frame: after several names of passes there is the same one."""
    alone = Counter(next(iter(numbers.values())) for (before, _), numbers in numbered.items() if len(numbers) == 1 and tells_of_a_pass(before))
    return {text for text, times in alone.items() if times > 1 and len(text) >= FRAME_DIGITS}


def find_in(path: Path, copies: FastCopies, roots: Roots) -> list[Found]:
    """The pictures of a folder, or of the folders in it where it has none itself; one file per pass put together."""
    return put_together(_pictures_below(path, copies, roots, DEEPEST))


def _pictures_below(path: Path, copies: FastCopies, roots: Roots, deep: int) -> list[Found]:
    found = find_pictures(path, copies, roots)
    if found or deep == 0:
        return found
    return [one for folder in folders_of(path, roots) for one in _pictures_below(folder, copies, roots, deep - 1)]


def find_here(path: Path, copies: FastCopies, roots: Roots) -> list[Found]:
    """The pictures of a folder; where it has none but folders that are named after passes, those of these."""
    return find_in(path, copies, roots) if _is_by_pass(path, roots) else put_together(find_pictures(path, copies, roots))


def _is_by_pass(path: Path, roots: Roots) -> bool:
    """Whether there is a folder for each pass in a folder."""
    return sum(tells_of_a_pass(folder.name) for folder in folders_of(path, roots)) > 1


def folders_around(place: Path, roots: Roots) -> Iterator[Path]:
    """Where a file or pattern may lie with others that belong to it: a folder with one for each pass, in one of which it lies, which may be
    parted by versions; then its own folder."""
    for below, folder in pairwise(place.parents[: DEEPEST + 1]):
        if tells_of_a_pass(below.name) and roots.holds(folder) and _is_by_pass(folder, roots):
            yield folder
    if roots.holds(place.parent):
        yield place.parent


def put_together(found: list[Found]) -> list[Found]:
    """One file per pass becomes one source: files that share their name but for the pass, of one size, over the same frames."""
    groups = passes_by_name([one.path for one in found if one.info is not None and not is_movie(one.path)])
    by_path = {one.path: one for one in found}
    gone: set[Path] = set()
    for prefix, members in groups.items():
        main = by_path[main_of(members)]
        for path, name in members.items():
            other = by_path[path]
            if other is not main and _goes_with(main, other):
                main.attached[name] = other
                gone.add(path)
        if main.attached:
            main.name = prefix
    return [one for one in found if one.path not in gone]


def _goes_with(main: Found, other: Found) -> bool:
    together = other.still or bool(set(main.frames) & set(other.frames))
    return together and main.info is not None and other.info is not None and main.info.display == other.info.display


def folders_of(path: Path, roots: Roots | None = None) -> list[Path]:
    """The folders in a folder, by name; of links only those that lead into the media folders, where these are given."""
    return [path / entry.name for entry in _listed(path, roots) if entry.is_dir() and as_text(entry.name) == entry.name]


def _entries(folder: Path, roots: Roots) -> list[str]:
    kinds = PICTURES | MOVIES
    found = []
    for entry in _listed(folder, roots):
        unnamed = entry.is_dir() and as_text(entry.name) != entry.name
        if unnamed or (Path(entry.name).suffix.lower() in kinds and entry.is_file()):
            found.append(entry.name)
    return found


def _listed(folder: Path, roots: Roots | None) -> list[os.DirEntry[str]]:
    """What lies in a folder and is not hidden, by name; names that are not in UTF-8 are told of by what can be said of them."""
    try:
        with os.scandir(folder) as entries:
            seen = sorted((entry for entry in entries if not entry.name.startswith(".")), key=lambda entry: entry.name)
    except OSError as error:
        raise UmbraxError("no-folder", f"cannot look into {folder.name!r}: {error.strerror}; choose another folder") from None
    return [entry for entry in seen if roots is None or not entry.is_symlink() or roots.holds(folder / entry.name)]


def _look_into(found: Found, copies: FastCopies) -> None:
    if (shown := as_text(found.path.name)) != found.path.name:
        found.path, found.name = found.path.with_name(shown), as_text(found.name)
        found.problem = bad_name(found.path).message
        return
    try:
        if is_movie(found.path):
            found.frames = frames_at(found.path)
        first = found.frames[0] if found.frames else 0
        found.info = copies.info(file_at(found.path, first), first)
    except UmbraxError as error:
        found.problem = error.message
