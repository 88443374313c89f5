"""The core's PassReader over real files: sources of a shot, frame by frame, through fast copies."""

from collections.abc import Mapping
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from umbrax.core.colour import WORKING, Working
from umbrax.core.document.sources import PassSetting, Source
from umbrax.core.errors import UmbraxError, Where
from umbrax.core.kernels import blank
from umbrax.core.kernels.mixing import mix
from umbrax.core.kernels.resample import reduce_area
from umbrax.core.picture import Picture, Window
from umbrax.core.plan.reader import PICTURE_KINDS, FrameInfo, IdLayer, is_light
from umbrax.core.registry import unknown
from umbrax.core.views import View

from .adjusting import NOTHING_SET, adjusted, adjusted_info, backdrop_in, bared, covered, grown, reach_of, takes_backdrop
from .codes import TOPS, as_floats, as_light, curve_of, is_by_channel, table_of
from .decoding import comes_in_strips
from .fastcopies import FastCopies, ranks_on
from .file_info import FilePass
from .gathering import SourceFiles, SourceFrame, nearest
from .movies import is_movie
from .places import file_at, file_there, frames_at, is_there, moves
from .primaries import is_turned, to_working
from .roots import Roots
from .typefaces import typeface

ROWS_OF = 16_000_000  # pixels that are reduced at a time
REDUCED_FROM = 400_000  # pixels of a pass: smaller ones are reduced as fast as they are read


class MediaReader:
    """Reads the sources of one shot. Paths are tried in each root in turn; a path that leaves them all is refused."""

    def __init__(
        self, sources: Mapping[str, Source], roots: list[Path], copies: FastCopies, view: View = "srgb", working: Working = WORKING
    ):  # fmt: skip
        self.sources = sources
        self.view: View = view  # what pictures that were made for a display are shown through
        self.working: Working = working
        self.roots = Roots(roots)
        self.copies = copies
        self._files: dict[str, SourceFiles] = {}
        self._frames: dict[tuple[str, int], SourceFrame] = {}

    @property
    def _worked(self) -> str:
        """What it is called what light was turned into."""
        return "" if self.working == WORKING else f"-{self.working}"

    def place_of(self, source: str) -> Path:
        """The file or pattern of a source, in the folder that holds it."""
        return self._inside(self._named(source).path, source)

    def _named(self, source: str) -> Source:
        if source not in self.sources:
            raise UmbraxError("unknown-source", unknown("source", source, list(self.sources)))
        return self.sources[source]

    def _inside(self, text: str, source: str) -> Path:
        there = self.roots.first_of(text, is_there) or next(self.roots.places_of(text), None)
        if there is None:
            raise _outside(text, source)
        return there

    def _check_inside(self, path: Path, source: str) -> None:
        """A file of a sequence may be a link that leads elsewhere."""
        if not self.roots.holds(path):
            raise _outside(path.name, source)

    def files_of(self, source: str) -> SourceFiles:
        """Where the files of a source lie."""
        found = self._named(source)
        if source not in self._files:
            attached = {name: (self._inside(one.path, source), one.offset) for name, one in found.attached.items()}
            self._files[source] = SourceFiles(self.place_of(source), attached, found.id_layers, lambda path: self._check_inside(path, source))
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
        if moves(files.place) and file_there(files.place, number) is None:
            present = frames_at(files.place) if wanted.missing == "hold" else []
            if not present:
                path = file_at(files.place, number)
                what = f"{path.name!r} has no frame {number}" if is_movie(path) else f"there is no file {path.name!r}"
                message = f"source {source!r} has no frame {frame}: {what}; render it, or set the source to hold"
                raise UmbraxError("missing-frame", message, where=Where(frame=frame, file=str(path)))
            number = nearest(present, number)
        return files.at(number, self.copies)

    def takes_long(self, frame: int) -> bool:
        """Whether a large file of this frame has to be decoded before anything of it can be read."""
        for source in self.sources:
            with suppress(UmbraxError):
                files = self.frame_of(source, frame).files
                if any(comes_in_strips(file) and not self.copies.has(file) for file in files):
                    return True
        return False

    def describe(self, source: str, frame: int) -> FrameInfo:
        whole = self.frame_of(source, frame)
        info = adjusted_info(whole.frame_info, self.sources[source])
        setting = self.sources[source].colour
        if setting == "auto" and not is_turned(whole.main, self.working):
            return info
        # what was made of turned light is not what was made of it as it lies in the file
        told = {"auto": "turned", "display": f"display {self.view}"}.get(setting, setting)
        return replace(info, identity=f"{info.identity} {told}{self._worked}")

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
        curve = curve_of(wanted.colour, copy.dtype, placed.file.curve, self.view) if light else None
        # codes are decoded as they lie, but for those that carry their alpha already
        by_table = copy.dtype in TOPS and (multiplied or not found.has_alpha)
        table = table_of(curve, copy.dtype) if curve is not None and by_table and is_by_channel(curve) else None
        out = as_floats(copy, wide, light and not setting.repair, table, len(found.channels) - int(found.has_alpha))
        if light:
            out = as_light(out, found.has_alpha, multiplied, curve if table is None else None)
            matrix = to_working(wanted.colour, placed.file, self.working)
            if matrix is not None and out.shape[2] - int(found.has_alpha) == 3:
                mix(out, matrix)
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
        # copies may be older than what reads what a file says
        how = f"-working{self._worked}" if is_turned(placed.file, self.working) else ""
        pixels = self.copies.beside(copy, f"{n}{how}", lambda: self._reduced_in_rows(source, frame, found, name, n))
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


def _outside(text: str, source: str) -> UmbraxError:
    message = f"source {source!r} leads outside the media folders: {text!r}; move the files into one of them"
    return UmbraxError("outside", message, where=Where(file=text))
