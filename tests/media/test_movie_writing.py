"""Movies that are handed off: what is in them is the frames through the view, and a file is whole or not there."""

import resource
import signal
from collections.abc import Iterable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from umbrax.core.colour import exact_codes, linear_from_srgb
from umbrax.core.errors import UmbraxError
from umbrax.media.movie_writing import CODINGS, MovieKind, movie_kind, writing_movie
from umbrax.media.movies import count_frames, decode_frame, inspect_movie
from umbrax.media.writing import unassociated_codes

HEIGHT, WIDTH, COUNT = 90, 160, 14
# of 255 codes: what the coding loses of slow ramps, in the mean and at the 99th percentile
LOSSES: dict[MovieKind, tuple[float, float]] = {"h264": (1.5, 5), "prores_422": (0.5, 2), "prores_4444": (0.3, 1)}


def light(number: int, height: int = HEIGHT, width: int = WIDTH) -> np.ndarray:
    """Slow ramps, other ones in every frame; see-through on the left."""
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    display = np.stack([x / width, y / height, np.full_like(x, number / COUNT)], axis=2)
    alpha = np.clip((x[..., None] + 20) / 80, 0, 1)
    return np.concatenate([linear_from_srgb(display) * alpha, alpha], axis=2).astype(np.float32)


def written(folder: Path, kind: MovieKind, frames: Iterable[np.ndarray], fps: Any = 24, **how: Any) -> Path:
    path = folder / f"movie{CODINGS[kind].ending}"
    with writing_movie(path, kind, fps, **how) as movie:
        for frame in frames:
            movie.add(frame)
    return path


def frame_of(path: Path, number: int) -> np.ndarray:
    """The codes of a frame, 0..255."""
    planes = decode_frame(inspect_movie(path, number))
    return np.stack(planes, axis=2) * (255 / np.iinfo(planes[0].dtype).max)


@pytest.mark.parametrize("kind", CODINGS)
def test_every_frame_is_the_picture_through_the_view(kind: MovieKind, tmp_path: Path) -> None:
    """IEC 61966-2-1 over black; with alpha, colours divided by it, and the alpha beside them."""
    frames = [light(number) for number in range(COUNT)]
    path = written(tmp_path, kind, frames)
    assert count_frames(path) == COUNT
    for number in (1, 2, 9, COUNT):
        picture = frames[number - 1]
        expected = unassociated_codes(picture, "16", True)[0] if CODINGS[kind].alpha else exact_codes(picture[..., :3], 65535)
        off = np.abs(frame_of(path, number) - expected / 257)
        assert off.shape == expected.shape
        mean, most = LOSSES[kind]
        assert off.mean() <= mean
        assert np.percentile(off, 99) <= most
    assert [file.name for file in tmp_path.iterdir()] == [path.name], "nothing is left beside it"


@pytest.mark.parametrize("kind", CODINGS)
def test_colours_are_coded_and_named_as_bt709(kind: MovieKind, tmp_path: Path) -> None:
    """Red, green and blue of ITU-R BT.709-6 in 8 bits: 63 102 240, 173 42 26, 32 240 118; codes of ITU-T H.273."""
    bars = np.zeros((48, 96, 4), np.float32)
    bars[..., 3] = 1
    for index in range(3):
        bars[:, 32 * index : 32 * index + 32, index] = 1
    with av.open(str(written(tmp_path, kind, [bars] * 3))) as movie:
        stream: Any = movie.streams.video[0]
        context = stream.codec_context
        assert (context.color_primaries, context.color_trc, int(context.colorspace), int(context.color_range)) == (1, 13, 1, 1)
        frame = next(movie.decode(stream))
        down = 2 ** (frame.format.components[0].bits - 8)
        planes = [np.frombuffer(bytes(plane), np.uint8 if down == 1 else np.uint16).reshape(plane.height, -1) for plane in frame.planes[:3]]
        for index, expected in enumerate(((63, 102, 240), (173, 42, 26), (32, 240, 118))):
            for plane, of, code in zip(planes, frame.planes, expected, strict=False):
                found = plane[of.height // 2, (32 * index + 16) * of.width // 96] / down
                assert abs(float(found) - code) <= 1.5


def test_alpha_is_raised_where_light_has_none_or_left(tmp_path: Path) -> None:
    glow = np.zeros((32, 64, 4), np.float32)
    glow[:, :32, :3], glow[:, 32:, 3] = 0.5, 1
    for raised, alpha in ((True, 127.5), (False, 0.0)):
        found = frame_of(written(tmp_path, "prores_4444", [glow], raise_alpha=raised), 1)
        assert abs(float(np.median(found[:, :32, 3])) - alpha) < 1
        assert abs(float(np.median(found[:, 32:, 3])) - 255) < 0.5


@pytest.mark.parametrize(("kind", "size"), [("h264", (161, 91)), ("prores_422", (161, 91)), ("prores_4444", (161, 91))])
def test_odd_sizes_are_filled_with_their_last_pixels(kind: MovieKind, size: tuple[int, int], tmp_path: Path) -> None:
    across, down = CODINGS[kind].even
    frames = [light(number, size[1], size[0]) for number in range(3)]
    found = frame_of(written(tmp_path, kind, frames), 2)
    assert found.shape[:2] == (91 + (down == 2), 161 + (across == 2))
    expected = exact_codes(frames[1][..., :3], 65535) / 257 if not CODINGS[kind].alpha else unassociated_codes(frames[1], "16", True)[0] / 257
    assert np.percentile(np.abs(found[:91, :161] - expected), 99) <= LOSSES[kind][1]
    assert np.abs(found[-1] - found[90]).mean() < 3
    assert np.abs(found[:, -1] - found[:, 160]).mean() < 3


def test_mattes_values_that_are_none_and_light_above_white_are_held(tmp_path: Path) -> None:
    matte = np.zeros((32, 96, 1), np.float32)
    matte[:, 32:64], matte[:, 64:] = 0.5, 1
    grey = frame_of(written(tmp_path, "prores_422", [matte]), 1)[16]
    assert np.abs(grey[[16, 48, 80]] - [[0], [127.5], [255]]).max() < 1, "a matte gets no view"
    odd = np.ones((32, 96, 4), np.float32)
    odd[:, :32, :3], odd[:, 32:64, :3], odd[:, 64:, :3] = np.nan, -5, 900
    shown = frame_of(written(tmp_path, "h264", [odd] * 2), 1)[16]
    assert np.abs(shown[[12, 48, 84]] - [[0], [0], [255]]).max() <= 2


@pytest.mark.parametrize(
    ("fps", "told"), [(24, 24), (25.0, 25), ((24000, 1001), Fraction(24000, 1001)), (29.97, Fraction(2997, 100)), (12.5, Fraction(25, 2))]
)
def test_the_rate_is_that_of_the_shot(fps: Any, told: Any, tmp_path: Path) -> None:
    for kind in ("h264", "prores_422"):
        path = written(tmp_path, kind, [light(number) for number in range(6)], fps)
        with av.open(str(path)) as movie:
            assert movie.streams.video[0].average_rate == told, "as the file itself says it"
            assert movie.streams.video[0].frames == 6
            times = [frame.pts * frame.time_base for frame in movie.decode(video=0)]
        rate = Fraction(*fps) if isinstance(fps, tuple) else Fraction(fps).limit_denominator(1001)
        assert all(abs(float(time - number / rate)) < 1e-4 for number, time in enumerate(times))


@pytest.mark.parametrize("kind", CODINGS)
def test_pixels_that_are_not_square_are_told(kind: MovieKind, tmp_path: Path) -> None:
    path = written(tmp_path, kind, [light(1)] * 2, pixel_aspect=1.5)
    with av.open(str(path)) as movie:
        assert movie.streams.video[0].sample_aspect_ratio == Fraction(3, 2)
    assert inspect_movie(path, 1).pixel_aspect == 1.5, "and so it is read"


def test_of_one_that_fails_nothing_is_left_and_what_was_there_stays(tmp_path: Path) -> None:
    path = written(tmp_path, "h264", [light(1)] * 2)
    before = path.read_bytes()

    def breaks() -> Iterator[np.ndarray]:
        yield light(1)
        raise RuntimeError("a frame")

    with pytest.raises(RuntimeError, match="a frame"):
        written(tmp_path, "h264", breaks())
    with pytest.raises(UmbraxError, match="a frame of 80 x 45 does not fit a movie of 160 x 90"):
        written(tmp_path, "h264", [light(1), light(1, 45, 80)])
    with pytest.raises(UmbraxError, match="a movie needs a frame"):
        written(tmp_path, "h264", [])
    assert path.read_bytes() == before
    assert len(list(tmp_path.iterdir())) == 1


def test_an_ending_says_how_it_is_coded() -> None:
    assert movie_kind(Path("a.MP4"), None) == "h264"
    assert movie_kind(Path("a.mov"), None) == "prores_422"
    assert movie_kind(Path("a.mov"), "prores_4444") == "prores_4444"
    with pytest.raises(UmbraxError, match=r"'a.mov' cannot be a movie of the type 'h264'; use prores_422 or prores_4444"):
        movie_kind(Path("a.mov"), "h264")
    with pytest.raises(UmbraxError, match=r"use one that ends in .mp4 or .mov"):
        movie_kind(Path("a.webm"), None)


@pytest.fixture
def small_files() -> Iterator[None]:
    """No file can grow beyond 20 kB: the system says so when it is written to."""
    before, signalled = resource.getrlimit(resource.RLIMIT_FSIZE), signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (20_000, before[1]))
    yield
    resource.setrlimit(resource.RLIMIT_FSIZE, before)
    signal.signal(signal.SIGXFSZ, signalled)


@pytest.mark.parametrize("kind", CODINGS)
def test_one_that_the_disk_does_not_hold_is_told(kind: MovieKind, tmp_path: Path, small_files: None) -> None:
    noise = np.random.default_rng(1).random((180, 320, 4), np.float32)
    with pytest.raises(UmbraxError, match=r"cannot write 'movie.m..': .*; check the folder and the disk"):
        written(tmp_path, kind, [noise] * 6)
    assert list(tmp_path.iterdir()) == []
