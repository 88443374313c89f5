"""Other versions of a source on disk, and what one of them lost and gained."""

import re
from pathlib import Path

from umbrax.core.checkup import Examined, Finding, compare
from umbrax.core.errors import UmbraxError

from .examining import FileFrame, Sequence, sequence_of
from .fastcopies import FastCopies
from .finding import folders_of
from .gathering import SourceFiles
from .sequences import frames_of, is_pattern

VERSION = re.compile(r"[._-]?v(\d+)", re.IGNORECASE)


def _stem(name: str) -> str:
    """A name without its version."""
    return VERSION.sub("", name)


def versions_beside(path: Path) -> list[Path]:
    """Files or patterns of the same name but for a version `v002`, in the folder, its siblings or theirs below; lowest first."""
    folder = path.parent
    beside = [other for other in folders_of(folder.parent) if other != folder and _stem(other.name) == _stem(folder.name)]
    found = [other / path.name for other in beside]
    wanted = re.sub(r"\{frame[^}]*\}", "#", path.name)
    for entry in sorted(folder.iterdir()):
        name = re.sub(r"(?<=[._-])-?\d+(?=\.\w+\Z)", "#", entry.name) if is_pattern(path.name) else entry.name
        if name != wanted and _stem(name) == _stem(wanted) and name.count("#") == wanted.count("#"):
            found.append(folder / name.replace("#", path.name[path.name.index("{") : path.name.index("}") + 1] if "{" in path.name else ""))
    there = [one for one in dict.fromkeys(found) if (frames_of(one) if is_pattern(one.name) else one.is_file())]
    return sorted(there, key=lambda one: (number_of(one), str(one)))


def number_of(path: Path) -> int:
    """The version in a path, the last one named; 1 where none is."""
    numbers = VERSION.findall(f"{path.parent.name}/{path.name}")
    return int(numbers[-1]) if numbers else 1


def compare_files(source: str, old: Sequence, new_path: Path, copies: FastCopies) -> list[Finding]:
    """What a version on disk lost and gained, looked at on the first frame that both have."""
    new = sequence_of(str(new_path))
    if old.still != new.still:
        raise UmbraxError(
            "bad-version", f"{new_path.name!r} is {'a still' if new.still else 'a sequence'}, the source is not; choose another one"
        )
    both = sorted(set(old.frames) & set(new.frames))
    if not both:
        raise UmbraxError("bad-version", f"{new_path.name!r} has none of the source's frames; choose another one")

    def opened(sequence: Sequence) -> Examined:
        return Examined(FileFrame(SourceFiles(sequence.files.place).at(both[0], copies), copies))

    return compare(source, opened(old), opened(new), list(old.frames), list(new.frames))
