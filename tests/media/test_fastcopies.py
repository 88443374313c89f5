"""Fast copies: made once, bounded, rebuilt when gone, whole or not at all when killed."""

import multiprocessing
import os
import shutil
import signal
import time
import tracemalloc
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import OpenImageIO as oiio
import pytest
from foreign import write

from umbrax.core.document.sources import Source
from umbrax.core.document.text import read_data
from umbrax.core.errors import UmbraxError, Where
from umbrax.core.kernels.resample import reduce_area
from umbrax.core.picture import Window
from umbrax.media.decoding import decode
from umbrax.media.fastcopies import FastCopies, content_of, planes_on
from umbrax.media.file_info import FileInfo
from umbrax.media.reader import MediaReader
from umbrax.render.engine import Engine, Want


def file_with(tmp_path: Path, value: float, size: int = 64) -> Path:
    pixels = {c: np.full((size, size), np.inf if c == "Z" else 0, np.float32) for c in "RGBZ"}
    for plane in pixels.values():
        plane[10:20, 30:50] = value
    return write(tmp_path / f"f{value}.exr", pixels)


def test_a_copy_holds_only_what_differs_and_gives_everything_back(tmp_path: Path) -> None:
    path, copies = file_with(tmp_path, 2.5), FastCopies(tmp_path / "fast")
    copy = copies.open(copies.info(path))["Z"]
    assert copy.window == Window(30, 10, 50, 20)
    whole = planes_on(copy, Window(0, 0, 64, 64))[0]
    assert np.isinf(whole[0, 0])
    assert (whole[10:20, 30:50] == 2.5).all()
    assert np.isinf(whole[9, 30])
    assert np.array_equal(planes_on(copy, Window(28, 8, 33, 12))[0], whole[8:12, 28:33])


def test_eight_threads_make_one_copy(tmp_path: Path) -> None:
    path, copies = file_with(tmp_path, 1.0), FastCopies(tmp_path / "fast")
    with ThreadPoolExecutor(8) as pool:
        list(pool.map(lambda _: copies.open(copies.info(path)), range(24)))
    assert copies.made == 1
    other = FastCopies(tmp_path / "fast")
    other.open(other.info(path))
    assert other.made == 0, "another process finds it"


def test_a_changed_file_gets_a_new_copy(tmp_path: Path) -> None:
    path, copies = file_with(tmp_path, 1.0), FastCopies(tmp_path / "fast")
    copies.open(copies.info(path))
    shutil.copy(file_with(tmp_path, 7.0), path)
    assert planes_on(copies.open(copies.info(path))["rgba"], Window(30, 10, 31, 11))[0, 0, 0] == 7


def test_a_file_that_was_moved_touched_or_copied_is_not_decoded_again(tmp_path: Path) -> None:
    path, copies = file_with(tmp_path, 1.0), FastCopies(tmp_path / "fast")
    copies.open(copies.info(path))
    os.utime(path, (1, 1))
    (tmp_path / "other").mkdir()
    for moving in (lambda: path, lambda: Path(shutil.copy(path, tmp_path / "copy.exr")), lambda: path.rename(tmp_path / "other" / "m.exr")):
        other = moving()
        assert planes_on(copies.open(copies.info(other))["rgba"], Window(30, 10, 31, 11))[0, 0, 0] == 1
    assert copies.made == 1


def test_a_file_that_changes_while_it_is_read_leaves_no_copy(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path, copies = file_with(tmp_path, 1.0), FastCopies(tmp_path / "fast")
    other = file_with(tmp_path, 2.0).read_bytes()

    def overwritten(info: FileInfo) -> Iterator[Any]:
        yield from decode(info)
        path.write_bytes(other)

    monkeypatch.setattr("umbrax.media.fastcopies.decode", overwritten)
    with pytest.raises(UmbraxError, match="changed while it was read"):
        copies.open(copies.info(path))
    monkeypatch.undo()
    assert planes_on(copies.open(copies.info(path))["rgba"], Window(30, 10, 31, 11))[0, 0, 0] == 2


KINDS: dict[str, dict[str, Any]] = {"scan lines": {}, "tiles": {"tile": 48}, "zip": {"compression": "zip"}, "zips": {"compression": "zips"}}


@pytest.mark.parametrize("name", KINDS)
def test_strips_give_what_the_whole_gives_bit_for_bit(name: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    random, size = np.random.default_rng(2), (300, 80)
    planes = {c: random.normal(0, 3, size).astype(np.float32) for c in ("R", "G", "B", "id00.R", "id00.G")}
    planes |= {"box.Y": np.zeros(size, np.float32), "flat.Y": np.full(size, 7, np.float32)}
    planes["box.Y"][140:260, 20:31] = np.nan
    path = tmp_path / "x.exr"
    spec = oiio.ImageSpec(size[1], size[0], len(planes), "float")
    spec.channelnames = tuple(planes)
    spec.tile_width = spec.tile_height = KINDS[name].get("tile", 0)
    spec.attribute("compression", KINDS[name].get("compression", "piz"))
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(np.stack(list(planes.values()), axis=2))
    out.close()
    whole = FastCopies(tmp_path / "whole")
    given = whole.open(whole.info(path))
    monkeypatch.setattr("umbrax.media.decoding.WHOLE_BYTES", 1000)
    strips = FastCopies(tmp_path / "strips")
    found = strips.open(strips.info(path))
    assert list(found) == list(given)
    for name, copy in given.items():
        assert (found[name].window, found[name].fill, found[name].planes.dtype) == (copy.window, copy.fill, copy.planes.dtype)
        assert np.array_equal(found[name].planes, copy.planes, equal_nan=True)
    assert found["box"].window == Window(20, 140, 31, 260)


def test_strips_keep_halves_floats_and_integers_apart(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    random, size = np.random.default_rng(4), (290, 33)
    channels = {
        "a.Y": random.normal(0, 3, size).astype(np.float16), "Z": random.normal(0, 3, size).astype(np.float32),
        "index.Y": random.integers(0, 2**32, size, np.uint32), "m.R": random.random(size).astype(np.float16),
    }  # fmt: skip
    path = write(tmp_path / "x.exr", dict(channels))
    monkeypatch.setattr("umbrax.media.decoding.WHOLE_BYTES", 1000)
    copies = FastCopies(tmp_path / "fast")
    found = copies.open(copies.info(path))
    whole = Window(0, 0, size[1], size[0])
    for channel, plane in channels.items():
        read = planes_on(found[channel.partition(".")[0]], whole)[0]
        assert read.dtype == plane.dtype
        assert np.array_equal(read, plane)


def test_strips_of_wide_files_with_many_channels_hold_little_memory_too(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Halves beside a float are read as floats: what is held of them at once does not grow with their number."""
    size, count = (200, 2000), 40
    plane = np.random.default_rng(1).random(size, np.float32)
    channels = {f"p{n:02d}.Y": np.roll(plane, n).astype(np.float16) for n in range(count)}
    path = write(tmp_path / "x.exr", {**channels, "Z": plane}, {"compression": OpenEXR.NO_COMPRESSION})
    monkeypatch.setattr("umbrax.media.decoding.WHOLE_BYTES", 1000)
    row = size[1] * (count + 1) * 4
    monkeypatch.setattr("umbrax.media.decoding.STRIP_BYTES", 40 * row)
    copies = FastCopies(tmp_path / "fast")
    info = copies.info(path)
    tracemalloc.start()
    found = copies.open(info)
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert most < 4 * 32 * row, most / row
    for name, values in channels.items():
        assert np.array_equal(found[name.removesuffix(".Y")].planes[0], values)
    assert np.array_equal(found["Z"].planes[0], plane)


def test_strips_hold_little_memory_and_refuse_cut_off_files(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    size, count = (4000, 500), 10
    plane = np.random.default_rng(1).random(size, np.float32)
    path = write(tmp_path / "x.exr", {f"p{n}.Y": np.roll(plane, n) for n in range(count)}, {"compression": OpenEXR.NO_COMPRESSION})
    monkeypatch.setattr("umbrax.media.decoding.WHOLE_BYTES", 1000)
    copies = FastCopies(tmp_path / "fast")
    info = copies.info(path)
    tracemalloc.start()
    copies.open(info)
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    strip = 128 * size[1] * count * 4
    assert most < 4 * strip < info.decoded_bytes / 4
    path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
    with pytest.raises(UmbraxError, match=r"cannot read 'x.exr'"):
        copies.open(copies.info(path))
    assert len(list((tmp_path / "fast").iterdir())) == 2, "the copy of before and its note, and nothing half-written"


def test_a_file_that_cannot_be_read_is_not_tried_for_each_pass_but_again_once_it_changed_or_after_a_while(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    tried = []

    def counted(info: FileInfo) -> Iterator[Any]:
        tried.append(info.path)
        yield from decode(info)

    monkeypatch.setattr("umbrax.media.fastcopies.decode", counted)
    path, copies = file_with(tmp_path, 1.0), FastCopies(tmp_path / "fast")
    whole = path.read_bytes()
    path.write_bytes(whole[: len(whole) // 2])
    info = copies.info(path)
    for card in ("sky", "station"):
        with pytest.raises(UmbraxError, match=r"cannot read 'f1.0.exr'") as refused:
            copies.open(info)
        assert refused.value.at(Where(card=card)).where == Where(card=card, file=str(path)), "each is told where it was wanted"
    assert len(tried) == 1
    monkeypatch.setattr("umbrax.media.failures.SECONDS", -1.0)
    with pytest.raises(UmbraxError, match=r"cannot read 'f1.0.exr'"):
        copies.open(info)
    monkeypatch.undo()
    path.write_bytes(whole)
    assert planes_on(copies.open(copies.info(path))["rgba"], Window(30, 10, 31, 11))[0, 0, 0] == 1
    assert len(tried) == 2


def test_damaged_and_removed_copies_are_made_again(tmp_path: Path) -> None:
    path, copies = file_with(tmp_path, 1.0), FastCopies(tmp_path / "fast")
    place = tmp_path / "fast" / content_of(copies.info(path))
    copies.open(copies.info(path))
    for damage in (
        lambda: (place / "index.json").write_text("{"),
        lambda: shutil.rmtree(place),
        lambda: (place / "0.npy").unlink(),
    ):
        damage()
        fresh = FastCopies(tmp_path / "fast")
        assert planes_on(fresh.open(fresh.info(path))["rgba"], Window(30, 10, 31, 11))[0, 0, 0] == 1


def test_a_copy_of_passes_put_together_otherwise_is_no_copy(tmp_path: Path) -> None:
    path, copies = file_with(tmp_path, 1.0), FastCopies(tmp_path / "fast")
    info = copies.info(path)
    merged = replace(info, passes=tuple(found for found in info.passes if found.name != "Z"))
    assert "Z" not in copies.open(merged)
    newer = FastCopies(tmp_path / "fast")
    assert not newer.has(info)
    assert set(newer.open(info)) == {found.name for found in info.passes}


def test_the_longest_unused_go_first_when_the_limit_is_reached(tmp_path: Path) -> None:
    copies = FastCopies(tmp_path / "fast", limit_bytes=12_000)
    paths = [file_with(tmp_path, float(value)) for value in range(1, 7)]
    for path in paths:
        copies.open(copies.info(path))
        time.sleep(0.02)
    kept = [path for path in paths if copies.has(copies.info(path))]
    assert 0 < len(kept) < 6
    assert kept == paths[-len(kept) :]


def _copy_forever(folder: str, paths: list[str]) -> None:
    copies = FastCopies(Path(folder))
    while True:
        for path in paths:
            copies.open(copies.info(Path(path)))
        shutil.rmtree(folder, ignore_errors=True)
        copies = FastCopies(Path(folder))


def test_killed_at_any_moment_no_wrong_pixel_is_ever_served(tmp_path: Path) -> None:
    paths = [str(file_with(tmp_path, float(value), size=256)) for value in (1, 2, 3)]
    spawn = multiprocessing.get_context("spawn")
    process = spawn.Process(target=_copy_forever, args=(str(tmp_path / "fast"), paths))
    process.start()
    deadline = time.monotonic() + 30
    while not (tmp_path / "fast").exists() and time.monotonic() < deadline:
        time.sleep(0.01)
    time.sleep(0.15)
    assert process.pid is not None
    os.kill(process.pid, signal.SIGKILL)
    process.join()
    copies = FastCopies(tmp_path / "fast")
    for value, path in zip((1, 2, 3), paths, strict=True):
        planes = planes_on(copies.open(copies.info(Path(path)))["rgba"], Window(0, 0, 256, 256))[1]
        assert planes[15, 40] == value
        assert planes.sum() == value * 200


def large(tmp_path: Path, **channels: np.ndarray) -> MediaReader:
    write(tmp_path / "x.exr", channels)
    return MediaReader({"s": Source(path="x.exr")}, [tmp_path], FastCopies(tmp_path / "fast"))


def test_light_of_large_frames_is_kept_reduced_and_the_same_bit_for_bit(tmp_path: Path) -> None:
    random, size = np.random.default_rng(6), (1000, 1200)
    channels = {c: random.gamma(0.5, 1, size).astype(np.float16) for c in "RGBA"} | {"Z": random.gamma(2, 1, size).astype(np.float32)}
    reader = large(tmp_path, **channels)
    whole = Window(0, 0, 1200, 1000)
    assert not reader.keeps("s", 1, "Z", 2), "depth is never averaged"
    for n in (2, 4, 8):
        assert reader.keeps("s", 1, "rgba", n)
        wanted = reduce_area(reader.pixels("s", 1, "rgba", whole), n)
        for _ in range(2):
            assert np.array_equal(reader.reduced("s", 1, "rgba", n, whole.scaled(n)), wanted)
        assert np.array_equal(reader.reduced("s", 1, "rgba", n, Window(10, 20, 70, 55)), wanted[20:55, 10:70])
    again = MediaReader(reader.sources, list(reader.roots.folders), FastCopies(tmp_path / "fast"))
    assert np.array_equal(again.reduced("s", 1, "rgba", 8, whole.scaled(8)), wanted)
    assert again.copies.made == 0
    assert not reader.keeps("s", 1, "rgba", 16), "whole blocks only"


def test_a_picture_at_a_scale_is_the_same_with_and_without_kept_sizes(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    random = np.random.default_rng(7)
    reader = large(tmp_path, **{c: random.gamma(0.5, 1, (1000, 1200)).astype(np.float16) for c in "RGBA"})
    shot = read_data({
        "umbrax": 1, "name": "x", "format": {"width": 1200, "height": 1000, "first": 1, "last": 1},
        "sources": {"s": {"path": "x.exr"}}, "build": [{"id": "a", "picture": {"kind": "pass", "source": "s", "pass": "rgba"}}],
    })  # fmt: skip
    pictures = []
    for keeps in (True, False):
        engine = Engine(reader.copies)
        monkeypatch.setattr("umbrax.media.reader.REDUCED_FROM", 1000 if keeps else 1 << 40)
        pictures.append(engine.make(shot, [tmp_path], 1, Want(), scale=4).picture.pixels)
    assert np.array_equal(*pictures)


def test_kept_sizes_count_towards_the_limit(tmp_path: Path) -> None:
    random = np.random.default_rng(8)
    for number in range(3):
        write(tmp_path / f"{number}.exr", {c: random.random((1000, 1200)).astype(np.float16) for c in "RGB"})
    copies = FastCopies(tmp_path / "fast", limit_bytes=20_000_000)
    for number in range(3):
        reader = MediaReader({"s": Source(path=f"{number}.exr")}, [tmp_path], copies)
        reader.reduced("s", 1, "rgba", 2, Window(0, 0, 600, 500))
        time.sleep(0.02)
    used = sum(f.stat().st_size for f in (tmp_path / "fast").rglob("*.npy"))
    assert used <= 20_000_000
    assert copies.has(copies.info(tmp_path / "2.exr"))
