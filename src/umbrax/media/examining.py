"""The check-up over real files: frames of a file, a pattern, a folder or a shot's sources, unconverted, through fast copies."""

from collections.abc import Callable, Container, Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from umbrax.core.checkup import Finding, Raw, examine, worst_first
from umbrax.core.checkup.sequence import differing_ranges
from umbrax.core.kernels.unpacking import unpacked
from umbrax.core.picture import Window
from umbrax.core.shot import PassSetting, Source

from .adjusting import adjusted, adjusted_info
from .fastcopies import FastCopies, planes_on
from .files import FileInfo, widest_type
from .reader import TOPS, MediaReader
from .sequences import frames_named, frames_of, is_pattern, path_of_frame

Watch = Callable[[], None]


class FileFrame:
    """The core's RawReader over one file; what was set for its passes counts as if the file were so."""

    def __init__(self, file: FileInfo, copies: FastCopies, source: Source | None = None):
        self._settings = source.passes if source is not None else {}
        self.info = adjusted_info(file.frame_info(), self._settings)
        self.types: Mapping[str, str] = {found.name: widest_type(found.types) for found in file.passes}
        tagged = file.colour_tag and (source is None or source.colour == "auto")
        self.tags: Mapping[str, str] = {"colour_space": file.colour_tag} if tagged else {}
        self.associated: Container[str] = {name for name, setting in self._settings.items() if setting.association != "file"}
        self._file, self._copies = file, copies

    def raw(self, name: str) -> Raw:
        raw, setting = self._as_written(name), self._settings.get(name)
        if setting is None or setting == PassSetting(kind=setting.kind, alpha=setting.alpha):
            return raw
        found = self.info.passes[name]
        values = raw.on(found.window).copy()
        if setting.association == "multiply" and found.has_alpha:
            values[..., :-1] *= values[..., -1:]
        return Raw(adjusted(values, found.has_alpha, setting), found.window, np.zeros(values.shape[2], np.float32))

    def _as_written(self, name: str) -> Raw:
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
    source: Source | None = None

    @property
    def range(self) -> tuple[int, int]:
        return min(self.files), max(self.files)


def sequence_of(name: str) -> Sequence:
    """A file, a `{frame:04d}` pattern or a folder with one sequence."""
    path, frames = frames_named(name)
    if not frames:
        return Sequence(path.stem, {0: path}, True)
    return Sequence(path.name.split("{")[0].rstrip("._-") or path.parent.name, _numbered(path, frames), False)


def _numbered(pattern: Path, frames: list[int]) -> dict[int, Path]:
    return {frame: Path(path_of_frame(str(pattern), frame)) for frame in frames}


def sequence_of_source(reader: MediaReader, name: str) -> Sequence:
    """The files of a shot's source, with what the shot sets for it; none where there are none."""
    source = reader.sources[name]
    path = reader.place_of(name)
    if not is_pattern(source.path):
        return Sequence(name, {0: path}, True, source)
    return Sequence(name, _numbered(path, frames_of(path)), False, source)


def check_up(found: Sequence, copies: FastCopies, watch: Watch | None = None) -> list[Finding]:
    """All findings of one source."""

    def opening(frame: int) -> FileFrame:
        return FileFrame(copies.info(found.files[frame]), copies, found.source)

    if not found.files:
        return [Finding("frames", found.name, None, (), "error", "there is no file of this source; render it, or take it in again")]
    held = found.source is not None and found.source.missing == "hold"
    return examine(found.name, found.files, opening, still=found.still or held, watch=watch)


def together(found: list[Sequence]) -> list[Finding]:
    """Findings of how several sources go together."""
    return differing_ranges({sequence.name: sequence.range for sequence in found if not sequence.still and sequence.files})


def check_up_all(found: list[Sequence], copies: FastCopies, watch: Watch | None = None) -> list[Finding]:
    """Findings of several sources, and of how they go together."""
    findings = [finding for sequence in found for finding in check_up(sequence, copies, watch)]
    return worst_first(findings + together(found))
