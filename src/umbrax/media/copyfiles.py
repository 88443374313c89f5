"""The files of a fast copy: one `.npy` of planes a pass, cut to the box where the pass differs from its first pixel."""

import shutil
import threading
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from umbrax.core.kernels.boxes import differing_box
from umbrax.core.picture import Window

from .file_info import FilePass
from .pieces import Planes
from .sparse import write_sparse

Entry = dict[str, Any]
CUT_ROWS = 64
# headers are Python literals, and Python before 3.11.5 counts how deep it is in one for all threads together (CPython issue 106905)
_ONE_HEADER = threading.Lock()


def mapped_numbers(path: Path) -> NDArray[Any]:
    """The numbers of a `.npy` file where they lie; from many threads.

    Copy-on-write keeps the file untouched and gives kernels the one array kind they are compiled for.
    """
    with _ONE_HEADER:
        numbers: NDArray[Any] = np.load(path, mmap_mode="c")
    return numbers


def bits_of(planes: NDArray[Any]) -> NDArray[Any]:
    """The same values as whole numbers: NaN and IDs compare by their bits."""
    kinds: dict[int, Any] = {1: np.uint8, 2: np.uint16, 4: np.uint32}
    return planes.view(kinds[planes.dtype.itemsize])


def _of_one_type(planes: Planes) -> Planes:
    widest = max((p.dtype for p in planes), key=lambda d: (d.itemsize, d.kind == "f"))
    return [p if p.dtype == widest else p.astype(widest) for p in planes]


def _box(planes: Planes, fills: list[Any]) -> Window:
    box = Window(0, 0, 0, 0)
    for plane, value in zip(planes, fills, strict=True):
        box = box.union(Window(*differing_box(bits_of(plane), value)))
    return box


def _entry(found: FilePass, box: Window, dtype: np.dtype[Any], fills: list[Any]) -> Entry:
    at = Window(box.x0 + found.window.x0, box.y0 + found.window.y0, box.x1 + found.window.x0, box.y1 + found.window.y0)
    return {
        "name": found.name, "window": [at.x0, at.y0, at.x1, at.y1], "area": box.area,
        "shape": [len(fills), box.height, box.width], "dtype": dtype.str, "fill": [int(v) for v in fills],
    }  # fmt: skip


def write_whole(path: Path, found: FilePass, planes: Planes) -> Entry:
    """Write the planes `[h, w]` of a pass, bit for bit, and say what was written."""
    same = _of_one_type(planes)
    fills = [bits_of(p)[0, 0] for p in same]
    box = _box(same, fills)
    if not box.empty:
        file, start = _begin(path, same[0].dtype, (len(same), box.height, box.width))
        with file:
            for plane in same:
                part = bits_of(plane)[box.y0 : box.y1, box.x0 : box.x1]
                write_sparse(file, start, part)
                start += part.nbytes
    return _entry(found, box, same[0].dtype, fills)


def write_numbers(path: Path, numbers: NDArray[Any]) -> None:
    """A `.npy` of numbers of any shape, with holes where they are 0."""
    file, start = _begin(path, numbers.dtype, numbers.shape)
    with file:
        write_sparse(file, start, bits_of(numbers))


class StripWriter:
    """The same for a pass that comes in strips of rows: no more than one strip is held."""

    def __init__(self, path: Path, found: FilePass):
        self.path, self.found = path, found
        self._file: BinaryIO | None = None
        self._dtype: np.dtype[Any] = np.dtype(np.float32)
        self._fills: list[Any] = []
        self._box = Window(0, 0, 0, 0)
        self._start = 0

    def add(self, row: int, planes: Planes) -> None:
        """Rows from `row` on, counted from the top of the pass."""
        same = _of_one_type(planes)
        if self._file is None:
            self._dtype = same[0].dtype
            self._fills = [bits_of(p)[0, 0] for p in same]
            self._file, self._start = _begin(self.path, self._dtype, self._shape(self.found.window))
        box = _box(same, self._fills)
        if not box.empty:
            self._box = self._box.union(Window(box.x0, box.y0 + row, box.x1, box.y1 + row))
        for channel, plane in enumerate(same):
            write_sparse(self._file, self._start + self._offset(self.found.window, channel, row), bits_of(plane))

    def close(self) -> None:
        if self._file is not None:
            self._file.close()

    def finish(self) -> Entry:
        self.close()
        if self._box.empty:
            self.path.unlink()
        elif self._box.area < 0.9 * self.found.window.area:
            self._cut()
        else:
            self._box = Window(0, 0, self.found.window.width, self.found.window.height)
        return _entry(self.found, self._box, self._dtype, self._fills)

    def _shape(self, window: Window) -> tuple[int, int, int]:
        return (len(self._fills), window.height, window.width)

    def _offset(self, window: Window, channel: int, row: int) -> int:
        return (channel * window.height + row) * window.width * self._dtype.itemsize

    def _cut(self) -> None:
        """Write the box alone, some rows at a time."""
        small, box, size = self.path.with_suffix(".cut"), self._box, self._dtype.itemsize
        file, start = _begin(small, self._dtype, self._shape(box))
        with file, open(self.path, "rb") as whole:
            for channel in range(len(self._fills)):
                for row in range(box.y0, box.y1, CUT_ROWS):
                    rows = min(CUT_ROWS, box.y1 - row)
                    whole.seek(self._start + self._offset(self.found.window, channel, row))
                    values = np.fromfile(whole, f"u{size}", rows * self.found.window.width).reshape(rows, -1)
                    write_sparse(file, start + self._offset(box, channel, row - box.y0), values[:, box.x0 : box.x1])
        shutil.move(small, self.path)


def _begin(path: Path, dtype: np.dtype[Any], shape: tuple[int, ...]) -> tuple[BinaryIO, int]:
    """An open `.npy` of that shape with nothing but 0, and where its values begin."""
    file = open(path, "wb", buffering=0)  # noqa: SIM115
    header = {"descr": np.lib.format.dtype_to_descr(dtype), "fortran_order": False, "shape": shape}
    np.lib.format.write_array_header_1_0(file, header)
    start = file.tell()
    file.truncate(start + int(np.prod(shape)) * dtype.itemsize)
    return file, start
