"""Fast copies: made once, bounded, rebuilt when gone, whole or not at all when killed."""

import multiprocessing
import os
import shutil
import signal
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
from foreign import write

from umbrax.core.picture import Window
from umbrax.media.fastcopies import FastCopies, planes_on


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


def test_damaged_and_removed_copies_are_made_again(tmp_path: Path) -> None:
    path, copies = file_with(tmp_path, 1.0), FastCopies(tmp_path / "fast")
    place = tmp_path / "fast" / copies.info(path).identity
    copies.open(copies.info(path))
    for damage in (
        lambda: (place / "index.json").write_text("{"),
        lambda: shutil.rmtree(place),
        lambda: (place / "0.npy").unlink(),
    ):
        damage()
        fresh = FastCopies(tmp_path / "fast")
        assert planes_on(fresh.open(fresh.info(path))["rgba"], Window(30, 10, 31, 11))[0, 0, 0] == 1


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
