"""A pass under the name it has in a source, and the file, or the files, that it really lies in."""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from umbrax.core.picture import union_of

from .fastcopies import FastCopies, PassCopy, planes_on
from .file_info import FileInfo, FilePass


@dataclass(frozen=True)
class Placed:
    """`inside` is what the file calls it. Where its channels lie in several files, each of the others is one of `more`; `under` are the names
    that these parts of it would have without the others."""

    found: FilePass
    file: FileInfo
    inside: str
    more: "tuple[Placed, ...]" = ()
    under: tuple[str, ...] = ()

    @property
    def files(self) -> Iterator[FileInfo]:
        yield self.file
        for other in self.more:
            yield from other.files

    def copy(self, copies: FastCopies) -> PassCopy:
        first = copies.open(self.file)[self.inside]
        return _together([first, *(other.copy(copies) for other in self.more)], copies) if self.more else first


def _together(parts: list[PassCopy], copies: FastCopies) -> PassCopy:
    """The planes of several copies as those of one, which is kept beside the first of them."""
    window = union_of(part.window for part in parts)
    told = repr([(part.place.parent.name, part.place.name) for part in parts])
    how = f"with-{hashlib.blake2b(told.encode(), digest_size=8).hexdigest()}"
    planes = copies.beside(parts[0], how, lambda: np.concatenate([planes_on(part, window) for part in parts]))
    return PassCopy.held(planes, window, tuple(value for part in parts for value in part.fill))
