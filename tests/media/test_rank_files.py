"""ID layers whose ranks lie in files of their own, two ranks in each, as renders with a file for each pass have them."""

from pathlib import Path

import numpy as np
import pytest
from foreign import id_header, id_of, id_planes, write

from umbrax.core.checkup import Finding
from umbrax.core.document.sources import Attached, Source
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.media.examining import check_up_all, sequences_of
from umbrax.media.fastcopies import FastCopies
from umbrax.media.finding import Found, find_here
from umbrax.media.listing import list_together
from umbrax.media.reader import MediaReader
from umbrax.media.roots import Roots

WIDE, HIGH = 10, 8
WHOLE = Window(0, 0, WIDE, HIGH)
NAMES = ["dome", "slit", "rail", "mast"]
COVERAGE = np.stack([np.full((HIGH, WIDE), value, np.float32) for value in (0.5, 0.25, 0.15, 0.1)])
COVERAGE[:, :2] = 0  # a border that holds nothing
COVERAGE[2:, :, :4] = 0  # and deep ranks in a part only
IDS = np.where(COVERAGE > 0, np.array([id_of(name) for name in NAMES], np.uint32)[:, None, None], np.uint32(0))


def levels(dtype: type = np.float32) -> list[dict[str, np.ndarray]]:
    """The channels of the files 00 and 01."""
    with np.errstate(over="ignore"):
        planes = {name: plane.astype(dtype) for name, plane in id_planes("l", IDS, COVERAGE).items()}
    return [{name.split(".")[1]: plane for name, plane in planes.items() if name.startswith(f"l{n:02}.")} for n in range(2)]


def beauty(value: float = 0.25) -> dict[str, np.ndarray]:
    return {letter: np.full((HIGH, WIDE), value, np.float32) for letter in "RGBA"}


def render(
    folder: Path, picture: str, ids: str, frames: tuple[int, ...] = (1, 2), told: list[str | None] | None = None, dtype: type = np.float32
) -> Path:
    """Files by names with `{0}` for the rank and `{1}` for the frame; `told` are the layers that the headers of the files 00, 01 name."""
    for frame in frames:
        for name in (picture.format("", frame), *(ids.format(f"{rank:02}", frame) for rank in range(2))):
            (folder / name).parent.mkdir(exist_ok=True)
        write(folder / picture.format("", frame), beauty())
        for rank, channels in enumerate(levels(dtype)):
            layer = told[rank] if told else None
            write(folder / ids.format(f"{rank:02}", frame), channels, id_header(layer, NAMES) if layer else None)
    return folder


def found_in(folder: Path) -> tuple[Found, FastCopies]:
    copies = FastCopies(folder / "copies")
    (one,) = find_here(folder, copies, Roots([folder]))
    return one, copies


def reader_of(folder: Path, **settings: object) -> MediaReader:
    one, copies = found_in(folder)
    attached = {name: Attached(path=str(other.path.relative_to(folder))) for name, other in one.attached.items()}
    source = Source(path=str(one.path.relative_to(folder)), attached=attached, **settings)  # type: ignore[arg-type]
    return MediaReader({"s": source}, [folder], copies)


@pytest.mark.parametrize(
    ("picture", "ids", "layer"),
    [
        ("quay_beauty.{1:04}.exr", "quay_object_ids{0}.{1:04}.exr", "object_ids"),
        ("quay.{1:04}.exr", "quay_CryptoObject{0}.{1:04}.exr", "CryptoObject"),
        ("quay.{1:04}.exr", "quay_crypto_object_{0}.{1:04}.exr", "crypto_object"),
        ("Image{1:04}.exr", "CryptoObject{0}{1:04}.exr", "CryptoObject"),
        ("Image/quay_{1:04}.exr", "CryptoObject{0}/quay_{1:04}.exr", "CryptoObject"),
    ],
)
@pytest.mark.parametrize("frames", [(1, 2), (1,)])
def test_ranks_of_several_files_are_one_layer(tmp_path: Path, picture: str, ids: str, layer: str, frames: tuple[int, ...]) -> None:
    reader = reader_of(render(tmp_path, picture, ids, frames))
    told = reader.describe("s", 1)
    assert [(one.name, one.kind, one.ranks, one.names) for one in told.ids.values()] == [(layer, "object", 4, None)]
    assert set(told.passes) == {"rgba"}
    for window in (WHOLE, Window(3, 1, 9, 5)):
        got, coverage = reader.ranks("s", frames[-1], layer, window)
        part = (slice(None), slice(window.y0, window.y1), slice(window.x0, window.x1))
        assert np.array_equal(got, IDS[part])
        assert np.array_equal(coverage, COVERAGE[part])
    assert reader.held("s", 1, layer) == Window(0, 2, WIDE, HIGH)


def test_a_listing_names_all_files_of_a_layer(tmp_path: Path) -> None:
    told = list_together(str(render(tmp_path, "quay.{1}.exr", "quay_ids{0}.{1}.exr")), FastCopies(tmp_path / "copies"))
    assert told is not None
    beauty_told, ids_told = told["passes"]
    assert (Path(beauty_told["file"]).name, "files" in beauty_told) == ("quay.1.exr", False)
    assert [Path(file).name for file in ids_told["files"]] == ["quay_ids00.1.exr", "quay_ids01.1.exr"]


def test_one_file_of_ranks_alone_stays_the_pass_that_it_is(tmp_path: Path) -> None:
    """Of one file the check-up asks; what is told to be there can be read."""
    write(tmp_path / "quay.exr", {f"CryptoObject00.{letter}": plane for letter, plane in levels()[0].items()})
    reader = reader_of(tmp_path)
    assert not reader.layers("s", 1)
    for name in reader.describe("s", 1).passes:
        assert reader.pixels("s", 1, name, WHOLE).shape == (HIGH, WIDE, 4)


def test_ranks_of_a_still_are_no_frames(tmp_path: Path) -> None:
    render(tmp_path, "quay.exr", "quay_ids{0}.exr", (1,))
    one, _ = found_in(tmp_path)
    assert one.still
    assert sorted(one.attached) == ["ids00", "ids01"]


def test_numbers_that_the_picture_has_as_well_are_frames(tmp_path: Path) -> None:
    for frame in (0, 1):
        write(tmp_path / f"quay_beauty{frame:02}.exr", beauty())
        write(tmp_path / f"quay_ids{frame:02}.exr", levels()[0])
    one, _ = found_in(tmp_path)
    assert one.frames == [0, 1]
    assert [other.frames for other in one.attached.values()] == [[0, 1]]


@pytest.mark.parametrize(
    ("told", "names"),
    [
        (["object_ids", None], NAMES),
        (["View.ObjectIds", "View.ObjectIds"], NAMES),
        (["something else", None], NAMES),  # the one that the file itself names
        ([None, "something else"], None),
    ],
)
def test_names_come_from_the_metadata_of_the_files(tmp_path: Path, told: list[str | None], names: list[str] | None) -> None:
    reader = reader_of(render(tmp_path, "quay.{1}.exr", "quay_object_ids{0}.{1}.exr", told=told))
    layer = reader.layers("s", 1)["object_ids"]
    assert layer.names == (None if names is None else {name: id_of(name) for name in names})


def test_metadata_of_the_whole_render_makes_no_ids_of_other_numbered_passes(tmp_path: Path) -> None:
    render(tmp_path, "quay_beauty.{1}.exr", "quay_lights{0}.{1}.exr", told=["View.ObjectIds", "View.ObjectIds"])
    for frame in (1, 2):
        write(tmp_path / f"quay_diffuse.{frame}.exr", beauty(0.2))
    reader = reader_of(tmp_path)
    assert not reader.layers("s", 1)
    assert {"lights00", "lights01"} < set(reader.describe("s", 1).passes)


def findings_of(folder: Path) -> list[Finding]:
    copies = FastCopies(folder / "copies")
    return check_up_all(sequences_of(str(folder), copies), copies)


@pytest.mark.filterwarnings("error")
def test_names_that_do_not_tell_of_ids_are_asked_about_and_read_so_when_it_is_set(tmp_path: Path) -> None:
    render(tmp_path, "quay_beauty.{1}.exr", "quay_picks{0}.{1}.exr")
    write(tmp_path / "quay_diffuse.1.exr", beauty(0.2))
    write(tmp_path / "quay_diffuse.2.exr", beauty(0.2))
    (asked,) = [one for one in findings_of(tmp_path) if one.rule == "ids-damaged"]
    assert asked.remedy == {"do": "set-source", "id_layers": ["picks"]}
    assert not reader_of(tmp_path).layers("s", 1)
    reader = reader_of(tmp_path, id_layers=["picks"])
    assert np.array_equal(reader.ranks("s", 1, "picks", WHOLE)[0], IDS)


def test_halves_are_told_of_as_what_cannot_hold_ids(tmp_path: Path) -> None:
    render(tmp_path, "quay.{1}.exr", "quay_object_ids{0}.{1}.exr", dtype=np.float16)
    told = [one.message for one in findings_of(tmp_path) if one.rule == "ids-damaged" and one.severity == "error"]
    assert any("stored as half" in message for message in told)


def test_a_picture_called_like_the_layer_is_its_preview(tmp_path: Path) -> None:
    render(tmp_path, "quay.{1}.exr", "quay_object_ids{0}.{1}.exr")
    for frame in (1, 2):
        write(tmp_path / f"quay_object_ids.{frame}.exr", beauty(0.5))
    reader = reader_of(tmp_path)
    assert np.array_equal(reader.ranks("s", 1, "object_ids", WHOLE)[0], IDS)
    assert reader.pixels("s", 1, "object_ids preview", WHOLE)[0, 0, 0] == 0.5
    (tmp_path / "quay_object_ids.2.exr").unlink()
    reader = reader_of(tmp_path)
    with pytest.raises(UmbraxError, match=r"quay_object_ids\.2\.exr"):
        reader.pixels("s", 2, "object_ids preview", WHOLE)


def test_a_frame_that_one_of_the_files_lacks_is_refused_with_its_name(tmp_path: Path) -> None:
    render(tmp_path, "quay.{1}.exr", "quay_object_ids{0}.{1}.exr")
    (tmp_path / "quay_object_ids01.2.exr").unlink()
    reader = reader_of(tmp_path)
    assert np.array_equal(reader.ranks("s", 1, "object_ids", WHOLE)[0], IDS)
    with pytest.raises(UmbraxError, match=r"quay_object_ids01\.2\.exr"):
        reader.ranks("s", 2, "object_ids", WHOLE)


def test_files_may_hold_different_parts_of_the_frame(tmp_path: Path) -> None:
    """Ranks that lie in a part of the frame only are cut to it; where a file has nothing, there is none of its ranks."""
    shown = {"displayWindow": ((0, 0), (WIDE - 1, HIGH - 1))}
    write(tmp_path / "quay.exr", beauty())
    first, second = levels()
    write(tmp_path / "quay_ids00.exr", first)
    part = Window(5, 2, 9, 7)
    cut = {letter: np.ascontiguousarray(plane[part.y0 : part.y1, part.x0 : part.x1]) for letter, plane in second.items()}
    write(tmp_path / "quay_ids01.exr", cut, {**shown, "dataWindow": ((part.x0, part.y0), (part.x1 - 1, part.y1 - 1))})
    inside = np.zeros((HIGH, WIDE), np.bool_)
    inside[part.y0 : part.y1, part.x0 : part.x1] = True
    expected = np.where(np.stack([inside | True, inside | True, inside, inside]), IDS, 0)
    reader = reader_of(tmp_path)
    for _ in range(2):  # made, and as it was kept
        ids, coverage = reader.ranks("s", 1, "ids", WHOLE)
        assert np.array_equal(ids, expected)
        assert np.array_equal(coverage[2:], np.where(inside, COVERAGE[2:], 0))
    assert np.array_equal(reader.ranks("s", 1, "ids", Window(4, 3, 7, 6))[0], expected[:, 3:6, 4:7])


def test_a_change_of_any_file_is_another_picture(tmp_path: Path) -> None:
    render(tmp_path, "quay.{1}.exr", "quay_object_ids{0}.{1}.exr")
    before = reader_of(tmp_path)
    identity = before.describe("s", 1).identity
    before.ranks("s", 1, "object_ids", WHOLE)
    write(tmp_path / "quay_object_ids01.1.exr", {letter: plane * 0 for letter, plane in levels()[1].items()})
    after = reader_of(tmp_path)
    assert after.describe("s", 1).identity != identity
    assert not after.ranks("s", 1, "object_ids", WHOLE)[0][2:].any()
    assert np.array_equal(after.ranks("s", 1, "object_ids", WHOLE)[0][:2], IDS[:2])
