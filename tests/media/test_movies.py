"""Movies as plates, written by PyAV: frames by number in any order, bits, alpha, matrices, rates, and damaged ones."""

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from movies import COUNT, SIZE, picture, write_movie
from umbrax.core.colour import linear_from_srgb
from umbrax.core.document.sources import Source
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.media.fastcopies import FastCopies
from umbrax.media.listing import list_passes
from umbrax.media.movies import count_frames, decode_frame, inspect_movie, rate_of
from umbrax.media.reader import MediaReader

MOVIES = {
    "ffv1 of 8 bits": (".mkv", "ffv1", "bgr0", 8, 0),
    "ffv1 of 16 bits": (".mkv", "ffv1", "gbrp16le", 16, 0),
    "prores": (".mov", "prores_ks", "yuv422p10le", 16, 3),
    "prores with alpha": (".mov", "prores_ks", "yuva444p10le", 16, 3),
    "h264": (".mp4", "libx264", "yuv444p", 8, 8),
    "vp9": (".webm", "libvpx-vp9", "yuv444p", 8, 8),
    "mpeg4 in avi": (".avi", "mpeg4", "yuv420p", 8, 20),
}


@pytest.mark.parametrize("name", MOVIES)
def test_any_frame_of_a_movie_is_that_frame(name: str, tmp_path: Path) -> None:
    ending, codec, layout, bits, bound = MOVIES[name]
    path = write_movie(tmp_path / f"plate{ending}", codec, layout, bits=bits)
    assert count_frames(path) == COUNT
    for number in (1, 2, 20, 7, 8, 3, 1):
        info = inspect_movie(path, number)
        planes = decode_frame(info)
        assert info.passes[0].kind == "beauty"
        assert set(info.passes[0].types) == {"u16" if "10" in layout or "16" in layout else "u8"}
        top = 257 if planes[0].dtype == np.uint16 else 1
        flat = [np.median(plane) / top for plane in planes[:3]]
        assert np.abs(np.array(flat) - np.median(picture(number - 1).reshape(-1, 3), axis=0)).max() <= bound
        if bound == 0:
            assert np.array_equal(np.stack(planes, axis=2) // top, picture(number - 1))
        if "yuva" in layout:
            assert info.passes[0].has_alpha
            assert (planes[3] == 65535).all()


def coded(path: Path, height: int, matrix: int | None) -> list[int]:
    """A movie of one colour that is written without conversion: what BT.709 calls red (Y 63, Cb 102, Cr 240)."""
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("ffv1", rate=24)
        stream.width, stream.height, stream.pix_fmt = 64, height, "yuv444p"
        if matrix is not None:
            stream.codec_context.colorspace = matrix
        frame = av.VideoFrame(64, height, "yuv444p")
        for plane, value in zip(frame.planes, (63, 102, 240), strict=True):
            plane.update(bytes([value]) * plane.buffer_size)
        container.mux(stream.encode(frame))
        container.mux(stream.encode())
    return [int(plane[0, 0]) for plane in decode_frame(inspect_movie(path, 1))]


def test_the_matrix_is_the_named_one_else_that_of_the_size(tmp_path: Path) -> None:
    """ITU-R BT.709 and BT.601; the choice by size is common practice."""
    assert np.abs(np.array(coded(tmp_path / "large.mkv", 720, None)) - (255, 0, 0)).max() <= 2
    assert np.abs(np.array(coded(tmp_path / "named.mkv", 64, 1)) - (255, 0, 0)).max() <= 2
    # the same codes by BT.601: R = 1.164 (63 - 16) + 1.596 (240 - 128) = 233, B = 54.7 - 2.018 * 26 = 2
    assert np.abs(np.array(coded(tmp_path / "small.mkv", 64, None)) - (233, 0, 2)).max() <= 2


def test_rates_are_whole_or_fractions(tmp_path: Path) -> None:
    assert rate_of(write_movie(tmp_path / "a.mkv", "ffv1", "bgr0")) == 24.0
    assert rate_of(write_movie(tmp_path / "b.mov", "prores_ks", "yuv422p10le", rate=Fraction(24000, 1001))) == (24000, 1001)


@pytest.mark.parametrize(
    ("told", "taken"),
    [(Fraction(2997, 100), (30000, 1001)), (Fraction(719280, 24017), (30000, 1001)), (Fraction(24024, 1000), 24.0), (Fraction(25, 2), (25, 2)),
     (15, 15.0), (Fraction(24200, 1000), (121, 5))],
)  # fmt: skip
def test_a_rate_that_is_hardly_off_a_usual_one_is_that(told: Any, taken: Any, tmp_path: Path) -> None:
    assert rate_of(write_movie(tmp_path / "plate.mkv", "ffv1", "bgr0", rate=told)) == taken


def test_a_movie_is_a_source_with_offset_and_hold(tmp_path: Path) -> None:
    write_movie(tmp_path / "plate.mkv", "ffv1", "bgr0")
    sources = {"plate": Source(path="plate.mkv", offset=1000), "held": Source(path="plate.mkv", offset=1000, missing="hold")}
    reader = MediaReader(sources, [tmp_path], FastCopies(tmp_path / "fast"))
    seen = reader.pixels("plate", 1005, "rgba", Window(40, 0, 64, 48))
    assert np.allclose(seen[0, -1], linear_from_srgb(np.float32((40, 100, 218)) / 255), atol=1e-6)
    assert np.array_equal(reader.pixels("held", 1099, "rgba", Window(0, 0, *SIZE)), reader.pixels("plate", 1020, "rgba", Window(0, 0, *SIZE)))
    assert reader.describe("plate", 1001).identity != reader.describe("plate", 1002).identity
    with pytest.raises(UmbraxError, match=r"source 'plate' has no frame 1021: 'plate.mkv' has no frame 21; render it, or set"):
        reader.describe("plate", 1021)


def test_a_movie_is_listed_with_its_frames(tmp_path: Path) -> None:
    told = list_passes(str(write_movie(tmp_path / "a.mp4", "libx264", "yuv420p")))
    assert (told["frames"], told["size"], told["passes"][0]["kind"]) == ([1, COUNT], list(SIZE), "beauty")


@pytest.mark.parametrize("spoil", ["empty", "noise", "cut", "text"])
def test_a_damaged_movie_is_refused_with_its_name(spoil: str, tmp_path: Path) -> None:
    path = write_movie(tmp_path / "plate.mp4", "libx264", "yuv420p")
    data = path.read_bytes()
    damaged = {"empty": b"", "noise": np.random.default_rng(1).bytes(5000), "cut": data[: len(data) // 2], "text": b"not a movie\\n" * 9}
    path.write_bytes(damaged[spoil])
    with pytest.raises(UmbraxError, match=r"cannot read 'plate.mp4': .+; check the file or render it again"):
        list_passes(str(path))


def test_a_movie_of_sound_alone_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "sound.mkv"
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("pcm_s16le", rate=48000)
        frame = av.AudioFrame.from_ndarray(np.zeros((1, 4800), np.int16), "s16", "mono")
        frame.sample_rate = 48000
        container.mux(stream.encode(frame))
    with pytest.raises(UmbraxError, match="it holds no pictures"):
        list_passes(str(path))


@pytest.mark.parametrize("degrees", [0, 90, -90, 180])
def test_what_a_turned_camera_took_stands_upright(degrees: int, tmp_path: Path) -> None:
    kept = np.arange(48 * 32 * 3, dtype=np.uint8).reshape(32, 48, 3)
    with av.open(str(tmp_path / "plate.mov"), "w") as container:
        stream: Any = container.add_stream("png", rate=24)
        stream.width, stream.height, stream.pix_fmt = 48, 32, "rgb24"
        stream.codec_context.sample_aspect_ratio = Fraction(2)
        stream.set_display_rotation(degrees)  # counter-clockwise
        for _ in range(3):
            container.mux(stream.encode(av.VideoFrame.from_ndarray(kept, "rgb24")))
        container.mux(stream.encode())
    shown = np.rot90(kept, degrees // 90)
    info = inspect_movie(tmp_path / "plate.mov", 2)
    assert (info.display.width, info.display.height) == (shown.shape[1], shown.shape[0])
    assert info.pixel_aspect == (2.0 if degrees in (0, 180) else 0.5)
    source = Source.model_validate({"path": "plate.mov"})
    reader = MediaReader({"s": source}, [tmp_path], FastCopies(tmp_path / "fast"))
    light = reader.pixels("s", 2, "rgba", info.display)
    assert np.abs(light[..., :3] - linear_from_srgb(shown.astype(np.float32) / 255)).max() < 1e-6
