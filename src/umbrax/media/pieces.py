"""Passes whose channels lie in several parts of a file, and how they are put together: ID layers may have a part for each two ranks."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umbrax.core.picture import Window

from .file_info import FilePass

DTYPES: dict[str, Any] = {"half": np.float16, "float": np.float32, "uint": np.uint32, "u8": np.uint8, "u16": np.uint16}
Planes = list[NDArray[Any]]
Rows = tuple[Window, Planes]  # where planes lie, and the planes


def stored(passes: Sequence[FilePass]) -> tuple[FilePass, ...]:
    """Passes as they lie in the file, each in one part."""
    return tuple(one for found in passes for one in found.stored)


def parts_of(passes: Sequence[FilePass]) -> list[int]:
    return sorted({found.part for found in passes})


def sharing_parts(passes: Sequence[FilePass]) -> list[list[FilePass]]:
    """Passes in groups that share no part of the file with one another."""
    groups: list[tuple[set[int], list[FilePass]]] = []
    for found in passes:
        parts, members = {one.part for one in found.stored}, [found]
        for group in [group for group in groups if group[0] & parts]:
            groups.remove(group)
            parts, members = parts | group[0], group[1] + members
        groups.append((parts, members))
    return [members for _, members in groups]


def put_together(found: FilePass, read: Mapping[FilePass, Rows], window: Window) -> Planes:
    """The planes of a pass on a window, of those that were read of what is stored of it; a part that does not reach there is zero."""
    planes: Planes = []
    for one in found.stored:
        at, inside = read.get(one, (Window(0, 0, 0, 0), []))
        if at == window:
            planes += inside
            continue
        both = at.intersect(window)
        for number, kind in enumerate(one.types):
            plane = np.zeros((window.height, window.width), DTYPES.get(kind, np.float32))
            if not both.empty:
                plane[both.slices_in(window)] = inside[number][both.slices_in(at)]
            planes.append(plane)
    return planes
