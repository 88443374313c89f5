"""Other versions of a source on disk, and what one of them lost and gained."""

import re
from dataclasses import dataclass
from pathlib import Path

from umbrax.core.checkup import Examined, Finding, compare
from umbrax.core.errors import UmbraxError

from .examining import Sequence
from .fastcopies import FastCopies
from .finding import Found, folders_of
from .grouping import tells_of_a_pass
from .roots import Roots
from .sequences import FIELD, any_frame_of, is_pattern

VERSION = re.compile(r"[._-]?v(\d+)", re.IGNORECASE)
NUMBER = re.compile(r"(?<=[._-])-?\d+\Z")  # of a frame, at the end of a name


def _stem(name: str) -> str:
    return VERSION.sub("", name)


def without_version(name: str) -> str:
    """A name without its version, unless nothing else is in it."""
    return _stem(name).strip("._- ") or name


def versions_beside(path: Path, roots: Roots) -> list[Path]:
    """Files or patterns of the same name but for a version `v002`, in the folder, its siblings or those of the folder above, where versions
    tell these apart; lowest first."""
    above = path.parent.parent
    folders = [path.parent, *_siblings(path.parent, roots), *(other / path.parent.name for other in _siblings(above, roots))]
    found = [one for folder in folders if roots.holds(folder) and folder.is_dir() for one in _alike_in(folder, path)]
    there = [one for one in dict.fromkeys(found) if roots.holds(one) and (any_frame_of(one) if is_pattern(one.name) else one.is_file())]
    return sorted((one for one in there if one != path), key=lambda one: (number_of(one), str(one)))


def _siblings(folder: Path, roots: Roots) -> list[Path]:
    """Folders of the same name but for a version, beside a folder."""
    if not roots.holds(folder.parent):
        return []
    return [other for other in folders_of(folder.parent, roots) if other != folder and _stem(other.name) == _stem(folder.name)]


def _alike_in(folder: Path, path: Path) -> list[Path]:
    """What in a folder has the name of a file or pattern, but for a version and a frame number."""
    wanted, field = FIELD.sub("#", path.name), FIELD.search(path.name)
    found = [folder / path.name]
    for entry in sorted(folder.iterdir()):
        name = NUMBER.sub("#", entry.stem) + entry.suffix if field else entry.name
        if _stem(name) == _stem(wanted) and name.count("#") == wanted.count("#"):
            found.append(folder / (name.replace("#", field[0]) if field else name))
    return found


def number_of(path: Path) -> int:
    """The version in a path, the last one named; 1 where none is. Where a folder for each pass lies in one for each version, that counts."""
    folder = path.parent
    above = folder.parent.name if tells_of_a_pass(folder.name) else ""
    numbers = VERSION.findall(f"{above}/{folder.name}/{path.name}")
    return int(numbers[-1]) if numbers else 1


def named_alike(one: Path, other: Path) -> bool:
    """Whether two files or patterns have one name but for a version, a frame number and where they lie."""
    return _bare(one) == _bare(other) != ""


def _bare(path: Path) -> str:
    name = re.sub(r"\{frame[^}]*\}", "", path.stem)
    return re.sub(r"[._ -]+", "_", _stem(NUMBER.sub("", name))).strip("_").lower()


def older_ones(found: list[Found]) -> set[Path]:
    """Of pictures those of which there is a newer version among them that can be read."""
    newest: dict[str, int] = {}
    for one in found:
        if one.info is not None and (name := _bare(one.path)):
            newest[name] = max(newest.get(name, 0), number_of(one.path))
    return {one.path for one in found if number_of(one.path) < newest.get(_bare(one.path), 0)}


@dataclass(frozen=True)
class Compared:
    """What another file lost and gained; `offset` is by how many frames it comes later than the source did."""

    findings: list[Finding]
    offset: int = 0


def compare_files(source: str, old: Sequence, new: Sequence, copies: FastCopies) -> Compared:
    """What would change if a source were another file, looked at on the first frame that both have; where they have none in common,
    the first of one is taken for the first of the other."""
    offset = 0
    both = sorted(set(old.frames) & set(new.frames))
    if old.still or new.still:
        at, then = old.frames[:1], new.frames[:1]
    elif both:
        at = then = (both[0],)
    else:
        at, then = old.frames[:1], new.frames[:1]
        offset = old.frames[0] - new.frames[0] if old.frames and new.frames else 0
    if not then:
        raise UmbraxError("bad-version", f"there is no frame of {new.files.place.name!r}; choose another one")
    findings: list[Finding] = []
    before = _readable(old, at[0], copies) if at else None
    if before is not None:
        after = Examined(new.at(then[0], copies))
        there = [] if new.still else [frame + offset for frame in new.frames]
        findings = compare(source, before, after, [] if new.still else list(old.frames), there)
        findings += _sizes(source, before, after)
    return Compared(findings + _frames_told(source, old, new, offset), offset)


def _readable(sequence: Sequence, frame: int, copies: FastCopies) -> Examined | None:
    """A frame to compare with; None where it is not there any more, which is a reason to replace it and none against."""
    try:
        return Examined(sequence.at(frame, copies))
    except UmbraxError:
        return None


def _sizes(source: str, old: Examined, new: Examined) -> list[Finding]:
    before, after = old.info.display, new.info.display
    if (before.width, before.height) == (after.width, after.height):
        return []
    message = f"it is {after.width} x {after.height}, and was {before.width} x {before.height}"
    return [Finding("version", source, None, (), "warning", message, {"size": [after.width, after.height]})]


def _frames_told(source: str, old: Sequence, new: Sequence, offset: int) -> list[Finding]:
    if old.still != new.still:
        told = "a still: it holds on every frame" if new.still else f"{len(new.frames)} frames, and was a still"
        return [Finding("version", source, None, (), "note", f"it is {told}", {"still": new.still})]
    if offset:
        first, last = new.frames[0], new.frames[-1]
        message = f"its frames {first} to {last} are taken as {first + offset} to {last + offset}"
        return [Finding("version", source, None, (), "note", message, {"offset": offset})]
    return []
