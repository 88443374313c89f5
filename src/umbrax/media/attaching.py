"""Files that came by themselves and belong to a source: under which names and kinds they would go with it."""

from dataclasses import dataclass

import numpy as np

from umbrax.core.picture import Window

from .codes import TOPS
from .fastcopies import FastCopies, planes_on
from .file_info import FileInfo
from .finding import Found
from .grouping import passes_by_name
from .recognise import recognise

NEAR_END = 0.02  # how far from 0 or 1 a value of a matte may lie
MOSTLY = 0.85  # the share of such values from which a grey picture is a matte


@dataclass(frozen=True)
class Proposal:
    """How one file or sequence would be attached; `by_value`: no name tells its kind; `doubt` is what does not fit."""

    found: Found
    name: str
    kind: str
    why: str
    by_value: bool = False
    offset: int = 0
    doubt: str | None = None


def propose(found: list[Found], main: Found, copies: FastCopies) -> list[Proposal]:
    """A name, a kind and an offset for each; what cannot be read is left out."""
    assert main.info is not None
    good = [one for one in found if one.info is not None and one.path != main.path]
    names = next(iter(passes_by_name([main.path, *(one.path for one in good)]).values()), {})
    return [_proposal(one, names.get(one.path) or one.name, main.info.display, main.frames, copies) for one in good]


def _proposal(one: Found, name: str, display: Window, frames: list[int], copies: FastCopies) -> Proposal:
    assert one.info is not None
    kind, why, by_value = "other", "nothing in the name tells", False
    if len(one.info.passes) == 1:
        own = one.info.passes[0]
        told = recognise(name, own.channels, own.types)
        kind, why = told.kind, told.why
        if kind == "other" and _is_matte(one.info, copies):
            kind, why, by_value = "single_matte", "grey, and nearly all of it 0 or 1", True
    offset, doubt = 0, None
    if one.frames and frames and not set(one.frames) & set(frames):
        offset = frames[0] - one.frames[0]
        doubt = f"it has frames {one.frames[0]} to {one.frames[-1]}: taken {offset:+d} frames"
    elif one.frames and frames and set(frames) - set(one.frames):
        doubt = f"{len(set(frames) - set(one.frames))} of {len(frames)} frames are missing"
    if one.info.display != display:
        doubt = f"it is {one.info.display.width} x {one.info.display.height}, the source {display.width} x {display.height}"
    return Proposal(one, name, kind, why, by_value, offset, doubt)


def _is_matte(info: FileInfo, copies: FastCopies) -> bool:
    found = info.passes[0]
    planes = planes_on(copies.open(info)[found.name], found.window)[: len(found.channels) - int(found.has_alpha)]
    if not all(np.array_equal(plane, planes[0]) for plane in planes[1:]):
        return False
    values = planes[0].astype(np.float32) / np.float32(TOPS.get(planes.dtype, 1.0))
    ends = float(np.mean((np.abs(values) < NEAR_END) | (np.abs(values - 1) < NEAR_END)))
    return ends > MOSTLY and float(values.max()) > 1 - NEAR_END
