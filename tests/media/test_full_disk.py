"""A full disk: one clear line, nothing left behind, nothing killed; room that is made is used."""

import os
from pathlib import Path
from typing import BinaryIO

import numpy as np
import pytest
from foreign import write

from umbrax.core.document.sources import Source
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.media import sparse, writing
from umbrax.media.disk import room_taken, write_at
from umbrax.media.fastcopies import FastCopies
from umbrax.media.reader import MediaReader
from umbrax.media.uploading import PARTIAL, Uploads

SIZE = 128
FRAME_BYTES = SIZE * SIZE * 4 * 4


class SmallDisk:
    """Lets so many bytes be taken in a folder, and no more: what the system says then is what it says of a full disk."""

    def __init__(self, folder: Path, size: int):
        self.folder, self.size = folder, size

    def write_at(self, file: BinaryIO, at: int, values: np.ndarray) -> None:
        if room_taken_below(self.folder) + values.nbytes > self.size:
            raise OSError(28, "No space left on device")
        write_at(file, at, values)


def room_taken_below(folder: Path) -> int:
    return sum(room_taken(one) for one in folder.iterdir() if one.is_dir())


def frames(folder: Path, count: int) -> None:
    rng = np.random.default_rng(0)
    for number in range(count):
        write(folder / f"a.{number:04d}.exr", {name: rng.random((SIZE, SIZE), np.float32) for name in "RGBA"})


def look(folder: Path, copies: FastCopies, frame: int) -> np.ndarray:
    reader = MediaReader({"a": Source(path="a.{frame:04d}.exr")}, [folder], copies)
    return reader.pixels("a", frame, "rgba", Window(0, 0, SIZE, SIZE))


def test_older_copies_make_room(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    frames(tmp_path, 6)
    copies = FastCopies(tmp_path / "fast")
    monkeypatch.setattr(sparse, "write_at", SmallDisk(tmp_path / "fast", int(3.5 * FRAME_BYTES)).write_at)
    seen = [look(tmp_path, copies, number) for number in range(6)]
    assert [np.array_equal(look(tmp_path, FastCopies(tmp_path / "other"), number), seen[number]) for number in range(2)] == [True] * 2
    assert len([one for one in (tmp_path / "fast").iterdir() if one.name != ".notes"]) <= 3


def test_where_no_room_can_be_made_it_is_said_and_nothing_is_left(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    frames(tmp_path, 1)
    copies = FastCopies(tmp_path / "fast")
    monkeypatch.setattr(sparse, "write_at", SmallDisk(tmp_path / "fast", FRAME_BYTES // 2).write_at)
    with pytest.raises(UmbraxError, match="the disk is full") as told:
        look(tmp_path, copies, 0)
    assert (told.value.code, told.value.status) == ("disk-full", 503)
    assert list((tmp_path / "fast").iterdir()) == []


@pytest.mark.parametrize("rows", [0, 32])
def test_copies_are_written_and_never_mapped_while_they_grow(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, rows: int) -> None:
    """A mapped page that finds no room ends the whole process."""
    if rows:
        monkeypatch.setattr("umbrax.media.decoding.WHOLE_BYTES", 1)
        monkeypatch.setattr("umbrax.media.decoding.STRIP_ROWS", rows)
    mapped = np.lib.format.open_memmap

    def mapping(path: Path, mode: str = "r+", **more: object) -> object:
        assert mode in ("r", "c"), "a file is written through a mapping"
        return mapped(path, mode=mode, **more)

    monkeypatch.setattr(np.lib.format, "open_memmap", mapping)
    frames(tmp_path, 1)
    look(tmp_path, FastCopies(tmp_path / "fast"), 0)


@pytest.mark.parametrize("rows", [0, 32], ids=["whole", "in strips"])
def test_what_is_nothing_takes_no_room(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, rows: int) -> None:
    """Three of four planes are 0 but for their corners and a spot; as many copies more are kept. What is read is what the file has."""
    if rows:
        monkeypatch.setattr("umbrax.media.decoding.WHOLE_BYTES", 1)
        monkeypatch.setattr("umbrax.media.decoding.STRIP_ROWS", rows)
    planes = {name: np.zeros((300, 311), np.float32) for name in "RGBA"}
    planes["R"][:] = np.random.default_rng(0).random((300, 311), np.float32)
    for name in "GBA":
        planes[name][[0, 150, -1], [0, 99, -1]] = 1
    planes["B"][200:, 5] = -0.0
    write(tmp_path / "a.0000.exr", dict(planes))
    copies = FastCopies(tmp_path / "fast")
    copy = copies.open(copies.info(tmp_path / "a.0000.exr"))["rgba"]
    for plane, read in zip(planes.values(), copy.planes, strict=True):
        assert np.array_equal(plane.view(np.uint32), read.view(np.uint32))
    whole = planes["R"].nbytes
    assert whole < room_taken_below(tmp_path / "fast") < 1.8 * whole


def test_copies_are_evicted_at_the_limit_the_oldest_first(tmp_path: Path) -> None:
    frames(tmp_path, 6)
    copies = FastCopies(tmp_path / "fast", limit_bytes=int(3.2 * FRAME_BYTES))
    for number in range(6):
        look(tmp_path, copies, number)
        kept = sum(one.stat().st_size for one in (tmp_path / "fast").rglob("*.npy"))
        assert kept <= 3.2 * FRAME_BYTES
        os.utime(tmp_path / "fast" / copies._noted(copies.info(tmp_path / f"a.{number:04d}.exr")), (number, number))  # type: ignore[operator,arg-type]
    assert [copies.has(copies.info(tmp_path / f"a.{number:04d}.exr")) for number in range(6)] == [False] * 3 + [True] * 3


def test_more_copies_are_kept_where_there_is_little_in_them(tmp_path: Path) -> None:
    for number in range(6):
        spots = {name: np.zeros((SIZE, SIZE), np.float32) for name in "RGBA"}
        spots["R"][0, 0] = spots["A"][-1, -1] = 1 + number
        write(tmp_path / f"a.{number:04d}.exr", spots)
    copies = FastCopies(tmp_path / "fast", limit_bytes=int(3.2 * FRAME_BYTES))
    for number in range(6):
        look(tmp_path, copies, number)
    assert all(copies.has(copies.info(tmp_path / f"a.{number:04d}.exr")) for number in range(6))


def test_copies_that_are_emptied_while_in_use_only_cost_time(tmp_path: Path) -> None:
    frames(tmp_path, 1)
    copies = FastCopies(tmp_path / "fast")
    reader = MediaReader({"a": Source(path="a.{frame:04d}.exr")}, [tmp_path], copies)
    copy = reader.frame_of("a", 0).where("rgba").copy(copies)
    for path in (tmp_path / "fast").rglob("*.npy"):
        path.unlink()
    assert copy.planes.shape == (4, SIZE, SIZE)
    assert copies.made == 2


def test_a_frame_that_does_not_fit_is_not_half_there(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A file that takes no byte is what a full disk is to the library that writes it."""

    def refuse(_: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(writing.os, "fsync", refuse)
    with pytest.raises(UmbraxError, match=r"the disk is full: 'a.exr' could not be written"):
        writing.write_picture(tmp_path / "a.exr", np.zeros((8, 8, 4), np.float32), "half")
    assert list(tmp_path.iterdir()) == []


def test_an_upload_goes_on_when_there_is_room_again(tmp_path: Path) -> None:
    uploads = Uploads(tmp_path)
    made = uploads.begin("a.bin", "batch", 10)

    def pieces() -> object:
        yield b"12345"
        raise OSError(28, "No space left on device")

    with pytest.raises(UmbraxError, match=r"the disk is full: 'a.bin'"):
        uploads.append(made.id, 0, pieces())  # type: ignore[arg-type]
    assert uploads.find(made.id).offset == 5
    uploads.append(made.id, 5, [b"67890"])
    assert (tmp_path / "batch" / "a.bin").read_bytes() == b"1234567890"
    assert list((tmp_path / PARTIAL).glob("*.bin")) == []
