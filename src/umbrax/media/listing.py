"""What is inside a file, a pattern or a folder, as machine-readable data."""

from collections.abc import Iterable
from pathlib import Path
from typing import Any

from umbrax.core.checkup.sequence import frames_in, holes_of
from umbrax.core.plan.reader import IdLayer

from .decoding import check_end
from .fastcopies import FastCopies
from .file_info import FileInfo, FilePass, widest_type
from .files import inspect
from .finding import find_here
from .movies import decode_frame, inspect_movie, is_movie
from .placed import Placed
from .places import file_at, frames_at
from .primaries import told_primaries
from .roots import Roots
from .sequences import frames_named


def list_passes(name: str) -> dict[str, Any]:
    """The answer of `umbrax passes`: passes, kinds, windows, ID layers; frames and holes of a sequence."""
    path, frames = frames_named(name)
    if is_movie(path):
        frames = frames_at(path)
        info = inspect_movie(path, frames[0])
        decode_frame(inspect_movie(path, frames[-1]))
        return describe(info) | {"file": name, "frames": [frames[0], frames[-1]], "missing": []}
    if not frames:
        return describe(_whole(path)) | {"file": name, "frames": None, "missing": []}
    info = _whole(file_at(path, frames[0]))
    return describe(info) | {"file": str(path), "frames": [frames[0], frames[-1]], "missing": frames_in(holes_of(frames))}


def list_together(name: str, copies: FastCopies) -> dict[str, Any] | None:
    """The same of a folder with one file per pass, where each pass says its file; None of all else."""
    folder = Path(name)
    found = find_here(folder.resolve(), copies, Roots([folder])) if folder.is_dir() else []
    one = found[0] if len(found) == 1 else None
    if one is None or not one.attached or (whole := one.whole) is None:
        return None
    told = describe(whole.main) | {"file": str(one.path), "frames": [one.frames[0], one.frames[-1]] if one.frames else None}
    told["passes"] = [_described(placed.found) | {"name": name} | _files_told(placed) for name, placed in whole.placed.items()]
    return told | {"ids": _ids_told(whole.ids.values()), "missing": frames_in(one.missing)}


def _files_told(placed: Placed) -> dict[str, Any]:
    files = [file.path for file in placed.files]
    return {"file": files[0]} | ({"files": files} if len(files) > 1 else {})


def _whole(path: Path) -> FileInfo:
    info = inspect(path)
    check_end(info)
    return info


def describe(info: FileInfo) -> dict[str, Any]:
    """One file's contents without the name it was asked by."""
    return {
        "size": [info.display.width, info.display.height],
        "data_window": [info.data.x0, info.data.y0, info.data.x1, info.data.y1],
        "format": info.format,
        "compression": info.compression,
        "primaries": told_primaries(info),
        "passes": [_described(found) for found in info.passes],
        "ids": _ids_told(info.ids.values()),
    }


def _ids_told(layers: Iterable[IdLayer]) -> list[dict[str, Any]]:
    return [
        {"layer": one.name, "kind": one.kind, "ranks": one.ranks, "names": None if one.names is None else sorted(one.names)} for one in layers
    ]


def _described(found: FilePass) -> dict[str, Any]:
    entry = {
        "name": found.name, "kind": found.kind, "channels": list(found.channels), "type": widest_type(found.types),
        "part": found.part, "why": found.why, "window": [found.window.x0, found.window.y0, found.window.x1, found.window.y1],
    }  # fmt: skip
    return entry | ({"of": found.of} if found.of else {})
