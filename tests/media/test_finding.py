"""What pictures lie in a folder: grouping of sequences, stills, holes and damaged files."""

from pathlib import Path

import numpy as np
import pytest
from foreign import write

from movies import write_movie
from umbrax.core.errors import UmbraxError
from umbrax.media.fastcopies import FastCopies
from umbrax.media.finding import Found, find_in, find_pictures
from umbrax.media.roots import Roots
from umbrax.media.sequences import MOST_VERSIONS, frames_named
from umbrax.media.versions import older_ones

GREY = {letter: np.full((4, 6), 0.5, np.float16) for letter in "RGB"}


def found_in(folder: Path, *names: str) -> dict[str, Found]:
    for name in names:
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        write(folder / name, GREY)
    return {one.path.name: one for one in find_pictures(folder, FastCopies(folder / ".fast"), Roots([folder]))}


def test_numbered_files_become_one_sequence_with_its_holes(tmp_path: Path) -> None:
    found = found_in(tmp_path, "a.0001.exr", "a.0002.exr", "a.0004.exr", "b_07.exr", "b_08.exr", "plate.exr")
    assert set(found) == {"a.{frame:04d}.exr", "b_{frame:02d}.exr", "plate.exr"}
    assert (found["a.{frame:04d}.exr"].frames, found["a.{frame:04d}.exr"].missing) == ([1, 2, 4], [(3, 3)])
    assert found["plate.exr"].still
    assert found["b_{frame:02d}.exr"].name == "b"


def test_mixed_padding_and_negative_frames_are_one_sequence(tmp_path: Path) -> None:
    found = found_in(tmp_path, "x.-2.exr", "x.-1.exr", "x.9.exr", "x.10.exr")
    (one,) = found.values()
    assert one.frames == [-2, -1, 9, 10]


def test_a_hyphen_before_the_number_is_no_sign(tmp_path: Path) -> None:
    found = found_in(tmp_path, "hut-007.exr", "hut-008.exr", "-3.exr", "-4.exr")
    assert {name: one.frames for name, one in found.items()} == {"hut-{frame:03d}.exr": [7, 8], "{frame:01d}.exr": [-4, -3]}


def test_a_version_number_of_a_single_file_is_no_frame(tmp_path: Path) -> None:
    assert set(found_in(tmp_path, "matte_v2.exr", "shot2.exr")) == {"matte_v2.exr", "shot2.exr"}


def test_versions_of_a_still_are_stills_and_no_frames(tmp_path: Path) -> None:
    names = ["hill_v001.exr", "hill_v002.exr", "Hut.V1.exr", "Hut.V3.exr", "v0001.exr", "v0002.exr", "cave0001.exr", "cave0002.exr"]
    found = found_in(tmp_path, *names)
    assert {name: one.frames for name, one in found.items()} == {
        "hill_v001.exr": [], "hill_v002.exr": [], "Hut.V1.exr": [], "Hut.V3.exr": [], "v{frame:04d}.exr": [1, 2], "cave{frame:04d}.exr": [1, 2],
    }  # fmt: skip
    assert older_ones(list(found.values())) == {tmp_path / "hill_v001.exr", tmp_path / "Hut.V1.exr"}


def test_numbered_movies_are_movies_each(tmp_path: Path) -> None:
    names = ["C0001.mp4", "C0002.mp4", "take_1.mp4", "take_2.mp4"]
    for name in names:
        write_movie(tmp_path / name, "libx264", "yuv420p")
    found = find_pictures(tmp_path, FastCopies(tmp_path / ".fast"), Roots([tmp_path]))
    assert [(one.path.name, one.problem, one.frames[0]) for one in found] == [(name, None, 1) for name in names]
    for frame in (1, 2):
        write(tmp_path / f"hut.{frame:04d}.exr", GREY)
    assert frames_named(str(tmp_path))[1] == [1, 2], "the one sequence of the folder"


def test_so_many_numbers_after_a_v_are_frames(tmp_path: Path) -> None:
    (one,) = found_in(tmp_path, *(f"walk_v{frame:04d}.exr" for frame in range(1, MOST_VERSIONS + 2))).values()
    assert len(one.frames) == MOST_VERSIONS + 1
    assert frames_named(str(tmp_path))[0] == tmp_path / "walk_v{frame:04d}.exr"
    (tmp_path / "walk_v0001.exr").unlink()
    with pytest.raises(UmbraxError, match="no numbered pictures"):
        frames_named(str(tmp_path))


def test_damaged_files_are_listed_with_what_is_wrong(tmp_path: Path) -> None:
    (tmp_path / "broken.exr").write_bytes(b"not a picture")
    found = found_in(tmp_path, "good.exr")
    assert found["good.exr"].problem is None
    assert "cannot read 'broken.exr'" in (found["broken.exr"].problem or "")


def test_a_folder_without_pictures_is_looked_into_one_level_down(tmp_path: Path) -> None:
    write(tmp_path / "x.exr", GREY)
    (tmp_path / "shot" / "beauty").mkdir(parents=True)
    write(tmp_path / "shot" / "beauty" / "beauty.exr", GREY)
    assert [one.name for one in find_in(tmp_path / "shot", FastCopies(tmp_path / ".fast"), Roots([tmp_path]))] == ["beauty"]


def test_a_folder_that_is_not_there_is_one_clear_line(tmp_path: Path) -> None:
    with pytest.raises(UmbraxError, match="cannot look into 'nowhere': No such file"):
        find_pictures(tmp_path / "nowhere", FastCopies(tmp_path / ".fast"), Roots([tmp_path]))
