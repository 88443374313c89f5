"""A small picture of a file or sequence before it is taken in: its first frame is decoded for that, and not kept."""

from pathlib import Path

import cv2
import numpy as np

from umbrax.core.document.sources import Source
from umbrax.core.errors import UmbraxError, Where
from umbrax.core.picture import Picture, Window
from umbrax.core.plan.reader import PICTURE_KINDS, PassInfo

from .decoding import WHOLE_BYTES, decode_pass
from .fastcopies import FastCopies, PassCopy
from .file_info import FileInfo
from .places import frames_at, moves
from .reader import MediaReader
from .roots import Roots

WIDEST = 240  # pixels
ITSELF = "it"  # what the one source is called


class _OneByOne(dict[str, PassCopy]):
    """The passes of a file, each decoded as it is asked for: of a render of many passes one is looked at."""

    def __init__(self, info: FileInfo):
        super().__init__()
        self._info = info

    def __missing__(self, name: str) -> PassCopy:
        found = next(one for one in self._info.passes if one.name == name)
        if found.decoded_bytes > WHOLE_BYTES:
            raise UmbraxError("too-large", "this picture is too large to be shown before it is taken in", where=Where(file=self._info.path))
        self[name] = PassCopy.held(decode_pass(self._info, found), found.window)
        return self[name]


class Unkept(FastCopies):
    """Passes as they are decoded; nothing is written."""

    def __init__(self, copies: FastCopies):
        super().__init__(copies.folder, copies.limit)
        self._copies = copies
        self._decoded: dict[str, dict[str, PassCopy]] = {}

    def info(self, path: Path, frame: int = 0) -> FileInfo:
        return self._copies.info(path, frame)

    def open(self, info: FileInfo) -> dict[str, PassCopy]:
        return self._decoded.setdefault(info.identity, _OneByOne(info))


def preview(place: Path, copies: FastCopies, roots: Roots) -> tuple[Picture, PassInfo]:
    """The first frame of a file or pattern, no wider nor higher than `WIDEST`, in the shape it has; and which pass of it that is: its
    picture where it has one."""
    frames = frames_at(place) if moves(place) else [1]
    if not frames:
        raise UmbraxError("missing-file", f"there is no picture {place.name!r}", where=Where(file=str(place)))
    reader = MediaReader({ITSELF: Source.model_validate({"path": str(place)})}, list(roots.folders), Unkept(copies))
    info = reader.describe(ITSELF, frames[0])
    if not info.passes:
        raise UmbraxError("no-pass", f"{place.name!r} has no pass that could be shown", where=Where(file=str(place)))
    order = {kind: number for number, kind in enumerate(PICTURE_KINDS)}
    shown = min(info.passes.values(), key=lambda one: order.get(one.kind, len(order)))
    whole = reader.pixels(ITSELF, frames[0], shown.name, info.display, shown=True)
    wide, high = info.display.width * reader.frame_of(ITSELF, frames[0]).main.pixel_aspect, info.display.height
    less = min(1.0, WIDEST / max(wide, high))
    size = max(1, round(wide * less)), max(1, round(high * less))
    small = cv2.resize(whole, size, interpolation=cv2.INTER_AREA).reshape(size[1], size[0], whole.shape[2])
    return Picture(np.asarray(small, np.float32), Window(0, 0, *size)), shown
