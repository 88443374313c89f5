"""Decoding a whole file once into planes of their own type, whatever passes are wanted: EXR cannot be read by layers."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
from numpy.typing import NDArray

from umbrax.core.picture import Picture

from .files import FileInfo, FilePass, bad_file, inspect, open_input
from .movies import decode_frame

PLANAR_BYTES = 1 << 30  # larger files are read in pieces
DTYPES: dict[str, Any] = {"half": np.float16, "float": np.float32, "uint": np.uint32, "u8": np.uint8, "u16": np.uint16}


Decoded = Iterator[tuple[FilePass, list[NDArray[Any]]]]


def decode(info: FileInfo) -> Decoded:
    """Each pass with its planes `[h, w]`, one a channel, in the channels' own types, bit for bit."""
    if info.format == "movie":
        yield info.passes[0], decode_frame(info)
        return
    planar = _planar(info) if info.format == "openexr" and info.decoded_bytes <= PLANAR_BYTES else None
    if planar is not None:
        yield from planar
        return
    path = Path(info.path)
    source = open_input(path)
    try:
        for part in sorted({p.part for p in info.passes}):
            passes = [p for p in info.passes if p.part == part]
            yield from _part(source, path, part, passes)
    finally:
        source.close()


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
    source = open_input(path)
    try:
        for part in sorted({p.part for p in info.passes}):
            channels = _channels(source, part)
            spec = source.spec()
            end = spec.y + spec.height
            if spec.tile_width:
                start = spec.y + (spec.height - 1) // spec.tile_height * spec.tile_height
                pixels = source.read_tiles(part, 0, spec.x, spec.x + spec.width, start, end, spec.z, spec.z + 1, 0, channels, "float")
            else:
                pixels = source.read_scanlines(part, 0, end - 1, end, spec.z, 0, channels, "float")
            if pixels is None:
                raise bad_file(path, source.geterror() or "it is cut off")
    finally:
        source.close()


def read_picture(path: Path) -> Picture:
    """The first pass of a file as it is written, as floats."""
    info = inspect(path)
    found, planes = next(decode(info))
    return Picture(np.stack([plane.astype(np.float32) for plane in planes], axis=2), found.window)


def _part(source: Any, path: Path, part: int, passes: list[FilePass]) -> Iterator[tuple[FilePass, list[NDArray[Any]]]]:
    kinds = {kind for p in passes for kind in p.types}
    wholes = kinds & {"uint", "u8", "u16"}
    floats = _read(source, path, part, "float", 0, _channels(source, part)) if kinds - wholes else None
    # integer channels asked for as floats come back normalised, so they are read as what they are
    integers = {kind: _integers(source, path, part, kind, passes) for kind in wholes}
    for found in passes:
        planes = []
        for index, kind in zip(found.indices, found.types, strict=True):
            block, first = integers.get(kind, (floats, 0))
            assert block is not None
            planes.append(np.ascontiguousarray(block[:, :, index - first]).astype(DTYPES.get(kind, np.float32), copy=False))
        yield found, planes


def _channels(source: Any, part: int) -> int:
    source.seek_subimage(part, 0)
    return int(source.spec().nchannels)


def _integers(source: Any, path: Path, part: int, kind: str, passes: list[FilePass]) -> tuple[NDArray[Any], int]:
    indices = [i for p in passes for i, t in zip(p.indices, p.types, strict=True) if t == kind]
    first = min(indices)
    wanted = {"uint": "uint", "u8": "uint8", "u16": "uint16"}[kind]
    return _read(source, path, part, wanted, first, max(indices) + 1), first


def _read(source: Any, path: Path, part: int, kind: str, first: int, last: int) -> NDArray[Any]:
    pixels = source.read_image(part, 0, first, last, kind)
    problem = source.geterror()
    if pixels is None or problem:
        raise bad_file(path, problem or "its pixels are damaged or cut off")
    array: NDArray[Any] = np.asarray(pixels)
    return array if array.ndim == 3 else array[:, :, None]
