"""Writing movies: finished frames through the view, one after the other, into a file that is complete or not there."""

import contextlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any, Literal

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace
from numpy.typing import NDArray

from umbrax.core.errors import UmbraxError, Where
from umbrax.core.views import View, exact_codes

from .disk import disk_full, is_full
from .writing import not_written, unassociated_codes, written_whole

MovieKind = Literal["h264", "prores_422", "prores_4444"]
SRGB_TRANSFER, BT709_PRIMARIES = 13, 1  # codes of ITU-T H.273
LARGEST_DENOMINATOR = 1001  # of a rate in frames a second, as in 24000/1001, and of the width of a pixel


@dataclass(frozen=True)
class _Coding:
    ending: str
    words: str
    codec: str
    layout: str
    options: dict[str, str] = field(default_factory=dict)
    container: dict[str, str] = field(default_factory=dict)
    alpha: bool = False
    even: tuple[int, int] = (1, 1)  # width and height are multiples of these


LEAST_ROOM = 1 << 20  # bytes; where less is free a write that failed for no other reason failed for that

# an index at the front lets a page play a file while it is fetched; a key frame a half second lets it be scrubbed
CODINGS: dict[MovieKind, _Coding] = {
    "h264": _Coding(
        ".mp4", "H.264", "libx264", "yuv420p", {"crf": "16", "preset": "fast", "g": "12"}, {"movflags": "faststart"}, even=(2, 2)
    ),
    "prores_422": _Coding(".mov", "ProRes 422 HQ", "prores_ks", "yuv422p10le", {"profile": "3", "vendor": "umbx"}, even=(2, 1)),
    "prores_4444": _Coding(
        ".mov", "ProRes 4444", "prores_ks", "yuva444p10le", {"profile": "4", "vendor": "umbx", "alpha_bits": "16"}, alpha=True
    ),
}  # fmt: skip


def ends_as_movie(path: Path) -> bool:
    return path.suffix.lower() in {coding.ending for coding in CODINGS.values()}


def movie_kind(path: Path, wanted: str | None) -> MovieKind:
    """How a movie is coded: by its ending, and where several codings have that by the one that is asked for, else the first."""
    fitting = [kind for kind, coding in CODINGS.items() if coding.ending == path.suffix.lower()]
    if wanted is None and fitting:
        return fitting[0]
    for kind in fitting:
        if kind == wanted:
            return kind
    allowed = " or ".join(fitting) or "one that ends in " + " or ".join(dict.fromkeys(coding.ending for coding in CODINGS.values()))
    raise UmbraxError("bad-type", f"{path.name!r} cannot be a movie of the type {wanted!r}; use {allowed}")


class MovieWriter:
    """An open movie. Frames are light `float32[h, w, 4]`, or coverage `float32[h, w, 1]`, all of one size.

    What has no alpha is seen over black. A width or height that the coding cannot hold is filled by repeating its last pixel.
    """

    def __init__(self, path: Path, temporary: Path, kind: MovieKind, rate: Fraction, pixel_aspect: Fraction, raise_alpha: bool, view: View):
        self.path, self.coding, self.raise_alpha, self.view = path, CODINGS[kind], raise_alpha, view
        self.size: tuple[int, int] | None = None
        self.glows = False
        self._rate, self._pixel_aspect = rate, pixel_aspect
        self._container: Any = av.open(str(temporary), "w", container_options=self.coding.container)
        self._stream: Any = self._container.add_stream(self.coding.codec, rate=rate, options=dict(self.coding.options))

    def add(self, pixels: NDArray[np.float32]) -> None:
        height, width = pixels.shape[:2]
        if self.size is None:
            self._begin(width, height)
        elif self.size != (width, height):
            told = f"a frame of {width} x {height} does not fit a movie of {self.size[0]} x {self.size[1]}"
            raise UmbraxError("bad-size", told, where=Where(file=str(self.path)))
        frame = av.VideoFrame.from_ndarray(self._filled(self._codes(pixels)), format="rgba64le" if self.coding.alpha else "rgb48le")
        frame = frame.reformat(
            format=self.coding.layout, dst_colorspace=Colorspace.ITU709, src_color_range=ColorRange.JPEG, dst_color_range=ColorRange.MPEG
        )
        frame.pts, frame.time_base = self._count, 1 / self._rate
        self._count += 1
        self._container.mux(self._stream.encode(frame))

    def end(self) -> None:
        if self.size is None:
            raise UmbraxError("no-frames", "a movie needs a frame; name at least one")
        self._container.mux(self._stream.encode())
        self._container.close()

    def close(self) -> None:
        """Let go of the file, whole or not."""
        with contextlib.suppress(av.FFmpegError):
            self._container.close()

    def _begin(self, width: int, height: int) -> None:
        self.size, self._count = (width, height), 0
        across, down = self.coding.even
        stream = self._stream
        stream.width, stream.height, stream.pix_fmt = width + -width % across, height + -height % down, self.coding.layout
        context = stream.codec_context
        context.sample_aspect_ratio = self._pixel_aspect
        context.color_primaries, context.color_trc = BT709_PRIMARIES, SRGB_TRANSFER
        context.colorspace, context.color_range = Colorspace.ITU709, ColorRange.MPEG

    def _codes(self, pixels: NDArray[np.float32]) -> NDArray[np.uint16]:
        if pixels.shape[2] == 1:
            grey = np.rint(np.clip(np.nan_to_num(pixels), 0, 1) * 65535).astype(np.uint16)
            return np.concatenate([grey] * 3 + [np.full_like(grey, 65535)] * self.coding.alpha, axis=2)
        if not self.coding.alpha:
            return exact_codes(pixels[..., :3], 65535, self.view)
        codes, glows = unassociated_codes(pixels, "16", self.raise_alpha, self.view)
        self.glows = self.glows or glows
        return codes

    def _filled(self, codes: NDArray[np.uint16]) -> NDArray[np.uint16]:
        height, width = codes.shape[:2]
        across, down = self.coding.even
        return np.pad(codes, ((0, -height % down), (0, -width % across), (0, 0)), mode="edge")


@contextlib.contextmanager
def writing_movie(
    path: Path,
    kind: MovieKind,
    fps: float | tuple[int, int],
    pixel_aspect: float = 1.0,
    *,
    raise_alpha: bool = True,
    view: View = "srgb",
) -> Iterator[MovieWriter]:
    """A movie to add frames to; it is there under its name when the block has ended, and not at all where that fails."""
    rate = Fraction(*fps) if isinstance(fps, tuple) else Fraction(fps).limit_denominator(LARGEST_DENOMINATOR)
    aspect = Fraction(pixel_aspect).limit_denominator(LARGEST_DENOMINATOR)
    with written_whole(path) as temporary:
        try:
            with contextlib.closing(MovieWriter(path, temporary, kind, rate, aspect, raise_alpha, view)) as writer:
                yield writer
                writer.end()
        except av.FFmpegError as error:
            if is_full(error):
                raise disk_full(repr(path.name)).at(Where(file=str(path))) from error
            raise not_written(path, str(error), LEAST_ROOM) from error
