"""The names in a folder are read again when it changed, and not before."""

import os
import time
from pathlib import Path

import pytest

from umbrax.media.folders import LONGEST, MOST, SURE, folder_at
from umbrax.media.places import file_at, frames_at, is_there


@pytest.fixture
def read(monkeypatch: pytest.MonkeyPatch) -> list[Path]:
    """The folders whose names were read."""
    found: list[Path] = []
    listdir = os.listdir

    def counted(path: Path) -> list[str]:
        found.append(path)
        return listdir(path)

    monkeypatch.setattr(os, "listdir", counted)
    return found


def long_ago(folder: Path, seconds: float = 100) -> None:
    os.utime(folder, (time.time() - seconds,) * 2)


def test_names_are_read_once_while_nothing_changes(tmp_path: Path, read: list[Path]) -> None:
    for frame in (1001, 1002, 1004):
        (tmp_path / f"a.{frame}.exr").touch()
        (tmp_path / f"b.{frame + 10:06d}.exr").touch()
    long_ago(tmp_path)
    for _ in range(3):
        assert frames_at(tmp_path / "a.{frame:04d}.exr") == [1001, 1002, 1004]
        assert file_at(tmp_path / "b.{frame:04d}.exr", 1012) == tmp_path / "b.001012.exr"
        assert is_there(tmp_path / "a.{frame:04d}.exr")
        assert not is_there(tmp_path / "c.{frame:04d}.exr")
    assert read == [tmp_path]


def test_what_is_rendered_and_removed_is_seen_at_once(tmp_path: Path) -> None:
    pattern = tmp_path / "a.{frame:04d}.exr"
    for count in range(5):
        assert frames_at(pattern) == list(range(count))
        (tmp_path / f"a.{count:04d}.exr").touch()
    long_ago(tmp_path)
    assert frames_at(pattern) == [0, 1, 2, 3, 4]
    (tmp_path / "a.0002.exr").rename(tmp_path / "a.0007.exr")
    assert frames_at(pattern) == [0, 1, 3, 4, 7]


def test_a_folder_that_changed_just_now_may_change_again_within_the_same_moment(tmp_path: Path) -> None:
    """File systems tell the time of a change in steps of up to two seconds."""
    changed = time.time() - SURE / 2
    os.utime(tmp_path, (changed, changed))
    assert frames_at(tmp_path / "a.{frame:04d}.exr") == []
    (tmp_path / "a.0001.exr").touch()
    os.utime(tmp_path, (changed, changed))
    assert frames_at(tmp_path / "a.{frame:04d}.exr") == [1]


def test_another_folder_in_its_place_is_another(tmp_path: Path) -> None:
    here, other = tmp_path / "here", tmp_path / "other"
    for folder, name in ((here, "a.0001.exr"), (other, "a.0002.exr")):
        folder.mkdir()
        (folder / name).touch()
        os.utime(folder, (1e9, 1e9))
    assert frames_at(here / "a.{frame:04d}.exr") == [1]
    here.rename(tmp_path / "gone")
    other.rename(here)
    assert frames_at(here / "a.{frame:04d}.exr") == [2]


def test_no_names_are_kept_for_long(tmp_path: Path, read: list[Path], monkeypatch: pytest.MonkeyPatch) -> None:
    long_ago(tmp_path)
    folder_at(tmp_path)
    later = time.monotonic() + LONGEST
    monkeypatch.setattr(time, "monotonic", lambda: later)
    folder_at(tmp_path)
    assert read == [tmp_path] * 2


def test_only_so_many_folders_are_kept(tmp_path: Path, read: list[Path]) -> None:
    for number in range(MOST + 1):
        (tmp_path / str(number)).mkdir()
        long_ago(tmp_path / str(number))
        folder_at(tmp_path / str(number))
    folder_at(tmp_path / str(MOST))
    folder_at(tmp_path / "0")
    assert read[MOST + 1 :] == [tmp_path / "0"]


@pytest.mark.parametrize("name", ["nowhere", "a file/in it", "a file", "no\0name", "ring"])
def test_where_there_is_no_folder_there_are_no_names(tmp_path: Path, name: str) -> None:
    (tmp_path / "a file").touch()
    (tmp_path / "ring").symlink_to(tmp_path / "ring")
    assert folder_at(tmp_path / name) is None
