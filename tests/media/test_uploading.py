"""Files that come in pieces: order, names, breaks."""

import hashlib
import os
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from umbrax.core.errors import UmbraxError
from umbrax.media.uploading import Uploads


def test_pieces_in_order_become_the_file_under_its_name(tmp_path: Path) -> None:
    data = np.random.default_rng(1).bytes(3_000_000)
    made = Uploads(tmp_path).begin("render.0001.exr", "drop-1", len(data))
    for start in range(0, len(data), 1 << 20):
        # a new object each time, as after a restart of the server
        told = Uploads(tmp_path).append(made.id, start, [data[start : start + (1 << 20)]])
    assert told.offset == len(data)
    assert (tmp_path / "drop-1" / "render.0001.exr").read_bytes() == data
    assert not list(tmp_path.glob(".partial/*.bin"))


def test_two_files_of_one_name_in_one_batch_are_both_kept(tmp_path: Path) -> None:
    """Two tabs that drop in the same second: neither takes the other's place."""
    uploads = Uploads(tmp_path)
    first, second = (uploads.begin("a.exr", "drop", 3, "deep") for _ in range(2))
    uploads.append(second.id, 0, [b"two"])
    uploads.append(first.id, 0, [b"one"])
    assert (tmp_path / "drop" / "deep" / "a.exr").read_bytes() == b"two"
    assert (tmp_path / "drop-2" / "deep" / "a.exr").read_bytes() == b"one"
    assert (uploads.find(first.id).offset, uploads.find(first.id).folder) == (3, "drop-2/deep")
    assert not list((tmp_path / ".partial").glob("*.bin"))


def test_a_broken_piece_keeps_what_came_and_goes_on_there(tmp_path: Path) -> None:
    uploads, data = Uploads(tmp_path), b"0123456789"
    made = uploads.begin("a.bin", "b", len(data))

    def breaking() -> object:
        yield data[:4]
        raise ConnectionError

    with pytest.raises(ConnectionError):
        uploads.append(made.id, 0, breaking())  # type: ignore[arg-type]
    assert uploads.find(made.id).offset == 4
    with pytest.raises(UmbraxError, match="expected bytes from 4, got them from 0"):
        uploads.append(made.id, 0, [data])
    uploads.append(made.id, 4, [data[4:]])
    assert hashlib.sha256((tmp_path / "b" / "a.bin").read_bytes()).digest() == hashlib.sha256(data).digest()


@pytest.mark.parametrize(
    ("name", "kept"),
    [("../../etc/passwd", "passwd"),
     ("a b 'ü'\n.exr", "a b 'ü'.exr"), (".hidden", "hidden"), ("C:\\x\\y.exr", "y.exr"), ("", "file"), ("{frame}.exr", "frame.exr")],
)  # fmt: skip
def test_names_cannot_lead_elsewhere(name: str, kept: str, tmp_path: Path) -> None:
    made = Uploads(tmp_path).begin(name, "../..", 1)
    Uploads(tmp_path).append(made.id, 0, [b"x"])
    assert (tmp_path / "upload" / kept).read_bytes() == b"x"


def test_a_name_is_no_longer_than_file_systems_take_and_keeps_its_ending(tmp_path: Path) -> None:
    uploads = Uploads(tmp_path)
    for name in ("x" * 400 + ".exr", "\u5c71" * 200 + ".exr", "\u5c71" * 200, "a." + "b" * 300):
        uploads.append(uploads.begin(name, "drop", 1).id, 0, [b"x"])
    kept = sorted(path.name for path in (tmp_path / "drop").iterdir())
    assert len(kept) == 4
    assert all(len(name.encode()) <= 200 for name in kept)
    assert sum(name.endswith(".exr") for name in kept) == 2


def test_a_file_called_as_a_folder_and_a_folder_as_a_file_go_beside(tmp_path: Path) -> None:
    uploads = Uploads(tmp_path)
    for name, inside in (("diffuse", ""), ("x.exr", "diffuse"), ("deep", ""), ("y.exr", "deep/deeper"), ("diffuse", "")):
        uploads.append(uploads.begin(name, "drop", 1, inside).id, 0, [b"x"])
    assert sorted(str(path.relative_to(tmp_path)) for path in tmp_path.glob("drop*/**/*") if path.is_file()) == [
        "drop-2/deep/deeper/y.exr", "drop-2/diffuse/x.exr", "drop-3/diffuse", "drop/deep", "drop/diffuse",
    ]  # fmt: skip


def test_more_than_was_said_absurd_sizes_and_unknown_uploads_are_refused(tmp_path: Path) -> None:
    uploads = Uploads(tmp_path)
    made = uploads.begin("a", "b", 3)
    with pytest.raises(UmbraxError, match="longer than it said"):
        uploads.append(made.id, 0, [b"12345"])
    for length in (0, -1, 1 << 40):
        with pytest.raises(UmbraxError, match="files of up to"):
            uploads.begin("a", "b", length)
    for name in ("../x", "f" * 32):
        with pytest.raises(UmbraxError, match="no such upload"):
            uploads.find(name)


def test_folders_of_a_drop_are_kept_below_the_batch_and_cannot_lead_elsewhere(tmp_path: Path) -> None:
    uploads = Uploads(tmp_path)
    for inside, kept in (("diffuse", "diffuse"), ("a/../../b", "a/folder/folder/b"), ("", ".")):
        uploads.append(uploads.begin("x.exr", "drop", 1, inside).id, 0, [b"x"])
        assert (tmp_path / "drop" / kept / "x.exr").is_file()


def test_two_connections_never_write_one_upload_at_once(tmp_path: Path) -> None:
    uploads, data = Uploads(tmp_path), b"0123456789"
    made = uploads.begin("a.bin", "b", len(data))

    def slow() -> Iterator[bytes]:
        yield data[:4]
        with pytest.raises(UmbraxError, match="written by another connection") as refused:
            Uploads(tmp_path).append(made.id, 0, [data])
        assert refused.value.status == 423
        yield data[4:]

    uploads.append(made.id, 0, slow())
    assert (tmp_path / "b" / "a.bin").read_bytes() == data


def test_uploads_that_nobody_went_on_with_give_their_room_back(tmp_path: Path) -> None:
    uploads = Uploads(tmp_path)
    old, new = uploads.begin("a", "b", 3), uploads.begin("c", "b", 3)
    for path in (tmp_path / ".partial").glob(f"{old.id}.*"):
        os.utime(path, (0, 0))
    uploads.begin("d", "b", 3)
    assert not list((tmp_path / ".partial").glob(f"{old.id}.*"))
    assert uploads.find(new.id).offset == 0


def test_what_comes_after_the_last_piece_changes_nothing(tmp_path: Path) -> None:
    uploads = Uploads(tmp_path)
    made = uploads.begin("a.bin", "batch", 4)
    uploads.append(made.id, 0, [b"1234"])
    assert uploads.append(made.id, 4, []).offset == 4
    for offset, pieces in ((4, [b"more"]), (0, [b"1234"])):
        with pytest.raises(UmbraxError, match="expected bytes from 4"):
            uploads.append(made.id, offset, pieces)
    assert uploads.find(made.id).offset == 4
    assert (tmp_path / "batch" / "a.bin").read_bytes() == b"1234"
