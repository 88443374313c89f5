"""Movies as plates: which frames a movie has, and its frames as planes of whole numbers, in the order they are shown."""

import threading
from collections import OrderedDict
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.video.reformatter import Colorspace
from numpy.typing import NDArray

from umbrax.core.colour import D65, PRIMARIES, Chromaticities
from umbrax.core.errors import UmbraxError, Where
from umbrax.core.picture import Window

from .channels import turned
from .file_info import CodeCurve, FileInfo, FilePass, told_aspect
from .opening import bad_file, check_there, identity_of, reading

ENDINGS = {".mov", ".mp4", ".m4v", ".mkv", ".webm", ".avi", ".mxf"}
FIRST = 1  # the number of a movie's first frame
OPEN_MOVIES = 4
LARGEST_SIDE = 16384
# Recommendation ITU-T H.273, tables 2 and 3: primaries and transfer characteristics by their codes; all others are taken for those of BT.709
PRIMARIES_OF: dict[int, Chromaticities] = {
    5: (0.64, 0.33, 0.29, 0.60, 0.15, 0.06, *D65),
    **dict.fromkeys((6, 7), (0.63, 0.34, 0.31, 0.595, 0.155, 0.07, *D65)),
    9: PRIMARIES["lin_rec2020"], 12: PRIMARIES["lin_p3d65"],
}  # fmt: skip
CURVES_OF = {16: CodeCurve("pq"), 18: CodeCurve("hlg")}
ORIENTATIONS = {-90: 6, 90: 8, 180: 3, -180: 3}  # of TIFF 6.0, by degrees counter-clockwise from how a frame is kept to how it is shown
USUAL_RATES = [*map(Fraction, (24, 25, 30, 48, 50, 60, 100, 120)), *(Fraction(rate * 1000, 1001) for rate in (24, 30, 48, 60, 120))]
HARDLY_OFF = Fraction(1, 500)
UNSAID = 2  # the code of ITU-T H.273 for a matrix that the file does not name
HIGH_DEFINITION = 720  # rows from which an unnamed matrix is that of BT.709, below it that of BT.601 (common practice)


def is_movie(path: Path) -> bool:
    return path.suffix.lower() in ENDINGS


def count_frames(path: Path) -> int:
    """How many frames a movie has, by its packets; headers may be wrong."""
    return len(_opened(path).times)


def frames_in(path: Path) -> range:
    """The numbers of a movie's frames."""
    return range(FIRST, FIRST + count_frames(path))


def rate_of(path: Path) -> float | tuple[int, int]:
    """Frames a second: a whole number, or a fraction such as 24000/1001. One that is hardly off a usual one, as the mean of a camera
    that does not keep to its rate, is taken for that."""
    rate = _opened(path).rate
    usual = min(USUAL_RATES, key=lambda one: abs(one - rate))
    rate = usual if abs(usual - rate) <= usual * HARDLY_OFF else rate
    return float(rate) if rate.denominator == 1 else (rate.numerator, rate.denominator)


def inspect_movie(path: Path, frame: int) -> FileInfo:
    """One frame of a movie as if it were a file: one pass of red, green, blue and, where the movie has it, alpha."""
    movie = _opened(path)
    if not FIRST <= frame < FIRST + len(movie.times):
        last = FIRST + len(movie.times) - 1
        message = f"{path.name!r} has frames {FIRST} to {last}, not {frame}; set the source's offset, or set it to hold"
        raise UmbraxError("missing-frame", message, where=Where(frame=frame, file=str(path)))
    window = Window(0, 0, *turned(movie.orientation, movie.width, movie.height))
    channels = ("R", "G", "B", "A")[: movie.channels]
    types = ("u16" if movie.wide else "u8",) * movie.channels
    found = FilePass(
        "rgba", "beauty", "a frame of a movie", None, channels, types, 0, "", tuple(range(movie.channels)), window,
        orientation=movie.orientation,
    )  # fmt: skip
    wide, high = turned(movie.orientation, movie.pixel_aspect, 1.0)
    return FileInfo(
        str(path), f"{movie.identity}-{frame}", "movie", window, window, (found,), compression=movie.codec, frame=frame,
        curve=CURVES_OF.get(movie.transfer), chromaticities=PRIMARIES_OF.get(movie.primaries), pixel_aspect=wide / high,
    )  # fmt: skip


def decode_frame(info: FileInfo) -> list[NDArray[Any]]:
    """The planes `[h, w]` of a frame as they are kept, uint8 or uint16 by how many bits the movie has."""
    assert info.frame is not None
    pixels = _opened(Path(info.path)).frame(info.frame - FIRST)
    return [np.ascontiguousarray(pixels[..., channel]) for channel in range(pixels.shape[2])]


class _Movie:
    """An open movie. Frames asked for in order cost one decoding each; others begin at the nearest place to start from."""

    def __init__(self, path: Path):
        self.path = path
        self.identity = identity_of(path)
        self._lock = threading.Lock()
        self._container: Any = None
        self._container = av.open(str(path))
        if not self._container.streams.video:
            raise bad_file(path, "it holds no pictures")
        self._stream = self._container.streams.video[0]
        context = self._stream.codec_context
        self._stream.thread_type = "AUTO"
        self.width, self.height, self.codec = int(context.width), int(context.height), str(context.name)
        self.primaries, self.transfer = int(context.color_primaries), int(context.color_trc)
        self.pixel_aspect = told_aspect(context.sample_aspect_ratio or self._stream.sample_aspect_ratio)
        layout = context.format
        if layout is None or not (0 < self.width <= LARGEST_SIDE and 0 < self.height <= LARGEST_SIDE):
            raise bad_file(path, f"its size is {self.width} x {self.height}")
        self.wide = max((component.bits for component in layout.components), default=8) > 8
        names = str(layout.name)
        self.channels = 4 if names.startswith(("yuva", "rgba", "bgra", "argb", "abgr", "gbrap", "ya")) else 3
        self.rate = Fraction(self._stream.average_rate or self._stream.guessed_rate or 24)
        self.times = self._times()
        self._frames: Any = None
        self._next = 0
        self.orientation = self._orientation()

    def _times(self) -> list[int]:
        """When each frame is shown, in the stream's own units, in order."""
        times = [packet.pts for packet in self._container.demux(self._stream) if packet.pts is not None and packet.size]
        if not times:
            raise bad_file(self.path, "it holds no frames")
        return sorted(set(times))

    def _orientation(self) -> int:
        """How frames lie, as a camera that was turned says it with each of them."""
        try:
            return ORIENTATIONS.get(self._decoded(0).rotation, 1)
        except (UmbraxError, av.error.FFmpegError):
            self._frames = None  # what is damaged is told of when that frame is asked for
            return 1

    def frame(self, number: int) -> NDArray[Any]:
        with self._lock, reading(self.path):
            try:
                return self._planes(self._decoded(number))
            except Exception:
                self._frames = None
                raise

    def _decoded(self, number: int) -> Any:
        if self._frames is None or number != self._next:
            self._container.seek(self.times[number], stream=self._stream, backward=True)
            self._frames = self._container.decode(self._stream)
        wanted = self.times[number]
        for frame in self._frames:
            if frame.pts is not None and frame.pts >= wanted:
                if frame.pts > wanted:
                    break
                self._next = number + 1
                return frame
        self._frames = None
        raise bad_file(self.path, f"frame {number + FIRST} is damaged")

    def _planes(self, frame: Any) -> NDArray[Any]:
        kind = {(3, False): "rgb24", (4, False): "rgba", (3, True): "rgb48le", (4, True): "rgba64le"}[(self.channels, self.wide)]
        matrix = None
        if frame.colorspace == UNSAID:
            matrix = Colorspace.ITU709 if self.height >= HIGH_DEFINITION else Colorspace.ITU601
        pixels: NDArray[Any] = frame.reformat(format=kind, src_colorspace=matrix).to_ndarray()
        bits = frame.format.components[-1].bits
        if self.channels == 4 and 8 < bits < 16:
            # the converter only shifts alpha, so that what is opaque would not quite be
            pixels[..., 3] = np.rint((pixels[..., 3] >> (16 - bits)) * (65535 / ((1 << bits) - 1)))
        return pixels


_open: OrderedDict[str, _Movie] = OrderedDict()
_opening = threading.Lock()


def _opened(path: Path) -> _Movie:
    """The movie, kept open for its next frame; opened anew when the file has changed."""
    check_there(path)
    identity = identity_of(path)
    with _opening:
        movie = _open.get(identity)
        if movie is None:
            with reading(path):
                movie = _open[identity] = _Movie(path)
        _open.move_to_end(identity)
        while len(_open) > OPEN_MOVIES:
            # one that is being read stays alive until that is done
            _open.popitem(last=False)
    return movie
