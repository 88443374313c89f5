"""What pictures lie in a folder: stills and sequences, one file per pass put together, and what each holds."""

from dataclasses import dataclass, field
from pathlib import Path

from umbrax.core.checkup.sequence import holes_of
from umbrax.core.errors import UmbraxError

from .fastcopies import FastCopies
from .files import FileInfo
from .sequences import NUMBERED, path_of_frame

ENDINGS = {".exr", ".png", ".jpg", ".jpeg", ".tif", ".tiff", ".dpx", ".hdr", ".psd", ".webp", ".tx"}


@dataclass
class Found:
    """A still or a sequence: its pattern, its frames, and what its first readable file holds."""

    path: Path
    name: str
    frames: list[int] = field(default_factory=list)
    info: FileInfo | None = None
    problem: str | None = None

    @property
    def still(self) -> bool:
        return not self.frames

    @property
    def missing(self) -> list[int]:
        return holes_of(self.frames)


def find_pictures(folder: Path, copies: FastCopies) -> list[Found]:
    """Everything in one folder, by name. A number at the end is a frame number where two files share the rest."""
    numbered: dict[tuple[str, str], dict[int, str]] = {}
    stills: list[str] = []
    for entry in sorted(_entries(folder)):
        match = NUMBERED.match(entry)
        if match:
            numbered.setdefault((match[1], match[3]), {})[int(match[2])] = match[2]
        else:
            stills.append(entry)
    found = []
    for (before, ending), numbers in numbered.items():
        if len(numbers) == 1 and not before.endswith((".", "_", "-")):
            stills.append(f"{before}{next(iter(numbers.values()))}{ending}")
            continue
        width = min(len(text.lstrip("-")) for text in numbers.values())
        pattern = f"{before}{{frame:0{width}d}}{ending}"
        found.append(Found(folder / pattern, before.rstrip("._-") or folder.name, sorted(numbers)))
    found += [Found(folder / name, Path(name).stem) for name in stills]
    for one in found:
        _look_into(one, copies)
    return sorted(found, key=lambda one: one.name.lower())


def find_in(path: Path, copies: FastCopies) -> list[Found]:
    """The pictures of a folder, or of the folders in it where it has none itself."""
    found = find_pictures(path, copies)
    if not found:
        for folder in folders_of(path):
            found += find_pictures(folder, copies)
    return found


def folders_of(path: Path) -> list[Path]:
    try:
        return sorted(entry for entry in path.iterdir() if entry.is_dir() and not entry.name.startswith("."))
    except OSError as error:
        raise UmbraxError("no-folder", f"cannot look into {path.name!r}: {error.strerror}; choose another folder") from None


def _entries(folder: Path) -> list[str]:
    try:
        return [e.name for e in folder.iterdir() if e.suffix.lower() in ENDINGS and not e.name.startswith(".") and e.is_file()]
    except OSError as error:
        raise UmbraxError("no-folder", f"cannot look into {folder.name!r}: {error.strerror}; choose another folder") from None


def _look_into(found: Found, copies: FastCopies) -> None:
    file = Path(path_of_frame(str(found.path), found.frames[0])) if found.frames else found.path
    try:
        found.info = copies.info(file)
    except UmbraxError as error:
        found.problem = error.message
