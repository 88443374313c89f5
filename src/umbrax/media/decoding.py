"""Decoding a whole file once into planes of their own type, whatever passes are wanted: EXR cannot be read by layers."""

from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import replace
from math import lcm
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import OpenEXR
from numpy.typing import NDArray

from umbrax.core.kernels.packing import halves
from umbrax.core.picture import Picture, Window, union_of

from .file_info import FileInfo, FilePass
from .files import inspect
from .movies import decode_frame
from .opening import bad_file, open_input, reading
from .pieces import DTYPES, Rows, parts_of, put_together, sharing_parts, stored

WHOLE_BYTES = 384 << 20  # files that are larger once decoded are read in strips
STRIP_ROWS = 128
STRIP_BYTES = 128 << 20  # of a strip as floats: of wide files with many channels strips are lower
LOWEST_STRIP = 32  # rows, which most compressions hold together
BLOCK_ROWS = {"dwab": 256}  # rows that a compression holds together, where these are more
READ_AS = {"half": "half", "uint": "uint", "u8": "uint8", "u16": "uint16"}

Decoded = Iterator[tuple[FilePass, list[NDArray[Any]]]]


def decode(info: FileInfo) -> Decoded:
    """Each pass with its planes `[h, w]`, one a channel, in the channels' own types, bit for bit."""
    if info.format == "movie":
        found = info.passes[0]
        yield found, [upright(plane, found.orientation) for plane in decode_frame(info)]
        return
    whole = {piece: found for found in info.passes for piece in found.pieces}
    waiting: dict[FilePass, Rows] = {}
    for found, planes in _stored(replace(info, passes=stored(info.passes))):
        if found not in whole:
            yield found, planes
            continue
        waiting[found], merged = (found.window, planes), whole[found]
        if all(piece in waiting for piece in merged.pieces):
            yield merged, put_together(merged, {piece: waiting.pop(piece) for piece in merged.pieces}, merged.window)


def _stored(info: FileInfo) -> Decoded:
    """The same of passes that lie in one part each."""
    planar = _planar(info) if info.format == "openexr" else None
    if planar is not None:
        yield from planar
        return
    path = Path(info.path)
    with reading(path), closing(open_input(path)) as source:
        for part in parts_of(info.passes):
            passes = [p for p in info.passes if p.part == part]
            yield from _part(source, path, part, passes)


def comes_in_strips(info: FileInfo) -> bool:
    """Whether a file is too large to be held whole; one that is to be turned has no strips."""
    turned = any(found.orientation != 1 for found in info.passes)
    return info.format != "movie" and info.decoded_bytes > WHOLE_BYTES and not turned


def upright(plane: NDArray[Any], orientation: int) -> NDArray[Any]:
    """A plane `[h, w]` as it is to be looked at (TIFF 6.0, tag Orientation): 3 is half a turn, 6 and 8 a quarter."""
    if orientation >= 5:
        plane = plane.T
    rows, columns = orientation in (3, 4, 7, 8), orientation in (2, 3, 6, 7)
    return np.ascontiguousarray(plane[:: -1 if rows else 1, :: -1 if columns else 1])


def decode_strips(info: FileInfo) -> Iterator[tuple[FilePass, int, list[NDArray[Any]]]]:
    """Each strip of each pass: the pass, the strip's first row from the top of the pass, and its planes; from top to bottom."""
    path = Path(info.path)
    with reading(path), closing(open_input(path)) as source:
        for passes in sharing_parts(info.passes):
            inside = stored(passes)
            specs = {part: source.spec(part, 0) for part in parts_of(inside)}
            whole = union_of(found.window for found in inside)
            rows = max(_strip_rows(whole.width * sum(len(found.indices) for found in inside)), BLOCK_ROWS.get(info.compression, 0))
            tiles = lcm(*(spec.tile_height for spec in specs.values() if spec.tile_width))
            rows = -(-rows // tiles) * tiles
            for top in range(whole.y0, whole.y1, rows):
                strip, read = whole._replace(y0=top, y1=min(whole.y1, top + rows)), dict[FilePass, Rows]()
                for part, spec in specs.items():
                    read |= _strip(source, path, spec, part, [found for found in inside if found.part == part], strip)
                for found in passes:
                    at = strip.intersect(found.window)
                    if not at.empty:
                        yield found, at.y0 - found.window.y0, put_together(found, read, at)


def _strip_rows(values: int) -> int:
    """How many rows of so many values a strip has."""
    fitting = STRIP_BYTES // max(4 * values, 1)
    return STRIP_ROWS if fitting >= STRIP_ROWS else max(LOWEST_STRIP, fitting // LOWEST_STRIP * LOWEST_STRIP)


def _strip(source: Any, path: Path, spec: Any, part: int, passes: list[FilePass], strip: Window) -> dict[FilePass, Rows]:
    """What of the passes of a part lies in a strip."""
    window = passes[0].window
    at = strip.intersect(window)  # as wide as the part: a strip is as wide as all of them
    if at.empty:
        return {}
    down = spec.y - window.y0

    def read(kind: str, first: int, last: int) -> Any:
        return _rows(source, spec, part, (at.y0 + down, at.y1 + down), kind, first, last)

    return {found: (at, planes) for found, planes in _planes(source, path, passes, read)}


def decode_pass(info: FileInfo, found: FilePass) -> NDArray[Any]:
    """The planes of one pass of a file as `[channel, h, w]`, whatever else the file holds."""
    if not comes_in_strips(info):  # decoding all of it is quicker than a part of its channels
        return np.stack(next(planes for one, planes in decode(info) if one.name == found.name))
    kind = np.result_type(*(DTYPES.get(kind, np.float32) for kind in found.types))
    whole = np.empty((len(found.types), found.window.height, found.window.width), kind)
    for _, row, planes in decode_strips(replace(info, passes=(found,))):
        for plane, rows in zip(whole, planes, strict=True):
            plane[row : row + len(rows)] = rows
    return whole


def _rows(source: Any, spec: Any, part: int, ends: tuple[int, int], kind: str, first: int, last: int) -> Any:
    """Rows of a part from one to before another, with a range of channels as one type."""
    if spec.tile_width:  # whole rows of tiles
        top = ends[0] - (ends[0] - spec.y) % spec.tile_height
        bottom = min(spec.y + spec.height, ends[1] + -(ends[1] - spec.y) % spec.tile_height)
        block = source.read_tiles(part, 0, spec.x, spec.x + spec.width, top, bottom, spec.z, spec.z + 1, first, last, kind)
        return None if block is None else block[ends[0] - top : ends[1] - top]
    return source.read_scanlines(part, 0, *ends, spec.z, first, last, kind)


def _planar(info: FileInfo) -> list[tuple[FilePass, list[NDArray[Any]]]] | None:
    """All planes of an EXR by one decoding, each in its own type; None where the file needs the careful way.

    The OpenEXR package leaves out, with a line on standard error, a part that it cannot decode: then nothing is taken.
    """
    try:
        with OpenEXR.File(info.path, separate_channels=True) as file:
            parts = [{name: channel.pixels for name, channel in part.channels.items()} for part in file.parts]
    except Exception:
        return None
    result = []
    for found in info.passes:
        planes = [parts[found.part].get(channel) for channel in found.channels] if found.part < len(parts) else [None]
        size, kinds = (found.window.height, found.window.width), [DTYPES.get(kind) for kind in found.types]
        for plane, kind in zip(planes, kinds, strict=False):
            if plane is None or plane.shape != size or plane.dtype != kind:
                return None
        result.append((found, [np.ascontiguousarray(plane) for plane in planes]))
    return result


def check_end(info: FileInfo) -> None:
    """Read the last rows of every part: a file that was cut off is refused without decoding it whole."""
    path = Path(info.path)
    with reading(path), closing(open_input(path)) as source:
        for part in parts_of(stored(info.passes)):
            channels = _channels(source, part)
            spec = source.spec()
            end = spec.y + spec.height
            start = spec.y + (spec.height - 1) // spec.tile_height * spec.tile_height if spec.tile_width else end - 1
            pixels = _rows(source, spec, part, (start, end), "float", 0, channels)
            if pixels is None:
                raise bad_file(path, source.geterror() or "it is cut off")


def read_picture(path: Path) -> Picture:
    """The first pass of a file as it is written, as floats."""
    info = inspect(path)
    found, planes = next(decode(info))
    return Picture(np.stack([plane.astype(np.float32) for plane in planes], axis=2), found.window)


def _part(source: Any, path: Path, part: int, passes: list[FilePass]) -> Iterator[tuple[FilePass, list[NDArray[Any]]]]:
    def read(kind: str, first: int, last: int) -> Any:
        return source.read_image(part, 0, first, last, kind)

    for found, planes in _planes(source, path, passes, read):
        yield found, planes if found.orientation == 1 else [upright(plane, found.orientation) for plane in planes]


Read = Callable[[str, int, int], Any]


def _planes(source: Any, path: Path, passes: list[FilePass], read: Read) -> Iterator[tuple[FilePass, list[NDArray[Any]]]]:
    """Planes of passes of one part, by a function that reads a range of channels as one type.

    Integers are read as what they are: asked for as floats they come back normalised. So are halves, which would take twice the
    memory, but for those beside floats: each reading decodes all there is, and a half that was made a float and back is the same half
    (a NaN is a NaN).
    """
    as_read = dict(READ_AS)
    if {"half", "float"} <= {READ_AS.get(kind, "float") for found in passes for kind in found.types}:
        as_read["half"] = "float"
    blocks: dict[str, dict[int, NDArray[Any]]] = {}
    indices: dict[str, list[int]] = {}
    for found in passes:
        for index, kind in zip(found.indices, found.types, strict=True):
            indices.setdefault(as_read.get(kind, "float"), []).append(index)
    for kind, those in indices.items():
        first, last = min(those), max(those) + 1
        blocks[kind] = _split(_checked(source, path, read(kind, first, last)), first)
    for found in passes:
        yield (
            found,
            [_as_stored(blocks[as_read.get(kind, "float")][index], kind) for index, kind in zip(found.indices, found.types, strict=True)],
        )


def _as_stored(plane: NDArray[Any], kind: str) -> NDArray[Any]:
    return halves(plane) if kind == "half" and plane.dtype == np.float32 else plane


def _split(block: NDArray[Any], first: int) -> dict[int, NDArray[Any]]:
    """Each channel of `[h, w, c]` by itself, under its number."""
    if block.shape[2] == 1:
        return {first: np.ascontiguousarray(block[:, :, 0])}
    like: Any = {2: np.uint16, 4: np.int32}.get(block.dtype.itemsize, np.uint8)
    planes = cv2.split(np.ascontiguousarray(block).view(like))
    return {first + number: np.asarray(plane).view(block.dtype) for number, plane in enumerate(planes)}


def _channels(source: Any, part: int) -> int:
    source.seek_subimage(part, 0)
    return int(source.spec().nchannels)


def _checked(source: Any, path: Path, pixels: Any) -> NDArray[Any]:
    problem = source.geterror()
    if pixels is None or problem:
        raise bad_file(path, problem or "its pixels are damaged or cut off")
    array: NDArray[Any] = np.asarray(pixels)
    return array if array.ndim == 3 else array[:, :, None]
