"""The check-up over real files: frames of a file, a pattern, a folder or a shot's sources, unconverted, through fast copies."""

import contextlib
from collections.abc import Callable, Container, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from umbrax.core.checkup import Examined, Finding, LightSum, Raw, examine, light_sum, where, worst_first
from umbrax.core.checkup.sequence import differing_ranges
from umbrax.core.colour import WORKING, Working
from umbrax.core.document.sources import PassSetting, Source
from umbrax.core.errors import UmbraxError
from umbrax.core.kernels.unpacking import unpacked
from umbrax.core.plan.reader import LIT, FrameInfo
from umbrax.core.registry import unknown

from .adjusting import NOTHING_SET, adjusted, adjusted_info, backdrop_in, bared, covered, takes_backdrop
from .codes import TOPS
from .fastcopies import FastCopies, ranks_on
from .file_info import widest_type
from .finding import Found, find_in
from .gathering import SourceFiles, SourceFrame
from .opening import check_there
from .places import frames_at, moves
from .primaries import told_primaries
from .reader import MediaReader
from .roots import Roots
from .sequences import frames_named, is_pattern

Watch = Callable[[], None]
MOST_EXAMINED = 64_000_000  # pixels of a pass: as floats a gigabyte
FEW = 6  # frames that are looked at where a first build must not wait for all
FEW_BYTES = 3 << 30  # and of large ones no more than are so many bytes once decoded, but two


class FileFrame:
    """The core's RawReader over one frame of a source; what was set for its passes counts as if the file were so."""

    def __init__(self, frame: SourceFrame, copies: FastCopies, source: Source | None = None, working: Working = WORKING):
        self._source = source if source is not None else Source(path=frame.main.path)
        self._frame, self._copies = frame, copies
        self.info = self._there(adjusted_info(frame.frame_info, self._source))
        self.types: Mapping[str, str] = {name: widest_type(placed.found.types) for name, placed in frame.placed.items()}
        self.unassociated: Container[str] = {name for name, placed in frame.placed.items() if placed.found.unassociated}
        tag = frame.main.curve.kind if frame.main.curve else frame.main.colour_tag
        told = {"colour_space": tag, "primaries": told_primaries(frame.main), "working": working}
        self.tags: Mapping[str, str] = {name: text for name, text in told.items() if text and self._source.colour == "auto"}
        self.associated: Container[str] = {name for name, setting in self._source.passes.items() if setting.association != "file"}

    def _there(self, info: FrameInfo) -> FrameInfo:
        """Without attached passes that have no file on this frame: those are told of as missing frames."""
        there = {name: found for name, found in info.passes.items() if self._frame.lost_file(name) is None}
        return info if len(there) == len(info.passes) else replace(info, passes=there)

    def raw(self, name: str) -> Raw:
        raw, setting = self._as_written(name), self._source.passes.get(name, NOTHING_SET)
        found, kind = self._frame.where(name).found, self.info.passes[name].kind
        backdrop = backdrop_in(self._source, self._frame.placed, self._frame.ids)
        bare = takes_backdrop(backdrop, kind, name)
        if not bare and setting == PassSetting(kind=setting.kind, alpha=setting.alpha):
            return raw
        values = raw.on(found.window).copy()
        if setting.association == "multiply" and found.has_alpha:
            values[..., :-1] *= values[..., -1:]
        values = adjusted(values, found.has_alpha, setting, found.window, self.info.display)
        if bare and backdrop is not None:
            behind = None if backdrop.clean is None else self.raw(backdrop.clean).on(found.window)
            values = bared(values, found.has_alpha, kind == "beauty", covered(*self.ranks(backdrop.layer)), behind)
        return Raw(values, found.window, np.zeros(values.shape[2], np.float32))

    def _as_written(self, name: str) -> Raw:
        copy = self._frame.where(name).copy(self._copies)
        values, outside = copy.planes, copy.outside
        if copy.window.empty:
            return Raw(np.zeros((0, 0, len(outside)), np.float32), copy.window, _scaled(outside, values.dtype))
        if values.dtype.kind == "f":
            floats = unpacked(values, (0, 0), outside, (copy.window.height, copy.window.width), False)
        else:
            floats = np.ascontiguousarray(np.moveaxis(values, 0, 2), np.float32)
        return Raw(_scaled(floats, values.dtype), copy.window, _scaled(outside, values.dtype))

    def ranks(self, layer: str) -> tuple[NDArray[np.uint32], NDArray[np.float32]]:
        return ranks_on(self._frame.where(layer).copy(self._copies), self.info.ids[layer].window)


def _scaled(values: NDArray[np.float32], dtype: np.dtype[np.generic]) -> NDArray[np.float32]:
    return values / np.float32(TOPS[dtype]) if dtype in TOPS else values


@dataclass(frozen=True)
class Sequence:
    """The frames of one source by the numbers of its files; a still has one, 0."""

    name: str
    files: SourceFiles
    frames: tuple[int, ...]
    still: bool
    source: Source | None = None
    working: Working = WORKING

    @property
    def range(self) -> tuple[int, int]:
        return min(self.frames), max(self.frames)

    def at(self, frame: int, copies: FastCopies) -> FileFrame:
        return FileFrame(self.files.at(frame, copies), copies, self.source, self.working)


def sequence_of(name: str) -> Sequence:
    """A file, a movie, a `{frame:04d}` pattern or a folder with one sequence."""
    path, _ = frames_named(name)
    if not is_pattern(path.name):
        check_there(path)
    return _sequence(path.stem if not is_pattern(path.name) else path.name.split("{")[0].rstrip("._-") or path.parent.name, SourceFiles(path))


def sequences_of(name: str, copies: FastCopies) -> list[Sequence]:
    """The same of a file, a movie or a pattern, and of all that a folder holds, with one file per pass put together."""
    folder = Path(name)
    if not folder.is_dir():
        return [sequence_of(name)]
    found = find_in(folder.resolve(), copies, Roots([folder]))
    if not found:
        raise UmbraxError("no-sequence", f"there are no pictures in {folder.name!r}; name another folder")
    return [sequence_of_found(one) for one in found]


def sequence_of_found(one: Found, source: Source | None = None) -> Sequence:
    """A picture that was found, with what is put together with it."""
    files = SourceFiles(one.path, {name: (other.path, 0) for name, other in one.attached.items()})
    return Sequence(one.name, files, tuple(one.frames) or (0,), one.still, source)


def sequence_of_source(reader: MediaReader, name: str) -> Sequence:
    """The files of a shot's source, with what the shot sets for it; none where there are none."""
    return replace(_sequence(name, reader.files_of(name), reader.sources[name]), working=reader.working)


def _sequence(name: str, files: SourceFiles, source: Source | None = None) -> Sequence:
    moving = moves(files.place)
    return Sequence(name, files, tuple(frames_at(files.place)) if moving else (0,), not moving, source)


def check_up(found: Sequence, copies: FastCopies, watch: Watch | None = None) -> list[Finding]:
    """All findings of one source."""
    if not found.frames:
        return [Finding("frames", found.name, None, (), "error", "there is no file of this source; render it, or take it in again")]
    if (large := _too_large(found, copies)) is not None:
        return worst_first([large, *_attached_frames(found)])
    held = found.source is not None and found.source.missing == "hold"
    findings = examine(found.name, found.frames, lambda frame: found.at(frame, copies), still=found.still or held, watch=watch)
    return worst_first(findings + _attached_frames(found))


def _too_large(found: Sequence, copies: FastCopies) -> Finding | None:
    """Says so where a pass is too large to be looked through: each rule holds all of a frame as floats."""
    try:
        passes = found.at(found.frames[0], copies).info.passes.values()
    except UmbraxError:
        return None  # the rules tell of what cannot be read
    wide = next((one for one in passes if one.window.area > MOST_EXAMINED), None)
    if wide is None:
        return None
    size = f"{wide.window.width} x {wide.window.height}"
    message = f"{size} pixels are more than a check-up looks through; it is used as it is: look at it at full size before you trust it"
    return Finding("size", found.name, wide.name, (), "note", message, {"size": [wide.window.width, wide.window.height]})


def _attached_frames(found: Sequence) -> list[Finding]:
    """Frames of the source that an attached file does not have."""
    findings = []
    for name, (place, offset) in found.files.attached.items():
        if not moves(place):
            missing = [] if place.exists() else list(found.frames)
        else:
            missing = sorted(set(found.frames) - {frame + offset for frame in frames_at(place)})
        if missing:
            message = f"{len(missing)} of {len(found.frames)} frames have no file {place.name!r}; render them"
            findings.append(Finding("frames", found.name, name, tuple(missing), "error", message, {"missing": len(missing)}))
    return findings


def together(found: list[Sequence]) -> list[Finding]:
    """Findings of how several sources go together."""
    return differing_ranges({sequence.name: sequence.range for sequence in found if not sequence.still and sequence.frames})


def check_up_all(found: list[Sequence], copies: FastCopies, watch: Watch | None = None) -> list[Finding]:
    """Findings of several sources, and of how they go together."""
    findings = [finding for sequence in found for finding in check_up(sequence, copies, watch)]
    return worst_first(findings + together(found))


def sum_of_lights(found: Sequence, copies: FastCopies) -> LightSum | None:
    """How the lights of a source add up to its beauty: the worst of some of its frames, which are spread over all."""
    sums = []
    for frame in _spread(found, copies):
        try:
            sums.append(light_sum(Examined(found.at(frame, copies))))
        except UmbraxError:
            continue  # a frame that cannot be read is the check-up's to tell
    known = [one for one in sums if one is not None]
    return max(known, key=lambda one: (not one.plain, one.left)) if known else None


def _spread(found: Sequence, copies: FastCopies) -> list[int]:
    """Some of the frames, from the first to the last: fewer where the files that hold their lights are large."""
    most = FEW
    with contextlib.suppress(UmbraxError):  # told where it is read
        placed = found.files.at(found.frames[0], copies).placed.values()
        files = {one.file.identity: one.file for one in placed if one.found.kind in LIT}
        large = sum(file.decoded_bytes for file in files.values())
        most = min(FEW, max(2, FEW_BYTES // max(large, 1)))
    places = np.linspace(0, len(found.frames) - 1, min(most, len(found.frames)))
    return [found.frames[place] for place in places.round().astype(int)]


def where_of(reader: MediaReader, source: str, frame: int, rule: str, name: str) -> NDArray[np.float32]:
    """The places of a finding on a shot frame, `float32[h, w]` over the source's display window."""
    read = FileFrame(reader.frame_of(source, frame), reader.copies, reader.sources[source])
    if name not in read.info.passes and name not in read.info.ids:
        raise UmbraxError("no-pass", unknown("pass", name, [*read.info.passes, *read.info.ids]))
    return where(rule, Examined(read), name)
