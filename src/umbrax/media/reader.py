"""The core's PassReader over real files: sources of a shot, frame by frame, through fast copies."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from umbrax.core.colour import linear_from_film_log, linear_from_srgb
from umbrax.core.document.sources import PassSetting, Source
from umbrax.core.errors import UmbraxError, Where
from umbrax.core.kernels import blank
from umbrax.core.kernels.resample import reduce_area
from umbrax.core.kernels.unpacking import unpacked
from umbrax.core.picture import Picture, Window
from umbrax.core.plan.reader import PICTURE_KINDS, FrameInfo, IdLayer, is_light
from umbrax.core.registry import unknown

from .adjusting import NOTHING_SET, adjusted, adjusted_info, backdrop_in, bared, covered, grown, reach_of, takes_backdrop
from .fastcopies import FastCopies, PassCopy, planes_on, ranks_on
from .file_info import FilePass
from .gathering import SourceFiles, SourceFrame, is_frame_there, nearest
from .movies import is_movie
from .places import file_at, frames_at, is_there, moves
from .roots import Roots
from .typefaces import typeface

ROWS_OF = 16_000_000  # pixels that are reduced at a time
REDUCED_FROM = 400_000  # pixels of a pass: smaller ones are reduced as fast as they are read
TOPS = {np.dtype(np.uint8): 255.0, np.dtype(np.uint16): 65535.0}


class MediaReader:
    """Reads the sources of one shot. Paths are tried in each root in turn; a path that leaves them all is refused."""

    def __init__(self, sources: Mapping[str, Source], roots: list[Path], copies: FastCopies):
        self.sources = sources
        self.roots = Roots(roots)
        self.copies = copies
        self._files: dict[str, SourceFiles] = {}
        self._frames: dict[tuple[str, int], SourceFrame] = {}

    def place_of(self, source: str) -> Path:
        """The file or pattern of a source, in the folder that holds it."""
        return self._inside(self._named(source).path, source)

    def _named(self, source: str) -> Source:
        if source not in self.sources:
            raise UmbraxError("unknown-source", unknown("source", source, list(self.sources)))
        return self.sources[source]

    def _inside(self, text: str, source: str) -> Path:
        first: Path | None = None
        for path in self.roots.places_of(text):
            if is_there(path):
                return path
            first = first or path
        if first is None:
            raise _outside(text, source)
        return first

    def _check_inside(self, path: Path, source: str) -> None:
        """A file of a sequence may be a link that leads elsewhere."""
        if not self.roots.holds(path):
            raise _outside(path.name, source)

    def files_of(self, source: str) -> SourceFiles:
        """Where the files of a source lie."""
        found = self._named(source)
        if source not in self._files:
            attached = {name: (self._inside(one.path, source), one.offset) for name, one in found.attached.items()}
            self._files[source] = SourceFiles(self.place_of(source), attached, found.id_layers)
        return self._files[source]

    def frame_of(self, source: str, frame: int) -> SourceFrame:
        """All passes of a source on a shot frame; `hold` takes the nearest frame there is. A reader sees a file as it first found it."""
        if (source, frame) not in self._frames:
            self._frames[source, frame] = self._found_frame(source, frame)
        return self._frames[source, frame]

    def _found_frame(self, source: str, frame: int) -> SourceFrame:
        files = self.files_of(source)
        wanted = self.sources[source]
        number = frame - wanted.offset
        if moves(files.place) and not is_frame_there(files.place, number):
            present = frames_at(files.place) if wanted.missing == "hold" else []
            if not present:
                path = file_at(files.place, number)
                what = f"{path.name!r} has no frame {number}" if is_movie(path) else f"there is no file {path.name!r}"
                message = f"source {source!r} has no frame {frame}: {what}; render it, or set the source to hold"
                raise UmbraxError("missing-frame", message, where=Where(frame=frame, file=str(path)))
            number = nearest(present, number)
        for place, offset in ((files.place, 0), *files.attached.values()):
            if (path := file_at(place, number - offset)) != place:
                self._check_inside(path, source)
        return files.at(number, self.copies)

    def describe(self, source: str, frame: int) -> FrameInfo:
        info = adjusted_info(self.frame_of(source, frame).frame_info, self.sources[source])
        setting = self.sources[source].colour
        return info if setting == "auto" else replace(info, identity=f"{info.identity} {setting}")

    def pixels(self, source: str, frame: int, name: str, window: Window, shown: bool = False) -> NDArray[np.float32]:
        whole = self.frame_of(source, frame)
        placed = whole.where(name)
        found, copy = placed.found, placed.copy(self.copies)
        wanted = self.sources[source]
        setting = wanted.passes.get(name, NOTHING_SET)
        kind = setting.kind or found.kind
        backdrop = backdrop_in(wanted, whole.placed, whole.ids)
        light, bare = is_light(kind, shown), takes_backdrop(backdrop, kind, name)
        wide = grown(window, reach_of(setting, bare), found.window)
        multiplied = setting.association == "multiply" or (setting.association == "file" and found.unassociated)
        curve = _curve(wanted.colour, copy.dtype, placed.file.film_log) if light else None
        # codes are decoded as they lie, but for those that carry their alpha already
        table = _table(curve, copy.dtype) if curve and copy.dtype in TOPS and (multiplied or not found.has_alpha) else None
        out = _floats(copy, wide, light and not setting.repair, table, len(found.channels) - int(found.has_alpha))
        if light:
            out = _as_light(out, found.has_alpha, multiplied, curve if table is None else None)
        if setting != NOTHING_SET:
            out = adjusted(out, found.has_alpha, setting, wide, whole.main.display)
        if bare and backdrop is not None:
            behind = None if backdrop.clean is None else self.pixels(source, frame, backdrop.clean, wide)
            cover = covered(*self.ranks(source, frame, backdrop.layer, wide))
            out = bared(out, found.has_alpha, kind == "beauty", cover, behind)
        return out if wide == window else np.ascontiguousarray(Picture(out, wide).crop(window).pixels)

    def keeps(self, source: str, frame: int, name: str, n: int) -> bool:
        """Light of large frames that is read as it is; whole blocks only, so that no border is averaged with what lies outside."""
        wanted = self.sources[source]
        whole = self.frame_of(source, frame)
        found = whole.where(name).found
        setting = wanted.passes.get(name, NOTHING_SET)
        kind = setting.kind or found.kind
        bare = takes_backdrop(backdrop_in(wanted, whole.placed, whole.ids), kind, name)
        plain = wanted.colour == "auto" and setting == PassSetting(kind=setting.kind, alpha=setting.alpha)
        fits = all(edge % n == 0 for edge in (found.window.x0, found.window.y0, found.window.x1, found.window.y1))
        return plain and fits and found.window.area >= REDUCED_FROM and kind in PICTURE_KINDS and not bare

    def reduced(self, source: str, frame: int, name: str, n: int, window: Window) -> NDArray[np.float32]:
        placed = self.frame_of(source, frame).where(name)
        found, copy = placed.found, placed.copy(self.copies)
        whole = found.window.scaled(n)
        pixels = self.copies.reduced(copy, n, lambda: self._reduced_in_rows(source, frame, found, name, n))
        y, x = window.y0 - whole.y0, window.x0 - whole.x0
        return np.ascontiguousarray(pixels[y : y + window.height, x : x + window.width])

    def _reduced_in_rows(self, source: str, frame: int, found: FilePass, name: str, n: int) -> NDArray[np.float32]:
        window, whole = found.window, found.window.scaled(n)
        out = blank(whole.height, whole.width, len(found.channels))
        rows = max(1, ROWS_OF // (window.width * n)) * n
        for y in range(window.y0, window.y1, rows):
            band = Window(window.x0, y, window.x1, min(y + rows, window.y1))
            first = (y - window.y0) // n
            out[first : first + band.height // n] = reduce_area(self.pixels(source, frame, name, band), n)
        return out

    def typeface(self, name: str) -> bytes:
        return typeface(name)

    def held(self, source: str, frame: int, layer: str) -> Window:
        placed = self.frame_of(source, frame).where(layer)
        copy = placed.copy(self.copies)
        return placed.found.window if any(copy.fill) else copy.window

    def ranks(self, source: str, frame: int, layer: str, window: Window) -> tuple[NDArray[np.uint32], NDArray[np.float32]]:
        return ranks_on(self.frame_of(source, frame).where(layer).copy(self.copies), window)

    def layers(self, source: str, frame: int) -> dict[str, IdLayer]:
        return self.frame_of(source, frame).ids


Curve = Callable[[Any], Any]


def _curve(colour: str, dtype: np.dtype[Any], film_log: bool) -> Curve | None:
    """What turns a file's codes into linear light; None where they are it already."""
    if colour == "auto":
        colour = "lin_rec709" if dtype.kind != "u" else "film_log" if film_log else "srgb_tx"
    curves: dict[str, Curve] = {"srgb_tx": linear_from_srgb, "film_log": linear_from_film_log}
    return curves.get(colour)


@cache
def _table(curve: Curve, dtype: np.dtype[Any]) -> NDArray[np.float32]:
    """The light of each code of 8 or 16 bits."""
    top = np.float32(TOPS[dtype])
    return np.asarray(curve(np.arange(top + 1, dtype=np.float32) / top), np.float32)


def _decoded(codes: NDArray[Any], table: NDArray[np.float32]) -> NDArray[np.float32]:
    return np.asarray(cv2.LUT(codes, table[None])) if codes.dtype == np.uint8 else table[codes]


def _as_light(pixels: NDArray[np.float32], has_alpha: bool, multiply: bool, curve: Curve | None) -> NDArray[np.float32]:
    """Linear, and associated where the file or the setting says that it is not yet.

    Codes that carry their alpha already are divided by it before they are decoded and multiplied after: the curve was laid
    on the colour, alpha on the code.
    """
    if not has_alpha:
        return pixels if curve is None else np.asarray(curve(pixels), np.float32)
    colours, alpha = pixels[..., :-1], pixels[..., -1:]
    if curve is not None:
        colours[:] = curve(colours if multiply else colours / np.where(alpha > 0, alpha, 1))
    if multiply or curve is not None:
        # light without alpha stays what it is
        np.multiply(colours, alpha, out=colours, where=multiply | (alpha > 0))
    return pixels


def _outside(text: str, source: str) -> UmbraxError:
    message = f"source {source!r} leads outside the media folders: {text!r}; move the files into one of them"
    return UmbraxError("outside", message, where=Where(file=text))


def _floats(copy: PassCopy, window: Window, finite: bool, table: NDArray[np.float32] | None, colours: int) -> NDArray[np.float32]:
    """`float32[h, w, c]` on a window: halves and floats as they are, 8 and 16 bit to 0..1, larger integers as numbers.

    `finite`: NaN and infinities become 0, since one of them would spread over the frame. `table` holds the light of each code; the
    first `colours` channels are decoded by it.
    """
    if copy.dtype.kind == "f":
        place = (copy.window.y0 - window.y0, copy.window.x0 - window.x0)
        return unpacked(copy.planes, place, copy.outside, (window.height, window.width), finite)
    planes = planes_on(copy, window)
    out = np.empty((*planes.shape[1:], planes.shape[0]), np.float32)
    for channel, plane in enumerate(planes):
        if table is not None and channel < colours:
            out[..., channel] = _decoded(plane, table)
        else:
            out[..., channel] = plane
            if planes.dtype in TOPS:
                out[..., channel] /= np.float32(TOPS[planes.dtype])
    return out
