"""The check-up over real files: the demo's faulty ones, remedies that end a finding, and what the reader makes of them."""

from functools import partial
from pathlib import Path

import numpy as np
import pytest
from foreign import write

from umbrax.core.checkup import Finding, LightSum
from umbrax.core.document.sources import Attached, Backdrop, PassSetting, Source
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.core.repair.shifting import shifted
from umbrax.media import examining
from umbrax.media.examining import Sequence, check_up, sequence_of, sequence_of_source, sum_of_lights, where_of
from umbrax.media.fastcopies import FastCopies
from umbrax.media.gathering import SourceFiles
from umbrax.media.reader import MediaReader
from umbrax.standin.exr import channels_of, write_exr
from umbrax.standin.faulty import FAULTS
from umbrax.standin.frames import render
from umbrax.standin.scene import observatory

SIZE = (480, 270)
FRAME = Window(0, 0, *SIZE)


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    """A good frame and the faulty ones made from it."""
    folder = tmp_path_factory.mktemp("faulty")
    channels, metadata = channels_of(render(observatory(1001), *SIZE, after=observatory(1002)))
    write_exr(folder / "good.exr", channels, metadata)
    for name, spoil, _ in FAULTS:
        write_exr(folder / f"{name}.exr", spoil(channels), metadata)
    return {path.stem: path for path in folder.iterdir()}


@pytest.fixture(scope="module")
def copies(tmp_path_factory: pytest.TempPathFactory) -> FastCopies:
    return FastCopies(tmp_path_factory.mktemp("copies"))


def examined(path: Path, copies: FastCopies, **passes: PassSetting) -> list[Finding]:
    return check_up(Sequence(path.stem, SourceFiles(path), (0,), True, Source(path=path.name, passes=passes)), copies)


def test_the_good_frame_has_no_findings_but_names_too_small_to_see(files: dict[str, Path], copies: FastCopies) -> None:
    assert {(f.rule, f.severity) for f in examined(files["good"], copies)} <= {("ids-names", "note")}


@pytest.mark.parametrize(("name", "rule"), [(name, rule) for name, _, rule in FAULTS])
def test_every_faulty_file_is_found(name: str, rule: str, files: dict[str, Path], copies: FastCopies) -> None:
    assert rule in {finding.rule for finding in examined(files[name], copies)}


REMEDIED = ["no_alpha", "inverted_shadow", "bad_pixels", "smoothed_index", "unassociated", "leaking_mattes", "ray_depth", "clipped_depth"]


@pytest.mark.parametrize("name", REMEDIED)
def test_a_remedy_ends_its_finding(name: str, files: dict[str, Path], copies: FastCopies) -> None:
    found = [f for f in examined(files[name], copies) if f.remedy and f.remedy["do"] == "set"]
    assert found
    settings = {
        name: PassSetting(**{k: v for k, v in f.remedy.items() if k not in ("do", "passes")})
        for f in found
        if f.remedy
        for name in f.remedy.get("passes", [f.pass_] if f.pass_ else [])
    }
    left = {(f.rule, f.pass_, tuple(f.measure)) for f in examined(files[name], copies, **settings)}
    assert not left & {(f.rule, f.pass_, tuple(f.measure)) for f in found}


def test_a_backdrop_is_taken_out_and_the_render_examined_clean(files: dict[str, Path], copies: FastCopies) -> None:
    (finding,) = [f for f in examined(files["backdrop"], copies) if f.rule == "baked-backdrop"]
    assert finding.remedy == {"do": "set-source", "backdrop": {"layer": "object_ids"}}
    source = Source(path="backdrop.exr", backdrop=Backdrop(layer="object_ids"))
    again = check_up(Sequence("s", SourceFiles(files["backdrop"]), (0,), True, source), copies)
    assert "baked-backdrop" not in {f.rule for f in again}
    reader = MediaReader({"s": source, "good": Source(path="good.exr")}, [files["good"].parent], copies)
    truth, found = reader.pixels("good", 1, "rgba", FRAME), reader.pixels("s", 1, "rgba", FRAME)
    # the stand-in's alpha is its coverage to half floats; its wall is flat
    assert np.abs(found - truth).max() < 4e-3
    part = Window(101, 60, 250, 163)
    assert np.allclose(reader.pixels("s", 1, "rgba", part), found[60:163, 101:250], atol=1e-6)


def test_a_beauty_without_alpha_gets_what_the_ids_cover(files: dict[str, Path], copies: FastCopies, tmp_path: Path) -> None:
    channels, metadata = channels_of(render(observatory(1001), *SIZE))
    write_exr(tmp_path / "opaque.exr", {name: plane for name, plane in channels.items() if name != "A"}, metadata)
    source = Source(path="opaque.exr", backdrop=Backdrop(layer="object_ids"))
    reader = MediaReader({"s": source}, [tmp_path], copies)
    assert reader.describe("s", 1).passes["rgba"].has_alpha
    found = reader.pixels("s", 1, "rgba", FRAME)
    assert np.abs(found[..., 3] - channels["A"].astype(np.float32)).max() < 2e-3


def test_a_matte_that_lies_beside_the_picture_is_moved_to_it(files: dict[str, Path], copies: FastCopies) -> None:
    folder = files["good"].parent
    alpha = read(files["good"], copies, "rgba")[..., 3]
    write(folder / "late_matte.exr", {"Y": shifted(alpha[..., None], 2.5, -1.25)[..., 0].astype(np.float16)})
    attached = {"late": Attached(path="late_matte.exr")}
    passes = {"late": PassSetting(kind="single_matte")}

    def findings() -> list[Finding]:
        source = Source(path="good.exr", attached=attached, passes=passes)
        reader = MediaReader({"s": source}, [folder], copies)
        return [f for f in check_up(sequence_of_source(reader, "s"), copies) if f.rule == "late-matte"]

    (finding,) = findings()
    assert finding.remedy is not None
    assert np.allclose(finding.remedy["shift"], (-2.5, 1.25), atol=0.3)
    passes["late"] = PassSetting(kind="single_matte", shift=finding.remedy["shift"])
    assert findings() == []


def test_grey_plateaus_are_ended_by_the_levels_that_are_proposed(files: dict[str, Path], copies: FastCopies) -> None:
    folder = files["good"].parent
    alpha = read(files["good"], copies, "rgba")[..., 3]
    write(folder / "grey_matte.exr", {"Y": (0.1 + 0.8 * alpha).astype(np.float16)})
    passes = {"grey": PassSetting(kind="single_matte")}

    def findings() -> list[Finding]:
        reader = MediaReader(
            {"s": Source(path="good.exr", attached={"grey": Attached(path="grey_matte.exr")}, passes=passes)}, [folder], copies
        )
        return [f for f in check_up(sequence_of_source(reader, "s"), copies) if f.rule == "late-matte"]

    (finding,) = findings()
    assert finding.remedy is not None
    passes["grey"] = PassSetting(kind="single_matte", black=finding.remedy["black"], white=finding.remedy["white"])
    assert findings() == []


def test_a_matte_of_other_frames_is_taken_to_its_own(tmp_path: Path) -> None:
    """The disc moves 6 pixels a frame; the matte that came late is one frame behind."""
    y, x = np.mgrid[:60, :120] + 0.5

    def disc(frame: int) -> np.ndarray:
        return np.clip(14 - np.hypot(x - 30 - 6 * frame, y - 30) + 0.5, 0, 1).astype(np.float16)

    for frame in range(8):
        write(tmp_path / f"x.{frame:04d}.exr", {c: disc(frame) for c in "RGBA"})
        write(tmp_path / f"late.{frame:04d}.exr", {"Y": disc(frame - 1)})
    attached = {"late": Attached(path="late.{frame:04d}.exr")}

    def shifts() -> list[Finding]:
        source = Source(path="x.{frame:04d}.exr", attached=attached, passes={"late": PassSetting(kind="single_matte")})
        reader = MediaReader({"s": source}, [tmp_path], FastCopies(tmp_path / "fast"))
        return [f for f in check_up(sequence_of_source(reader, "s"), reader.copies) if f.rule == "late-matte" and "frames" in f.measure]

    (finding,) = shifts()
    assert finding.remedy == {"do": "attached-offset", "offset": finding.measure["frames"]}
    attached["late"] = Attached(path="late.{frame:04d}.exr", offset=finding.measure["frames"])
    assert shifts() == []


def test_ranks_that_the_metadata_does_not_name_are_read_as_ids_when_told(files: dict[str, Path], copies: FastCopies, tmp_path: Path) -> None:
    channels, _ = channels_of(render(observatory(1001), *SIZE))
    write_exr(tmp_path / "bare.exr", channels, {})
    (finding, *_) = [f for f in check_up(sequence_of(str(tmp_path / "bare.exr")), copies) if f.rule == "ids-damaged"]
    assert finding.remedy is not None
    source = Source(path="bare.exr", id_layers=tuple(finding.remedy["id_layers"]))
    reader = MediaReader({"s": source, "good": Source(path="good.exr")}, [tmp_path, files["good"].parent], copies)
    (layer,) = finding.remedy["id_layers"]
    for mine, theirs in zip(reader.ranks("s", 1, layer, FRAME), reader.ranks("good", 1, layer, FRAME), strict=True):
        assert np.array_equal(mine, theirs)
    again = check_up(sequence_of_source(reader, "s"), copies)
    assert not [f for f in again if f.rule == "ids-damaged" and layer in f.message]


def test_what_looks_like_empty_last_ranks_is_not_told_as_a_pass_of_nothing(copies: FastCopies, tmp_path: Path) -> None:
    channels, _ = channels_of(render(observatory(1001), *SIZE))
    write_exr(tmp_path / "thin.exr", {name: plane * ("02." not in name) for name, plane in channels.items()}, {})
    told = [f for f in check_up(sequence_of(str(tmp_path / "thin.exr")), copies) if f.rule in ("constant-pass", "ids-damaged")]
    assert {f.rule for f in told} == {"ids-damaged"}, [f.message for f in told]


@pytest.mark.parametrize(("room", "frames"), [(1 << 30, 6), (3.5, 3), (0.1, 2)])
def test_of_large_frames_fewer_are_read_before_a_shot_is_there(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, room: float, frames: int
) -> None:
    light = np.full((8, 12), 0.5, np.float16)
    channels = {**dict.fromkeys("RGB", 2 * light), **{f"{name}.{c}": light for name in ("diffuse", "specular") for c in "RGB"}}
    for frame in range(1, 10):
        write(tmp_path / f"x.{frame:04d}.exr", {name: plane * np.float16(0.5**frame) for name, plane in channels.items()})
    copies = FastCopies(tmp_path / "fast")
    monkeypatch.setattr(examining, "FEW_BYTES", int(room * light.nbytes * len(channels)))
    found = sum_of_lights(sequence_of(str(tmp_path / "x.{frame:04d}.exr")), copies)
    assert found == LightSum(("diffuse", "specular"))
    assert copies.made == frames


def test_where_a_finding_lies_is_asked_of_a_source(files: dict[str, Path], copies: FastCopies) -> None:
    reader = MediaReader({"s": Source(path="bad_pixels.exr")}, [files["good"].parent], copies)
    mask = where_of(reader, "s", 1, "bad-pixels", "diffuse")
    assert np.count_nonzero(mask) == 5  # NaN, infinity and three negatives
    with pytest.raises(UmbraxError, match="unknown pass 'nothing'"):
        where_of(reader, "s", 1, "bad-pixels", "nothing")


def read(path: Path, copies: FastCopies, name: str, **passes: PassSetting) -> np.ndarray:
    reader = MediaReader({"s": Source(path=path.name, passes=passes)}, [path.parent], copies)
    return reader.pixels("s", 1, name, FRAME)


def test_the_reader_reads_as_it_was_set(files: dict[str, Path], copies: FastCopies) -> None:
    good, inverted = (partial(read, files[name], copies) for name in ("good", "inverted_shadow"))
    assert np.allclose(inverted("shadow", shadow=PassSetting(polarity="shadow")), good("shadow"), atol=1e-3)
    index = read(files["smoothed_index"], copies, "object_index", object_index=PassSetting(round=True))
    assert np.array_equal(index, np.rint(index))
    repaired = read(files["bad_pixels"], copies, "specular", specular=PassSetting(repair=True))
    assert repaired.max() < 20
    beauty = read(files["unassociated"], copies, "rgba", rgba=PassSetting(association="multiply"))
    assert np.abs(beauty - good("rgba")).max() < 0.02


def test_windows_of_repaired_passes_are_those_of_the_whole(files: dict[str, Path], copies: FastCopies) -> None:
    for name, wanted, setting in (
        ("bad_pixels", "diffuse", PassSetting(repair=True)),
        ("smoothed_index", "object_index", PassSetting(round=True)),
    ):
        reader = MediaReader({"s": Source(path=files[name].name, passes={wanted: setting})}, [files[name].parent], copies)
        whole = reader.pixels("s", 1, wanted, FRAME)
        part = Window(120, 100, 301, 190)
        assert np.array_equal(reader.pixels("s", 1, wanted, part), whole[100:190, 120:301])


def test_a_kind_that_was_set_counts_and_changes_the_identity(files: dict[str, Path], copies: FastCopies) -> None:
    folder = files["good"].parent
    plain = MediaReader({"s": Source(path="good.exr")}, [folder], copies).describe("s", 1)
    setting = {"ambient": PassSetting(kind="other", alpha="shadow")}
    changed = MediaReader({"s": Source(path="good.exr", passes=setting)}, [folder], copies).describe("s", 1)
    assert (plain.passes["ambient"].kind, changed.passes["ambient"].kind) == ("ambient", "other")
    assert changed.passes["ambient"].alpha == "shadow"
    assert plain.identity != changed.identity


def test_holes_and_cut_off_frames_of_a_sequence_are_findings(tmp_path: Path, copies: FastCopies) -> None:
    random = np.random.default_rng(1)
    for frame in (1, 2, 4, 5):
        write(tmp_path / f"x.{frame:04d}.exr", {c: random.uniform(0, 1, (40, 60)).astype(np.float16) for c in "RGB"})
    path = tmp_path / "x.0002.exr"
    path.write_bytes(path.read_bytes()[:900])
    found = {f.frames: f for f in check_up(sequence_of(str(tmp_path)), copies)}
    assert {frames for frames, f in found.items() if f.rule == "frames"} == {(2,), (3,)}
    assert "x.0002.exr" in found[(2,)].message


def test_a_backdrop_whose_layer_a_version_lost_stays_in_and_the_picture_is_read(files: dict[str, Path], copies: FastCopies) -> None:
    lost = Source(path="backdrop.exr", backdrop=Backdrop(layer="cover_ids", clean="wall"))
    reader = MediaReader({"lost": lost, "plain": Source(path="backdrop.exr")}, [files["backdrop"].parent], copies)
    assert np.array_equal(reader.pixels("lost", 1, "rgba", FRAME), reader.pixels("plain", 1, "rgba", FRAME))
    assert "baked-backdrop" in {f.rule for f in check_up(Sequence("lost", SourceFiles(files["backdrop"]), (0,), True, lost), copies)}
    half = Source(path="backdrop.exr", backdrop=Backdrop(layer="object_ids", clean="wall"))
    alone = Source(path="backdrop.exr", backdrop=Backdrop(layer="object_ids"))
    reader = MediaReader({"half": half, "alone": alone}, [files["backdrop"].parent], copies)
    assert np.array_equal(reader.pixels("half", 1, "rgba", FRAME), reader.pixels("alone", 1, "rgba", FRAME)), "without its picture, from around"
