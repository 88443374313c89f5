"""Sequences: patterns, paddings, holes, negative frames, and names with odd letters."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from umbrax.core.errors import UmbraxError
from umbrax.media.places import file_at
from umbrax.media.sequences import frame_range, frames_of, is_pattern, path_of_frame, pattern_of_folder


@given(st.integers(-99999, 999999), st.integers(0, 8))
def test_a_frames_file_names_its_frame(frame: int, width: int) -> None:
    name = path_of_frame(f"a.{{frame:0{width}d}}.exr", frame)
    assert name.split(".")[1] == f"{frame:0{width}d}", "as Python writes it, the sign in a place of its own"


@pytest.mark.parametrize("stem", ["dome", "dome.v2", "Kuppel übung", "a b", "100% [x]", "it's", "dome_1001", "+(.*)"])
@pytest.mark.parametrize("frames", [[1001, 1002, 1005], [-2, -1, 0, 1], [9, 10, 11, 99, 100], [99999, 100000]])
def test_what_was_written_is_found(tmp_path: Path, stem: str, frames: list[int]) -> None:
    pattern = tmp_path / f"{stem}.{{frame:04d}}.exr"
    for frame in frames:
        Path(path_of_frame(str(pattern), frame)).touch()
    (tmp_path / f"{stem}.1001.png").touch()
    (tmp_path / f"{stem}.x.exr").touch()
    (tmp_path / f"other {stem}.1003.exr").touch()
    assert frames_of(pattern) == frames


def test_a_still_has_no_frames_and_is_the_same_on_all(tmp_path: Path) -> None:
    assert not is_pattern("plate.png")
    assert path_of_frame("plate.png", 7) == "plate.png"
    assert frames_of(tmp_path / "plate.png") == []
    assert frames_of(tmp_path / "nowhere" / "a.{frame:04d}.exr") == []


@pytest.mark.parametrize("bad", ["a.{frame:4x}.exr", "a.{frame!r}.exr", "a.{frame.real}.exr", "a.{frames}.exr"])
def test_other_fields_are_refused_with_the_remedy(bad: str) -> None:
    with pytest.raises(UmbraxError, match=r"write it as \{frame:04d\}"):
        path_of_frame(bad, 1)


def test_the_one_sequence_of_a_folder_is_its_pattern(tmp_path: Path) -> None:
    for frame in (1, 2, 30):
        (tmp_path / f"shot_v003.{frame:05d}.exr").touch()
    assert pattern_of_folder(tmp_path) == tmp_path / "shot_v003.{frame:05d}.exr"


@pytest.mark.parametrize("width", [1, 3, 4])
def test_frames_before_and_after_zero_are_one_sequence(tmp_path: Path, width: int) -> None:
    for frame in (-1, 0, 1, 12):
        (tmp_path / f"dome.{frame:0{width}d}.exr").touch()
    pattern = pattern_of_folder(tmp_path)
    assert pattern.name == f"dome.{{frame:0{width}d}}.exr"
    assert frames_of(pattern) == [-1, 0, 1, 12]
    assert all(Path(path_of_frame(str(pattern), frame)).exists() for frame in (-1, 0, 1, 12))


def test_a_sign_beside_all_digits_is_read_as_well(tmp_path: Path) -> None:
    for name in ("a.-0001.exr", "a.0000.exr", "a.0001.exr"):
        (tmp_path / name).touch()
    place = pattern_of_folder(tmp_path)
    assert place.name == "a.{frame:04d}.exr"
    assert file_at(place, -1).name == "a.-0001.exr"


@given(st.lists(st.tuples(st.integers(-50, 50), st.integers(0, 30), st.integers(1, 7)), min_size=1, max_size=4))
def test_ranges_are_their_frames_each_once_in_the_order_asked_for(pieces: list[tuple[int, int, int]]) -> None:
    text = ",".join(f"{first}-{first + length}x{step}" for first, length, step in pieces)
    asked = [frame for first, length, step in pieces for frame in range(first, first + length + 1, step)]
    found = frame_range(text, 0, 0)
    assert found == list(dict.fromkeys(asked))
    assert frame_range(" , ".join(str(frame) for frame in found), 0, 0) == found


@pytest.mark.parametrize("bad", ["1001-", "-", "1..5", "1001-1000", "5x", "1-5x0", "a", "1,,2", "1-99999999"])
def test_texts_that_are_no_frames_say_so(bad: str) -> None:
    with pytest.raises(UmbraxError) as told:
        frame_range(bad, 1, 2)
    assert told.value.code == "bad-frames"
