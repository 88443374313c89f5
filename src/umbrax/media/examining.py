"""The check-up over real files: frames of a file, a pattern, a folder or a shot's sources, unconverted, through fast copies."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from umbrax.core.checkup import Finding, Raw, examine
from umbrax.core.checkup.sequence import differing_ranges
from umbrax.core.errors import UmbraxError
from umbrax.core.kernels.unpacking import unpacked
from umbrax.core.picture import Window

from .fastcopies import FastCopies, planes_on
from .files import FileInfo, widest_type
from .reader import TOPS
from .sequences import frames_of, is_pattern, path_of_frame, pattern_of_folder

Watch = Callable[[], None]


class FileFrame:
    """The core's RawReader over one file."""

    def __init__(self, file: FileInfo, copies: FastCopies):
        self.info = file.frame_info()
        self.types: Mapping[str, str] = {found.name: widest_type(found.types) for found in file.passes}
        self.tags: Mapping[str, str] = {"colour_space": file.colour_tag} if file.colour_tag else {}
        self._file, self._copies = file, copies

    def raw(self, name: str) -> Raw:
        copy = self._copies.open(self._file)[name]
        values, outside = copy.planes, copy.outside
        if copy.window.empty:
            return Raw(np.zeros((0, 0, len(outside)), np.float32), copy.window, _scaled(outside, values.dtype))
        if values.dtype.kind == "f":
            floats = unpacked(values, (0, 0), outside, (copy.window.height, copy.window.width), False)
        else:
            floats = np.ascontiguousarray(np.moveaxis(values, 0, 2), np.float32)
        return Raw(_scaled(floats, values.dtype), copy.window, _scaled(outside, values.dtype))

    def ranks(self, layer: str) -> tuple[NDArray[np.uint32], NDArray[np.float32]]:
        copy = self._copies.open(self._file)[layer]
        window: Window = self.info.ids[layer].window
        planes = np.ascontiguousarray(planes_on(copy, window), np.float32)
        return np.ascontiguousarray(planes[0::2]).view(np.uint32), np.ascontiguousarray(planes[1::2])


def _scaled(values: NDArray[np.float32], dtype: np.dtype[np.generic]) -> NDArray[np.float32]:
    return values / np.float32(TOPS[dtype]) if dtype in TOPS else values


@dataclass(frozen=True)
class Sequence:
    """The files of one source by their frame number; a still has one, under 0."""

    name: str
    files: dict[int, Path]
    still: bool

    @property
    def range(self) -> tuple[int, int]:
        return min(self.files), max(self.files)


def sequence_of(name: str) -> Sequence:
    """A file, a `{frame:04d}` pattern or a folder with one sequence."""
    path = Path(name)
    if path.is_dir():
        path = pattern_of_folder(path)
    if not is_pattern(path.name):
        return Sequence(path.stem, {0: path}, True)
    frames = frames_of(path)
    if not frames:
        raise UmbraxError("missing-file", f"no file matches {str(path)!r}; check the folder and the frame numbers")
    return Sequence(path.name.split("{")[0].rstrip("._-") or path.parent.name, {f: Path(path_of_frame(str(path), f)) for f in frames}, False)


def check_up(found: Sequence, copies: FastCopies, watch: Watch | None = None) -> list[Finding]:
    """All findings of one source."""

    def opening(frame: int) -> FileFrame:
        return FileFrame(copies.info(found.files[frame]), copies)

    return examine(found.name, found.files, opening, still=found.still, watch=watch)


def check_up_all(found: list[Sequence], copies: FastCopies, watch: Watch | None = None) -> list[Finding]:
    """Findings of several sources, and of how they go together."""
    findings = [finding for sequence in found for finding in check_up(sequence, copies, watch)]
    return findings + differing_ranges({sequence.name: sequence.range for sequence in found if not sequence.still})
