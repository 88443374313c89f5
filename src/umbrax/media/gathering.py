"""One frame of a source put together: the passes of its file, and those of files attached to it under names."""

import hashlib
from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path

from umbrax.core.errors import UmbraxError, Where
from umbrax.core.plan.reader import FrameInfo, IdLayer
from umbrax.core.registry import unknown

from .fastcopies import FastCopies
from .file_info import FileInfo, FilePass
from .id_layers import with_id_layers
from .light_groups import with_light_groups
from .placed import Placed
from .places import file_at, file_there, frames_at, moves
from .rank_files import with_rank_files
from .recognise import recognise


@dataclass(frozen=True)
class SourceFrame:
    """All passes of one frame of a source. `lost` names attached files that this frame does not have."""

    main: FileInfo
    placed: dict[str, Placed]
    ids: dict[str, IdLayer]
    lost: Mapping[str, Path] = field(default_factory=dict)

    def where(self, name: str) -> Placed:
        """Where a pass or an ID layer is; refused, with the file's name, where its file is not there on this frame."""
        if name not in self.placed:
            raise UmbraxError("no-pass", unknown("pass", name, list(self.placed)))
        if path := self.lost_file(name):
            message = f"{name!r} has no picture on this frame: there is no file {path.name!r}; render it, or turn off what uses it"
            raise UmbraxError("missing-frame", message, where=Where(file=str(path)))
        return self.placed[name]

    def lost_file(self, name: str) -> Path | None:
        """The attached file that should hold a pass and is not there on this frame."""
        placed = self.placed.get(name)
        return None if placed is None else next((self.lost[to] for to in placed.attached if to in self.lost), None)

    @property
    def files(self) -> list[FileInfo]:
        """Each file once."""
        return list({file.identity: file for placed in self.placed.values() for file in placed.files}.values()) or [self.main]

    @cached_property
    def frame_info(self) -> FrameInfo:
        """The same in the core's words."""
        told = self.main.frame_info
        if not self.lost and len(self.files) == 1 and self.files[0] is self.main:
            return told
        text = "\0".join([file.identity for file in self.files] + sorted(str(path) for path in self.lost.values()))
        passes = {name: placed.found.pass_info(name) for name, placed in self.placed.items() if placed.found.kind != "ids"}
        return FrameInfo(hashlib.sha256(text.encode()).hexdigest()[:32], told.display, passes, self.ids, told.file)


def gather(main: FileInfo, attached: Mapping[str, FileInfo], lost: Mapping[str, Path], id_layers: Collection[str] = ()) -> SourceFrame:
    """A frame of a source: the names of its own file stay, attached passes go by the name they were attached under.

    `id_layers` count as ID layers although no metadata names them.
    """
    placed = {found.name: Placed(found, main, found.name) for found in main.passes}
    ids = dict(main.ids)
    for name, file in attached.items():
        renamed = _names_in(name, file, placed)
        for found in file.passes:
            shown = renamed[found.name]
            placed[shown] = Placed(_recognised(found, shown), file, found.name, (name,))
        for layer in file.ids.values():
            ids[renamed[layer.name]] = replace(layer, name=renamed[layer.name])
    if not attached:
        return SourceFrame(main, placed, ids, lost)
    told = with_light_groups([one.found for one in placed.values()])
    placed = {name: replace(one, found=found) for (name, one), found in zip(placed.items(), told, strict=True)}
    return SourceFrame(main, *with_rank_files(placed, ids, id_layers), lost)


def _names_in(name: str, file: FileInfo, taken: Mapping[str, object]) -> dict[str, str]:
    """One pass has the name it was attached under; several have it in front, but ID layers whose name is free keep theirs."""
    if len(file.passes) == 1:
        return {file.passes[0].name: name}
    return {found.name: found.name if found.kind == "ids" and found.name not in taken else f"{name}.{found.name}" for found in file.passes}


def _recognised(found: FilePass, shown: str) -> FilePass:
    if found.kind == "ids":
        return replace(found, name=shown)
    told = recognise(shown.removesuffix(".rgba"), found.channels, found.types)
    return replace(found, name=shown, kind=told.kind, why=told.why, of=told.of)


def _any_file(path: Path) -> None:
    """Refuse none."""


@dataclass(frozen=True)
class SourceFiles:
    """Where the files of a source lie. `attached` has, for each name, a place and by how many frames it comes later; `check` refuses a file of
    a sequence that may not be read."""

    place: Path
    attached: Mapping[str, tuple[Path, int]] = field(default_factory=dict)
    id_layers: tuple[str, ...] = ()
    check: Callable[[Path], None] = _any_file

    def at(self, number: int, copies: FastCopies) -> SourceFrame:
        """A frame by the number its own file has; an attached file that lacks it is looked at on the nearest frame it has."""

        def info(place: Path, path: Path, frame: int) -> FileInfo:
            if path != place:
                self.check(path)
            return with_id_layers(copies.info(path, frame), self.id_layers)

        main = info(self.place, file_at(self.place, number), number)
        found: dict[str, FileInfo] = {}
        lost: dict[str, Path] = {}
        for name, (place, offset) in self.attached.items():
            wanted = number - offset
            path = file_there(place, wanted) if moves(place) else place
            if path is None:
                lost[name] = file_at(place, wanted)
                present = frames_at(place)
                if not present:
                    continue
                wanted = nearest(present, wanted)
                path = file_at(place, wanted)
            found[name] = info(place, path, wanted)
        return gather(main, found, lost, self.id_layers)


def nearest(frames: list[int], wanted: int) -> int:
    """The frame there is that lies nearest; the earlier of two."""
    return min(frames, key=lambda other: (abs(other - wanted), other))
