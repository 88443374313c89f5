"""Paths with `{frame:04d}`: which file a frame is in, and which frames there are."""

import re
from collections.abc import Iterable, Mapping
from pathlib import Path

from umbrax.core.errors import UmbraxError

from .folders import folder_at
from .movies import is_movie
from .rank_names import Numbered, parted_by_rank

# before the frame number, the number, the ending; a hyphen is a sign only after another separator: `x-007` is frame 7. A longer number
# is a date or a key, and part of the name.
NUMBERED = re.compile(r"(.*?)((?:(?:(?<=[._\- ])|^)-)?(?<!\d)\d{1,8})(\.\w+)\Z")
BEFORE_VERSION = re.compile(r"[._\- ]v\Z", re.IGNORECASE)
MOST_VERSIONS = 30
FIELD = re.compile(r"\{frame(?::0?(\d{0,2})d)?\}")


def is_pattern(path: str) -> bool:
    return FIELD.search(path) is not None


def path_of_frame(pattern: str, frame: int) -> str:
    """The file of a frame: a still is the same on every frame; other fields than `{frame:04d}` are refused."""

    def number(match: re.Match[str]) -> str:
        return f"{frame:0{int(match[1] or 0)}d}"

    name = FIELD.sub(number, pattern)
    if "{" in name and "frame" in name:
        raise UmbraxError("bad-pattern", f"cannot read the frame number in {pattern!r}; write it as {{frame:04d}}")
    return name


def frames_of(pattern: Path) -> list[int]:
    """The frames present on disk for a pattern, in order; empty for a still."""
    return list(_numbered(pattern))


def any_frame_of(pattern: Path) -> bool:
    """Whether there is a file for a pattern."""
    return bool(_numbered(pattern))


def numbered_file(pattern: Path, frame: int) -> Path | None:
    """The file of a frame that is there, however its number is padded; None for a still."""
    name = _numbered(pattern).get(frame)
    return None if name is None else pattern.parent / name


def _numbered(pattern: Path) -> Mapping[int, str]:
    """The names of the files that are there, in the order of their frames."""
    match = FIELD.search(pattern.name)
    folder = None if match is None else folder_at(pattern.parent)
    if match is None or folder is None:
        return {}
    before, after = pattern.name[: match.start()], pattern.name[match.end() :]

    def numbered(names: tuple[str, ...]) -> Mapping[int, str]:
        number = re.compile(re.escape(before) + r"(-?\d{1,8})" + re.escape(after) + r"\Z")
        return dict(sorted((int(found[1]), name) for name in names if (found := number.match(name))))

    return folder.made(pattern.name, numbered)


def numbered_names(names: Iterable[str]) -> tuple[Numbered, list[str]]:
    """Names by what stands before a frame number and what after it, with the numbers as they are written; and those that have none: movies are
    no frames, and numbers after a name as in `plate_v001` are versions, where they are no more than `MOST_VERSIONS`."""
    numbered: Numbered = {}
    others: list[str] = []
    for name in names:
        match = NUMBERED.match(name)
        if match and not is_movie(Path(name)):
            numbered.setdefault((match[1], match[3]), {})[int(match[2])] = match[2]
        else:
            others.append(name)
    numbered, ranks = parted_by_rank(numbered)
    others += ranks
    versions = [key for key, numbers in numbered.items() if BEFORE_VERSION.search(key[0]) and len(numbers) <= MOST_VERSIONS]
    for before, ending in versions:
        others += [f"{before}{number}{ending}" for number in numbered.pop((before, ending)).values()]
    return numbered, others


def pattern_of_folder(folder: Path) -> Path:
    """The one sequence in a folder, as a pattern; refused where there is none or more than one."""
    found, _ = numbered_names(sorted(entry.name for entry in folder.iterdir() if entry.is_file()))
    patterns = sorted(f"{before}{{frame:0{width_of(numbers.values())}d}}{ending}" for (before, ending), numbers in found.items())
    if len(patterns) != 1:
        if not patterns:
            raise UmbraxError("no-sequence", f"there are no numbered pictures in {folder.name!r}; name another folder, a file or a pattern")
        listed = ", ".join(patterns[:5])
        raise UmbraxError("no-sequence", f"expected one sequence in {folder.name!r}, found {listed}; name one of them")
    return folder / patterns[0]


def width_of(numbers: Iterable[str]) -> int:
    """How wide the numbers of a sequence are written: as the shortest of them, a sign counted as one place (as Python does)."""
    told = list(numbers)
    positive = [text for text in told if not text.startswith("-")]
    return min(map(len, positive)) if positive else min(len(text) if text.startswith("-0") else 1 for text in told)


def frames_named(name: str) -> tuple[Path, list[int]]:
    """The file or pattern a name means, a folder meaning the one sequence in it, and its frames; none for a still."""
    path = Path(name)
    if path.is_dir():
        path = pattern_of_folder(path)
    if not is_pattern(path.name):
        return path, []
    frames = frames_of(path)
    if not frames:
        raise UmbraxError("missing-file", f"no file matches {str(path)!r}; check the folder and the frame numbers")
    return path, frames


def frame_range(text: str, first: int, last: int) -> list[int]:
    """Frames from `1001-1048`, `1001`, `1001-1048x2` or commas of these, each once; an empty text means the whole shot."""
    if not text.strip():
        return list(range(first, last + 1))
    frames: list[int] = []
    for piece in text.split(","):
        match = re.fullmatch(r"\s*(-?\d+)(?:-(-?\d+))?(?:x(\d+))?\s*", piece)
        if not match:
            raise UmbraxError("bad-frames", f"cannot read frames {piece.strip()!r}; write them as 1001-1048 or 1001,1005")
        start = int(match[1])
        end = int(match[2]) if match[2] else start
        step = int(match[3] or 1)
        if end < start or step < 1 or end - start > 1_000_000:
            raise UmbraxError("bad-frames", f"expected frames from low to high, got {piece.strip()!r}")
        frames.extend(range(start, end + 1, step))
    return list(dict.fromkeys(frames))
