"""One file per pass: which files belong together, and a source read out of several files."""

from pathlib import Path

import numpy as np
import pytest
from foreign import id_header, id_of, id_planes, write
from PIL import Image

from umbrax.core.document.sources import Attached, PassSetting, Source
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.media.examining import check_up, sequence_of_source
from umbrax.media.fastcopies import FastCopies
from umbrax.media.finding import find_here, find_in
from umbrax.media.grouping import main_of, passes_by_name
from umbrax.media.reader import MediaReader
from umbrax.media.roots import Roots

SIZE = (8, 6)
WHOLE = Window(0, 0, *SIZE)


def grey(value: float, channels: str = "RGB") -> dict[str, np.ndarray]:
    return {c: np.full((SIZE[1], SIZE[0]), value, np.float16) for c in channels}


def together(*names: str) -> dict[str, dict[str, str]]:
    groups = passes_by_name(Path(name) for name in names)
    return {prefix: {str(path): rest for path, rest in members.items()} for prefix, members in groups.items()}


def test_files_that_share_their_name_but_for_the_pass_belong_together() -> None:
    found = together("d/a_diffuse.{frame:04d}.exr", "d/a_beauty.{frame:04d}.exr", "d/a_mine.{frame:04d}.exr", "d/b.{frame:04d}.exr")
    assert found == {
        "a": {"d/a_diffuse.{frame:04d}.exr": "diffuse", "d/a_beauty.{frame:04d}.exr": "beauty", "d/a_mine.{frame:04d}.exr": "mine"}
    }


def test_folders_named_after_passes_do_as_well() -> None:
    assert together("d/diffuse/a.{frame:04d}.exr", "d/shadow/a.{frame:04d}.exr") == {
        "a": {"d/diffuse/a.{frame:04d}.exr": "diffuse", "d/shadow/a.{frame:04d}.exr": "shadow"}
    }


@pytest.mark.parametrize("element", ["fog", "st", "env", "line"])
def test_an_element_may_be_called_as_passes_are(element: str) -> None:
    """What has a beauty is an element: its passes are no fogs, and are named without it."""
    paths = {f"d/{element}_{name}.{{frame:04d}}.exr": name for name in ("beauty", "diffuse", "depth", "object_ids00")}
    assert together(*paths) == {element: paths}


def test_lights_of_two_words_are_no_element() -> None:
    paths = {f"d/{name}.{{frame:04d}}.exr": name for name in ("beauty", "diffuse_direct", "diffuse_indirect")}
    assert together(*paths) == {"d": paths}


@pytest.mark.parametrize("main", ["quay", "quay_beauty"])
@pytest.mark.parametrize("ids", ["crypto_object", "cryptomatte", "CryptoAsset", "CryptoMaterial00", "ids", "objectID"])
def test_a_file_of_ids_belongs_to_the_picture_that_is_called_like_it(main: str, ids: str) -> None:
    found = together(f"{main}.{{frame:04d}}.exr", f"quay_{ids}.{{frame:04d}}.exr")
    assert found["quay"][f"quay_{ids}.{{frame:04d}}.exr"] == ids
    assert f"{main}.{{frame:04d}}.exr" in found["quay"]


@pytest.mark.parametrize("under", ["d/{0}.exr", "d/{0}/{0}.exr", "d/{0}/{0}.{{frame:04d}}.exr"])
def test_files_that_are_called_after_nothing_but_their_pass_share_their_folder(under: str) -> None:
    paths = {under.format(name): name for name in ("beauty", "diffuse", "shadow")}
    assert together(*paths) == {"d": paths}
    assert together(under.format("diffuse"), under.replace("d/", "e/", 1).format("shadow")) == {}


@pytest.mark.parametrize(
    "under",
    ["d/a_{0}_{1}.exr", "d/{1}/a_{0}_{1}.exr", "d/{0}/a_{0}_{1}.exr", "d/{0}/{1}/a_{0}_{1}.exr", "d/{0}/{1}/a.exr", "d/{1}/{0}/a_{1}.exr"],
)
def test_each_version_is_a_source_of_its_own_wherever_it_is_named(under: str) -> None:
    found = together(*(under.format(name, version) for name in ("beauty", "shadow") for version in ("v001", "v002")))
    expected = {f"a_{version}": {under.format(name, version): name for name in ("beauty", "shadow")} for version in ("v001", "v002")}
    assert found == expected


def test_files_that_are_called_after_their_pass_are_named_by_the_folder_of_their_version_and_the_one_above() -> None:
    assert list(together("quay/v003/beauty.exr", "quay/v003/depth.exr")) == ["quay_v003"]
    assert list(together("quay/beauty/v003/beauty.exr", "quay/depth/v003/depth.exr")) == ["quay_v003"]


def test_a_name_of_two_words_is_one_pass_and_versions_are_other_sources() -> None:
    found = together("x_v2_diffuse_direct.exr", "x_v2_diffuse_indirect.exr", "x_v2_spec.exr", "x_v1_spec.exr")
    assert list(found) == ["x_v2"]
    assert sorted(found["x_v2"].values()) == ["diffuse_direct", "diffuse_indirect", "spec"]


@pytest.mark.parametrize(
    "names", [("valley.exr", "paper.png"), ("a.exr", "b_shadow.exr"), ("a_v001.exr", "a_v002.exr"), ("dome.exr", "mast.exr")]
)
def test_what_has_nothing_in_common_stays_apart(names: tuple[str, ...]) -> None:
    assert together(*names) == {}


def test_the_file_without_a_pass_name_then_the_beauty_is_the_one_the_others_go_with() -> None:
    assert main_of({Path("a_shadow.exr"): "shadow", Path("a.exr"): ""}) == Path("a.exr")
    assert main_of({Path("a_shadow.exr"): "shadow", Path("a_beauty.exr"): "beauty"}) == Path("a_beauty.exr")


def test_sizes_and_frames_must_fit(tmp_path: Path) -> None:
    for frame in (1, 2):
        write(tmp_path / f"a_beauty.{frame:04d}.exr", grey(0.5))
        write(tmp_path / f"a_diffuse.{frame:04d}.exr", grey(0.5))
        write(tmp_path / f"a_shadow.{frame + 10:04d}.exr", grey(0.5))
    write(tmp_path / "a_depth.exr", {"Y": np.zeros((3, 4), np.float32)})
    write(tmp_path / "a_normal.exr", grey(0.5))
    found = {one.name: list(one.attached) for one in find_in(tmp_path, FastCopies(tmp_path / ".fast"), Roots([tmp_path]))}
    assert found == {"a": ["diffuse", "normal"], "a_shadow": [], "a_depth": []}


def test_a_folder_of_folders_by_pass_is_one_source(tmp_path: Path) -> None:
    for name in ("beauty", "diffuse", "depth"):
        (tmp_path / name).mkdir()
        write(tmp_path / name / "shot.0001.exr", grey(0.5))
    (one,) = find_here(tmp_path, FastCopies(tmp_path / ".fast"), Roots([tmp_path]))
    assert (one.path.parent.name, sorted(one.attached)) == ("beauty", ["depth", "diffuse"])


@pytest.fixture
def shot(tmp_path: Path) -> MediaReader:
    """A beauty sequence with, attached, a light, a mask in 8 bits, IDs, and a matte that misses a frame."""
    ids = np.full((2, SIZE[1], SIZE[0]), id_of("lamp"), np.uint32)
    covers = np.stack([np.full((SIZE[1], SIZE[0]), 0.75), np.zeros((SIZE[1], SIZE[0]))])
    for frame in (1, 2, 3):
        write(tmp_path / f"beauty.{frame}.exr", grey(0.5, "RGBA"))
        write(tmp_path / f"diffuse.{frame}.exr", grey(0.25 * frame))
    for frame in (101, 103):
        write(tmp_path / f"late.{frame}.exr", grey(frame / 128, "Y"))
    write(tmp_path / "ids.exr", id_planes("things", ids, covers), id_header("things", ["lamp"]))
    Image.fromarray(np.full((SIZE[1], SIZE[0]), 128, np.uint8)).save(tmp_path / "spot.png")
    attached = {
        "diffuse": Attached(path="diffuse.{frame:d}.exr"), "spot matte": Attached(path="spot.png"),
        "late matte": Attached(path="late.{frame:d}.exr", offset=-100), "ids": Attached(path="ids.exr"),
    }  # fmt: skip
    source = Source(path="beauty.{frame:d}.exr", attached=attached, passes={"late matte": PassSetting(kind="single_matte")})
    return MediaReader({"s": source}, [tmp_path], FastCopies(tmp_path / ".fast"))


def test_attached_passes_are_read_under_their_names(shot: MediaReader) -> None:
    info = shot.describe("s", 3)
    assert {name: found.kind for name, found in info.passes.items()} == {
        "rgba": "beauty", "diffuse": "diffuse", "spot matte": "single_matte", "late matte": "single_matte",
    }  # fmt: skip
    assert shot.pixels("s", 3, "diffuse", WHOLE)[0, 0].tolist() == [0.75] * 3
    # a matte is data: no transfer function is taken off
    assert shot.pixels("s", 3, "spot matte", WHOLE)[0, 0, 0] == np.float32(128 / 255)
    assert shot.pixels("s", 3, "late matte", WHOLE)[0, 0, 0] == 103 / 128
    _, coverage = shot.ranks("s", 3, "ids", WHOLE)
    assert coverage.sum(axis=0)[0, 0] == 0.75
    assert info.layer("ids").names == {"lamp": id_of("lamp")}


def test_a_frame_an_attached_file_lacks_is_refused_only_where_it_is_used(shot: MediaReader) -> None:
    assert shot.describe("s", 2).has("late matte")
    assert shot.pixels("s", 2, "diffuse", WHOLE)[0, 0, 0] == 0.5
    with pytest.raises(UmbraxError, match=r"'late matte' has no picture on this frame: there is no file 'late.102.exr'; render it"):
        shot.pixels("s", 2, "late matte", WHOLE)


def test_identities_change_with_any_of_the_files(shot: MediaReader) -> None:
    before = shot.describe("s", 3).identity
    assert shot.describe("s", 2).identity != before
    write(shot.roots.folders[0] / "diffuse.3.exr", grey(0.125))
    assert shot.describe("s", 3).identity == before, "a reader sees a file as it first found it"
    assert MediaReader(shot.sources, list(shot.roots.folders), shot.copies).describe("s", 3).identity != before


def test_missing_frames_of_attached_files_are_found(shot: MediaReader) -> None:
    found = [f for f in check_up(sequence_of_source(shot, "s"), shot.copies) if f.rule == "frames"]
    assert [(f.pass_, f.frames) for f in found] == [("late matte", (2,))]


def test_an_attached_file_outside_the_folders_is_refused(tmp_path: Path) -> None:
    inside = tmp_path / "inside"
    inside.mkdir()
    write(inside / "a.exr", grey(0.5))
    write(tmp_path / "b.exr", grey(0.5))
    reader = MediaReader({"s": Source(path="a.exr", attached={"b": Attached(path="../b.exr")})}, [inside], FastCopies(inside / ".fast"))
    with pytest.raises(UmbraxError, match="leads outside the media folders"):
        reader.describe("s", 1)


def test_mixed_padding_reads_every_frame(tmp_path: Path) -> None:
    for name in ("x.0009.exr", "x.10.exr"):
        write(tmp_path / name, grey(0.5))
    reader = MediaReader({"s": Source(path="x.{frame:02d}.exr")}, [tmp_path], FastCopies(tmp_path / ".fast"))
    assert reader.describe("s", 9).file.endswith("x.0009.exr")
    assert reader.describe("s", 10).file.endswith("x.10.exr")
