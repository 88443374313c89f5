"""What is inside a file, a pattern or a folder, as machine-readable data."""

from pathlib import Path
from typing import Any

from umbrax.core.checkup.sequence import frames_in, holes_of

from .decoding import check_end
from .file_info import FileInfo, FilePass, widest_type
from .files import inspect
from .movies import decode_frame, inspect_movie, is_movie
from .places import file_at, frames_at
from .primaries import told_primaries
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
        "ids": [
            {
                "layer": layer.name,
                "kind": layer.kind,
                "ranks": layer.ranks,
                "names": None if layer.names is None else sorted(layer.names),
            }
            for layer in info.ids.values()
        ],
    }


def _described(found: FilePass) -> dict[str, Any]:
    entry = {
        "name": found.name, "kind": found.kind, "channels": list(found.channels), "type": widest_type(found.types),
        "part": found.part, "why": found.why, "window": [found.window.x0, found.window.y0, found.window.x1, found.window.y1],
    }  # fmt: skip
    return entry | ({"of": found.of} if found.of else {})
