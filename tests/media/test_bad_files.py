"""Bad input: one clear line each, nothing stored, the process lives."""

import os
from pathlib import Path

import numpy as np
import pytest
from foreign import write

from umbrax.core.document.sources import Source
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.media.fastcopies import FastCopies
from umbrax.media.listing import list_passes
from umbrax.media.reader import MediaReader
from umbrax.media.roots import real_path
from umbrax.media.sequences import frame_range, frames_of, path_of_frame, pattern_of_folder


def good(tmp_path: Path) -> Path:
    rng = np.random.default_rng(0)
    return write(tmp_path / "good.exr", {c: rng.normal(0, 1, (64, 64)).astype(np.float16) for c in "RGBA"})


def refused(path: Path, tmp_path: Path) -> str:
    copies = FastCopies(tmp_path / "fast")
    with pytest.raises(UmbraxError) as told:
        copies.open(copies.info(path))
    assert "\n" not in told.value.message
    assert told.value.where.file == str(path)
    stored = list((tmp_path / "fast").iterdir()) if (tmp_path / "fast").exists() else []
    assert stored == [], "nothing is half stored"
    return told.value.message


@pytest.mark.parametrize("size", [0, 3, 20, 200, 400, 2000, 8000])
def test_truncated_exr(tmp_path: Path, size: int) -> None:
    data = good(tmp_path).read_bytes()
    assert size < len(data)
    path = tmp_path / "cut.exr"
    path.write_bytes(data[:size])
    assert "'cut.exr'" in refused(path, tmp_path)


@pytest.mark.parametrize("share", [0.3, 0.7, 0.98])
def test_listing_a_file_that_was_cut_off_says_so(tmp_path: Path, share: float) -> None:
    path = good(tmp_path)
    assert list_passes(str(path))["passes"]
    data = path.read_bytes()
    path.write_bytes(data[: int(len(data) * share)])
    with pytest.raises(UmbraxError) as told:
        list_passes(str(path))
    assert told.value.code == "bad-file"


def test_text_named_exr(tmp_path: Path) -> None:
    path = tmp_path / "text.exr"
    path.write_text("this is not a picture\n" * 50)
    assert "cannot read 'text.exr'" in refused(path, tmp_path)


def test_absurd_size(tmp_path: Path) -> None:
    data = bytearray(good(tmp_path).read_bytes())
    at = data.index(b"dataWindow\0box2i\0") + len(b"dataWindow\0box2i\0") + 4
    data[at + 8 : at + 16] = (2_000_000_000).to_bytes(4, "little") * 2
    path = tmp_path / "huge.exr"
    path.write_bytes(bytes(data))
    refused(path, tmp_path)


def test_damaged_pixels(tmp_path: Path) -> None:
    data = bytearray(good(tmp_path).read_bytes())
    data[-6000:-200] = os.urandom(5800)
    path = tmp_path / "damaged.exr"
    path.write_bytes(bytes(data))
    refused(path, tmp_path)


@pytest.mark.parametrize("name", ["nowhere.exr", "with space.exr", 'quote".exr', "ünïcode.exr", "line\nbreak.exr"])
def test_missing_files_are_named(tmp_path: Path, name: str) -> None:
    with pytest.raises(UmbraxError) as told:
        FastCopies(tmp_path).info(tmp_path / name)
    assert "\n" not in told.value.message


def test_a_folder_named_like_a_picture(tmp_path: Path) -> None:
    (tmp_path / "d.exr").mkdir()
    with pytest.raises(UmbraxError, match="is not a file"):
        FastCopies(tmp_path).info(tmp_path / "d.exr")


@pytest.mark.parametrize("path", [
    "../secret.exr", "/etc/passwd", "a/../../secret.exr", "link/secret.exr", "link/../secret.exr", "file.exr",
    "take{frame:04d}/secret.exr", "take{frame:04d}/secret.{frame:04d}.exr", "linked.{frame:04d}.exr",
])  # fmt: skip
def test_paths_that_leave_the_media_folders_are_refused(tmp_path: Path, path: str) -> None:
    inside, outside = tmp_path / "in", tmp_path / "out"
    inside.mkdir()
    outside.mkdir()
    (tmp_path / "secret.exr").write_text("x")
    (outside / "secret.exr").write_text("x")
    (outside / "secret.0001.exr").write_text("x")
    for name in ("link", "take{frame:04d}"):
        (inside / name).symlink_to(outside)
    for name in ("file.exr", "linked.0001.exr"):
        (inside / name).symlink_to(outside / "secret.exr")
    reader = MediaReader({"s": Source(path=path)}, [inside], FastCopies(tmp_path / "fast"))
    with pytest.raises(UmbraxError, match="outside the media folders"):
        reader.describe("s", 1)


def test_the_first_folder_that_has_a_path_is_meant(tmp_path: Path) -> None:
    """Of a link in one of them that leads into another one, what it leads to."""
    roots = [tmp_path / name for name in ("show", "jobs", "kept")]
    for root in roots:
        (root / "renders").mkdir(parents=True)
    for value, root in ((1, roots[1]), (2, roots[2])):
        write(root / "renders" / "a.0001.exr", {"Y": np.full((2, 2), value, np.float32)})
    (roots[0] / "linked").symlink_to(roots[2] / "renders")
    sources = {"both": Source(path="renders/a.{frame:04d}.exr"), "linked": Source(path="linked/a.0001.exr")}
    reader = MediaReader(sources, roots, FastCopies(tmp_path / "fast"))
    assert [reader.pixels(name, 1, "rgba", Window(0, 0, 1, 1)).ravel()[0] for name in ("both", "linked")] == [1, 2]
    assert reader.place_of("linked") == roots[2] / "renders" / "a.0001.exr"


@pytest.mark.parametrize(
    "path", ["", "a", "a/one.exr", "to_a", "to_a/one.exr", "to_one.exr", "to_a/../to_a", "none/x.exr", "a/one.exr/x", "dangling"]
)
def test_links_are_followed_as_python_follows_them(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, path: str) -> None:
    (tmp_path / "a").mkdir()
    (tmp_path / "a" / "one.exr").write_text("x")
    (tmp_path / "to_a").symlink_to("a")
    (tmp_path / "to_one.exr").symlink_to(tmp_path / "to_a" / "one.exr")
    (tmp_path / "dangling").symlink_to(tmp_path / "a" / "gone.exr")
    assert real_path(tmp_path / path) == (tmp_path / path).resolve()
    monkeypatch.chdir(tmp_path)
    assert real_path(Path(path)) == Path(path).resolve()


def test_missing_frames_are_errors_or_held(tmp_path: Path) -> None:
    for frame in (1, 5):
        write(tmp_path / f"a.{frame:04d}.exr", {"Y": np.full((2, 2), frame, np.float32)})
    sources = {"s": Source(path="a.{frame:04d}.exr"), "h": Source(path="a.{frame:04d}.exr", missing="hold", offset=10)}
    reader = MediaReader(sources, [tmp_path], FastCopies(tmp_path / "fast"))
    with pytest.raises(UmbraxError, match=r"source 's' has no frame 3: there is no file 'a.0003.exr'"):
        reader.describe("s", 3)
    held = [Path(reader.describe("h", frame).file).name for frame in (11, 13, 14, 99)]
    assert held == ["a.0001.exr", "a.0001.exr", "a.0005.exr", "a.0005.exr"]
    assert frames_of(tmp_path / "a.{frame:04d}.exr") == [1, 5]


def test_frame_texts() -> None:
    assert frame_range("", 3, 5) == [3, 4, 5]
    assert frame_range("1-3, 7,10-16x3", 0, 0) == [1, 2, 3, 7, 10, 13, 16]
    assert path_of_frame("a.{frame:04d}.exr", -3) == "a.-003.exr" or path_of_frame("a.{frame:04d}.exr", -3) == "a.-0003.exr"
    for bad in ("x", "5-1", "1-", "1-99999999999"):
        with pytest.raises(UmbraxError):
            frame_range(bad, 1, 2)


def test_a_folder_with_several_sequences_is_ambiguous(tmp_path: Path) -> None:
    for name in ("a.0001.exr", "b.0001.exr"):
        (tmp_path / name).write_text("")
    with pytest.raises(UmbraxError, match="expected one sequence"):
        pattern_of_folder(tmp_path)
