"""A pass under the name it has in a source, and the file, or the files, that it really lies in."""

import hashlib
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umbrax.core.picture import Window, union_of

from .fastcopies import FastCopies, PassCopy, planes_on
from .file_info import FileInfo, FilePass


@dataclass(frozen=True)
class Placed:
    """`inside` is what the file calls it. Where its channels lie in several files, each of these is one of `parts`, and `file` the first.
    `attached` are the names of the files attached to the source that it lies in."""

    found: FilePass
    file: FileInfo
    inside: str
    attached: tuple[str, ...] = ()
    parts: "tuple[Placed, ...]" = ()

    @property
    def files(self) -> list[FileInfo]:
        return [part.file for part in self.parts] or [self.file]

    def copy(self, copies: FastCopies) -> PassCopy:
        if not self.parts:
            return copies.open(self.file)[self.inside]
        return _together([part.copy(copies) for part in self.parts], [part.found.window for part in self.parts], copies)


def _together(parts: list[PassCopy], wholes: list[Window], copies: FastCopies) -> PassCopy:
    """The planes of several copies, each of a pass on its own window, as those of one; kept beside the first of them."""
    alike = all(whole == wholes[0] for whole in wholes)
    window = union_of([part.window for part in parts] if alike else wholes)
    told = repr([(part.place.parent.name, part.place.name) for part in parts])
    how = f"with-{hashlib.blake2b(told.encode(), digest_size=8).hexdigest()}"
    planes = copies.beside(parts[0], how, lambda: np.concatenate([_on(*part, window) for part in zip(parts, wholes, strict=True)]))
    fill = tuple(value for part in parts for value in part.fill)
    return PassCopy.held(planes, window, fill if alike else (0,) * len(fill))


def _on(copy: PassCopy, whole: Window, window: Window) -> NDArray[Any]:
    """The planes of a copy on a window; 0 where its pass has none."""
    if whole.contains(window):
        return planes_on(copy, window)
    out = np.zeros((len(copy.fill), window.height, window.width), copy.dtype)
    y, x = whole.y0 - window.y0, whole.x0 - window.x0
    out[:, y : y + whole.height, x : x + whole.width] = planes_on(copy, whole)
    return out
