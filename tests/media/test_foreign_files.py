"""Files the stand-in did not write: layers, mixed types, parts, ID layers; values bit for bit."""

import json
from pathlib import Path

import numpy as np
import OpenEXR
import pytest
from foreign import id_header, id_of, id_planes, write, write_parts

from umbrax.core.document.parameters import MatteRef
from umbrax.core.document.sources import Source
from umbrax.core.document.text import read_data
from umbrax.core.errors import UmbraxError
from umbrax.core.kernels.ids import pull, sum_of_ranks
from umbrax.core.mattes.ids import ids_of_names
from umbrax.core.picture import Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.media.fastcopies import FastCopies
from umbrax.media.files import inspect
from umbrax.media.listing import list_passes
from umbrax.media.reader import MediaReader

H, W = 24, 40
RNG = np.random.default_rng(3)


def reader_of(path: Path, tmp_path: Path, **source: object) -> MediaReader:
    return MediaReader({"s": Source.model_validate({"path": path.name, **source})}, [path.parent], FastCopies(tmp_path / "fast"))


def plane(dtype: type = np.float16) -> np.ndarray:
    return RNG.normal(0, 3, (H, W)).astype(dtype)


def mixed_file(tmp_path: Path) -> tuple[Path, dict[str, np.ndarray]]:
    channels = {
        **{letter: plane() for letter in "RGB"}, "A": RNG.random((H, W)).astype(np.float16),
        **{f"Beauty Passes.DiffuseDirect.{c}": plane() for c in "RGB"},
        **{f"render_specular.{c}": plane(np.float32) for c in ("red", "green", "blue")},
        "Z": RNG.uniform(1, 9, (H, W)).astype(np.float32),
        "objectID.Y": RNG.integers(0, 2**32, (H, W), dtype=np.uint32),
        **{f"N.{c}": plane(np.float32) for c in "XYZ"},
    }  # fmt: skip
    channels["Z"][3, 4] = np.inf
    return write(tmp_path / "shot.0001.exr", channels), channels


def test_layers_types_and_kinds(tmp_path: Path) -> None:
    path, _ = mixed_file(tmp_path)
    found = {p["name"]: p for p in list_passes(str(path))["passes"]}
    kinds = {name: (p["kind"], p["type"]) for name, p in found.items()}
    assert kinds == {
        "rgba": ("beauty", "half"), "Beauty Passes.DiffuseDirect": ("diffuse", "half"), "render_specular": ("specular", "float"),
        "Z": ("depth", "float"), "objectID": ("object_index", "uint"), "N": ("normal", "float"),
    }  # fmt: skip
    assert found["Beauty Passes.DiffuseDirect"]["of"] == "direct"
    assert found["render_specular"]["channels"] == ["render_specular.red", "render_specular.green", "render_specular.blue"]


def test_values_come_through_bit_for_bit(tmp_path: Path) -> None:
    path, channels = mixed_file(tmp_path)
    reader = reader_of(path, tmp_path)
    info = reader.describe("s", 1)
    whole = Window(0, 0, W, H)
    for name, found in info.passes.items():
        pixels = reader.pixels("s", 1, name, whole)
        for index, channel in enumerate(found.channels):
            expected = channels[channel]
            if expected.dtype == np.uint32:
                continue
            assert np.array_equal(pixels[..., index], expected.astype(np.float32)), channel
    window = Window(7, 3, 19, 11)
    assert np.array_equal(reader.pixels("s", 1, "Z", window)[..., 0], channels["Z"][3:11, 7:19])
    index = reader.pixels("s", 1, "objectID", whole)[..., 0]
    assert np.array_equal(index, channels["objectID.Y"].astype(np.float32))


ODD_IDS = [
    0x7FC00001,
    0xFFC12345,
    0x7F800000,
    0x00000001,
    0x807FFFFF,
    0x80000000,
]  # NaN, infinite and denormal patterns


@pytest.mark.parametrize("ranks", [1, 2, 4, 6, 8])
@pytest.mark.parametrize("letters", ["RGBA", "rgba"])
@pytest.mark.parametrize("dtype", [np.float32, np.float16])
def test_coverages_of_names_patterns_and_odd_bit_patterns(tmp_path: Path, ranks: int, letters: str, dtype: type) -> None:
    names = ["crate_1", "crate_2", "crates/lid", "Lampe über Tür", "floor"]
    hashes = np.array([*(id_of(name) for name in names), *ODD_IDS, 0], np.uint32)
    ids = hashes[RNG.integers(0, len(hashes), (ranks, H, W))]
    coverage = RNG.dirichlet(np.ones(ranks), (H, W)).transpose(2, 0, 1).astype(dtype)
    channels = {**{c: plane() for c in "RGBA"}, **id_planes("objs", ids, coverage, letters=letters, dtype=dtype)}
    path = write(tmp_path / "ids.exr", channels, id_header("objs", names))
    reader = reader_of(path, tmp_path)
    assert reader.describe("s", 1).ids["objs"].ranks == ranks + ranks % 2 * 0

    def pulled(wanted: list[object]) -> np.ndarray:
        matte = {"kind": "id", "source": "s", "layer": "objs", "names": wanted}
        shot = read_data(
            {"umbrax": 1, "name": "x", "format": {"width": W, "height": H, "first": 1, "last": 1}, "sources": {"s": {"path": "ids.exr"}},
             "mattes": {"m": matte}, "build": []}
        )  # fmt: skip
        step = ShotPlanner(shot, 1, reader).coverage(MatteRef(matte="m"), 1)
        return evaluate(step, Window(0, 0, W, H), PictureCache(1 << 26)).pixels[..., 0]

    def expected(wanted: set[int]) -> np.ndarray:
        total = np.zeros((H, W), np.float32)
        for rank in range(ranks):
            total += np.where(
                np.isin(ids[rank], np.array(sorted(wanted), np.uint32)),
                coverage[rank].astype(np.float32),
                np.float32(0),
            )
        return total

    assert np.array_equal(pulled(["floor"]), expected({id_of("floor")}))
    assert np.array_equal(pulled(["crate_1", "Lampe über Tür"]), expected({id_of("crate_1"), id_of("Lampe über Tür")}))
    assert np.array_equal(pulled(["crate*"]), expected({id_of(n) for n in names[:3]}))
    assert np.array_equal(pulled([f"#{i:08x}" for i in ODD_IDS]), expected(set(ODD_IDS)))
    assert np.array_equal(pulled([f"#{i:08x}" for i in hashes if i]), expected({int(i) for i in hashes if i}))


@pytest.mark.parametrize("dtype", [np.float32, np.float16])
@pytest.mark.parametrize("manifest", [True, False])
def test_motion_blurred_coverages_and_the_sum_of_all_ids_named_or_not(tmp_path: Path, dtype: type, manifest: bool) -> None:
    """Bars that move by 9 pixels while the shutter is open: a pixel holds up to five of them, each for a part of the time."""
    names = [f"bar {n}" for n in range(6)]
    times = np.linspace(0, 9, 64, endpoint=False)
    column = np.arange(W)
    held = [(np.floor_divide(column[None] - times[:, None], 3).astype(int) % 7) == n for n in range(6)]
    blurred = np.stack([np.tile(bar.mean(axis=0), (H, 1)) for bar in held]).astype(dtype)
    order = np.argsort(-blurred, axis=0, kind="stable")
    hashes = np.array([id_of(name) for name in names], np.uint32)
    coverage = np.take_along_axis(blurred, order, axis=0)
    ids = np.where(coverage > 0, hashes[order], 0).astype(np.uint32)
    header = id_header("objs", names[:4] if manifest else None)
    channels = {c: plane() for c in "RGBA"} | id_planes("objs", ids, coverage, dtype=dtype)
    reader = reader_of(write(tmp_path / "blur.exr", channels, header), tmp_path)
    layer, whole = reader.describe("s", 1).ids["objs"], Window(0, 0, W, H)
    read = reader.ranks("s", 1, "objs", whole)
    for name, written in zip(names, blurred, strict=True):
        assert np.array_equal(pull(*read, ids_of_names((name,), layer))[..., 0], written.astype(np.float32))
    everything = pull(*read, frozenset(int(i) for i in hashes))
    assert np.array_equal(everything, sum_of_ranks(*read))
    assert everything[..., 0] == pytest.approx(coverage.astype(np.float64).sum(axis=0), abs=1e-6)


def test_ids_without_a_manifest_in_a_side_car_and_two_layers(tmp_path: Path) -> None:
    ids = np.full((2, H, W), id_of("a"), np.uint32)
    coverage = np.full((2, H, W), 0.5, np.float32)
    channels = id_planes("objs", ids, coverage) | id_planes("mats", ids, coverage)
    header = id_header("objs", None, key="aaaaaaa") | id_header("mats", None, key="bbbbbbb")
    header["cryptomatte/bbbbbbb/manif_file"] = "side.json"
    (tmp_path / "side.json").write_text(json.dumps({"a": f"{id_of('a'):08x}"}))
    found = {i["layer"]: i for i in list_passes(str(write(tmp_path / "two.exr", channels, header)))["ids"]}
    assert found["objs"]["names"] is None
    assert found["mats"]["names"] == ["a"]


TILES = {"type": OpenEXR.tiledimage, "tiles": OpenEXR.TileDescription()}
LAST = Window(8, 4, W - 4, H - 6)  # where the last ranks are, which are mostly nothing


@pytest.mark.parametrize("named", [True, False], ids=["channels with their layer", "channels of the part alone"])
@pytest.mark.parametrize("large", [False, True], ids=["whole", "in strips"])
@pytest.mark.parametrize(
    ("header", "last"), [({}, None), (TILES, None), ({}, LAST), (TILES, LAST)], ids=["rows", "tiles", "cropped", "cropped tiles"]
)
def test_ranks_in_parts_of_their_own_are_one_layer(
    named: bool, large: bool, header: dict[str, object], last: Window | None, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    if large:
        monkeypatch.setattr("umbrax.media.decoding.WHOLE_BYTES", 1000)
        monkeypatch.setattr("umbrax.media.decoding.STRIP_ROWS", 5)
    names = ["quay", "crane", "lamp", "ship"]
    ids = np.array([id_of(name) for name in names], np.uint32)[RNG.integers(0, 4, (6, H, W))]
    coverage = RNG.dirichlet(np.ones(6), (H, W)).transpose(2, 0, 1).astype(np.float32)
    if last is not None:
        outside = np.ones((H, W), bool)
        outside[last.y0 : last.y1, last.x0 : last.x1] = False
        ids[4:, outside] = 0
        coverage[4:, outside] = 0
    planes = id_planes("objs", ids, coverage)
    picture = {letter: plane() for letter in "RGBA"}
    parts: list[tuple[str, dict[str, np.ndarray], dict[str, object]]] = [("rgba", picture, {**header, **id_header("objs", names)})]
    for level in ("objs00", "objs01", "objs02"):
        held = {key if named else key[-1]: values for key, values in planes.items() if key.startswith(level)}
        window: dict[str, object] = {}
        if last is not None and level == "objs02":
            held = {key: np.ascontiguousarray(values[last.y0 : last.y1, last.x0 : last.x1]) for key, values in held.items()}
            window = {"dataWindow": ((last.x0, last.y0), (last.x1 - 1, last.y1 - 1)), "displayWindow": ((0, 0), (W - 1, H - 1))}
        parts.append((level, held, {**header, **window, **id_header("objs", names)}))
    parts.append(("depth", {"Z": plane(np.float32)}, header))
    path = write_parts(tmp_path / "ids.exr", parts)
    found = {found.name: found for found in inspect(path).passes}
    assert list(found) == ["rgba", "objs", "depth"]
    assert (len(found["objs"].channels), found["objs"].window) == (12, Window(0, 0, W, H))
    reader = reader_of(path, tmp_path)
    for name in names:
        matte = {"kind": "id", "source": "s", "layer": "objs", "names": [name]}
        data = {"umbrax": 1, "name": "x", "format": {"width": W, "height": H, "first": 1, "last": 1}, "sources": {"s": {"path": "ids.exr"}}}
        shot = read_data({**data, "mattes": {"m": matte}, "build": []})
        pulled = evaluate(ShotPlanner(shot, 1, reader).coverage(MatteRef(matte="m"), 1), Window(0, 0, W, H), PictureCache(1 << 26)).pixels
        # the sum by the Cryptomatte specification, in the order of its ranks
        expected = np.zeros((H, W), np.float32)
        for rank in range(6):
            expected += np.where(ids[rank] == id_of(name), coverage[rank], np.float32(0))
        assert np.array_equal(pulled[..., 0], expected)
    assert np.array_equal(reader.pixels("s", 1, "depth", Window(0, 0, W, H))[..., 0], parts[-1][1]["Z"])


def test_each_eye_has_an_id_layer_of_its_own(tmp_path: Path) -> None:
    names, parts = ["quay", "crane"], []
    coverage = {}
    for eye in ("left", "right"):
        ids = np.array([id_of(name) for name in names], np.uint32)[RNG.integers(0, 2, (4, H, W))]
        coverage[eye] = RNG.dirichlet(np.ones(4), (H, W)).transpose(2, 0, 1).astype(np.float32)
        parts.append((f"rgba.{eye}", {letter: plane() for letter in "RGBA"}, {"view": eye, **id_header("objs", names)}))
        for level in ("objs00", "objs01"):
            held = {key: values for key, values in id_planes("objs", ids, coverage[eye]).items() if key.startswith(level)}
            parts.append((f"{level}.{eye}", held, {"view": eye, **id_header("objs", names)}))
    found = inspect(write_parts(tmp_path / "ids.exr", parts))
    assert {name: layer.ranks for name, layer in found.ids.items()} == {"objs": 4, "right.objs": 4}, "and not eight ranks of both"


def test_a_layer_whose_name_ends_like_another_is_another(tmp_path: Path) -> None:
    channels, header = {letter: plane() for letter in "RGBA"}, {}
    names = {"objs": ["quay", "crane"], "far_objs": ["hill"]}
    for number, (layer, its_names) in enumerate(names.items()):
        ids = np.array([id_of(name) for name in its_names], np.uint32)[RNG.integers(0, len(its_names), (2, H, W))]
        channels |= id_planes(layer, ids, np.full((2, H, W), 0.5, np.float32))
        header |= id_header(layer, its_names, key=f"{number}aaaaaa")
    found = inspect(write(tmp_path / "ids.exr", channels, header))
    assert {name: (layer.ranks, sorted(layer.names or ())) for name, layer in found.ids.items()} == {
        "objs": (2, ["crane", "quay"]), "far_objs": (2, ["hill"]),
    }  # fmt: skip
    groups = {f"{group}.objs00.{letter}": plane(np.float32) for group in ("near", "far") for letter in "RGBA"}
    apart = inspect(write(tmp_path / "groups.exr", groups, id_header("objs", ["quay"])))
    assert sorted(apart.ids) == ["far.objs", "near.objs"]


def test_each_eye_of_one_part_has_an_id_layer_of_its_own(tmp_path: Path) -> None:
    letters = [f"{eye}{letter}" for eye in ("", "right.") for letter in ("R", "G", "B", "objs00.R", "objs00.G", "objs00.B", "objs00.A")]
    channels = {letter: plane(np.float32) for letter in letters}
    found = inspect(write(tmp_path / "eyes.exr", channels, {"multiView": ["left", "right"], **id_header("objs", ["quay"])}))
    assert {name: layer.ranks for name, layer in found.ids.items()} == {"objs": 2, "right.objs": 2}


def test_id_like_channels_without_metadata_stay_other(tmp_path: Path) -> None:
    channels = id_planes("mystery", np.ones((2, H, W), np.uint32), np.ones((2, H, W)))
    found = list_passes(str(write(tmp_path / "m.exr", channels)))
    assert found["ids"] == []
    assert {p["kind"] for p in found["passes"]} == {"other"}


def test_parts_are_passes_of_their_own_name(tmp_path: Path) -> None:
    parts = [
        ("beauty", {c: plane() for c in "RGBA"}, {}), ("specular", {c: plane() for c in "RGB"}, {}),
        ("depth", {"Z": plane(np.float32)}, {}),
        ("objs", id_planes("objs", np.full((2, H, W), id_of("a"), np.uint32), np.ones((2, H, W))), id_header("objs", ["a"])),
    ]  # fmt: skip
    path = write_parts(tmp_path / "parts.exr", parts)
    info = inspect(path)
    assert {p.name: p.kind for p in info.passes} == {
        "beauty": "beauty",
        "specular": "specular",
        "depth": "depth",
        "objs": "ids",
    }
    reader = reader_of(path, tmp_path)
    assert np.array_equal(reader.pixels("s", 1, "specular", Window(0, 0, W, H))[..., 1], parts[1][1]["G"].astype(np.float32))
    assert reader.ranks("s", 1, "objs", Window(0, 0, W, H))[0][0, 0, 0] == id_of("a")


@pytest.mark.parametrize("name", ["rgba", "main"])
def test_the_picture_of_the_first_part_is_the_beauty_and_its_z_a_pass_of_its_own(tmp_path: Path, name: str) -> None:
    channels = {**{c: plane() for c in "RGBA"}, "Z": plane(np.float32)}
    second = {**{c: plane() for c in "RGBA"}, "Z": plane(np.float32)}
    path = write_parts(tmp_path / "parts.exr", [(name, channels, {}), ("crowd", second, {})])
    kinds = {p.name: p.kind for p in inspect(path).passes}
    assert kinds == {name: "beauty", f"{name}.Z": "depth", "crowd": "other", "crowd.Z": "depth"}
    reader = reader_of(path, tmp_path)
    assert np.array_equal(reader.pixels("s", 1, f"{name}.Z", Window(0, 0, W, H))[..., 0], channels["Z"])
    assert np.array_equal(reader.pixels("s", 1, name, Window(0, 0, W, H))[..., 2], channels["B"].astype(np.float32))
    one_part = write(tmp_path / "layers.exr", {**channels, **{f"fog.{letter}": values for letter, values in second.items()}})
    assert {p.name: p.kind for p in inspect(one_part).passes} == {"rgba": "beauty", "Z": "depth", "fog": "volume", "fog.Z": "depth"}


def test_a_data_window_unlike_the_display_window(tmp_path: Path) -> None:
    header = {
        "dataWindow": (np.array([-4, 2], np.int32), np.array([W - 5, H + 1], np.int32)),
        "displayWindow": (np.array([0, 0], np.int32), np.array([49, 29], np.int32)),
    }
    path = write(tmp_path / "over.exr", {c: plane() for c in "RGBA"}, header)
    info = inspect(path)
    assert info.display == Window(0, 0, 50, 30)
    assert info.passes[0].window == Window(-4, 2, W - 4, H + 2)


def test_nan_and_infinity_in_light_become_dark_and_stay_in_depth(tmp_path: Path) -> None:
    light = {c: plane() for c in "RGB"}
    light["R"][5, 6], light["G"][5, 7] = np.nan, np.inf
    depth = plane(np.float32)
    depth[5, 6] = np.inf
    reader = reader_of(write(tmp_path / "bad.exr", {**light, "Z": depth}), tmp_path)
    pixels = reader.pixels("s", 1, "rgba", Window(0, 0, W, H))
    assert pixels[5, 6, 0] == 0
    assert pixels[5, 7, 1] == 0
    assert np.isfinite(pixels).all()
    assert np.isinf(reader.pixels("s", 1, "Z", Window(0, 0, W, H))[5, 6, 0])


@pytest.mark.parametrize("compression", ["NO", "RLE", "ZIPS", "ZIP", "PIZ", "PXR24", "DWAA", "DWAB", "B44", "B44A"])
def test_every_compression_opens_as_the_openexr_package_decodes_it(tmp_path: Path, compression: str) -> None:
    channels = {c: plane() for c in "RGBA"}
    path = write(tmp_path / "c.exr", channels, {"compression": getattr(OpenEXR, f"{compression}_COMPRESSION")})
    with OpenEXR.File(str(path), separate_channels=True) as file:
        decoded = {c: file.channels()[c].pixels for c in "RGBA"}
    pixels = reader_of(path, tmp_path).pixels("s", 1, "rgba", Window(0, 0, W, H))
    for index, letter in enumerate("RGBA"):
        assert np.array_equal(pixels[..., index], decoded[letter].astype(np.float32))


@pytest.mark.parametrize("beside", [False, True])
def test_a_deep_picture_is_refused_and_a_deep_part_left_out(beside: bool, tmp_path: Path) -> None:
    samples = np.empty((H, W), object)
    for pixel in np.ndindex(H, W):
        samples[pixel] = np.array([1.0, 2.0], np.float32)
    deep = OpenEXR.Part({"type": OpenEXR.deepscanline, "compression": OpenEXR.ZIPS_COMPRESSION}, {"A": samples, "Z": samples.copy()}, "deep")
    picture = {letter: plane() for letter in "RGBA"}
    flat = OpenEXR.Part({"type": OpenEXR.scanlineimage, "compression": OpenEXR.ZIP_COMPRESSION}, dict(picture), "rgba")
    with OpenEXR.File([flat, deep] if beside else [deep]) as file:
        file.write(str(tmp_path / "deep.exr"))
    if not beside:
        with pytest.raises(UmbraxError, match="it has several samples in a pixel; write it flat"):
            inspect(tmp_path / "deep.exr")
        return
    reader = reader_of(tmp_path / "deep.exr", tmp_path)
    assert list(reader.describe("s", 1).passes) == ["rgba"]
    assert np.array_equal(reader.pixels("s", 1, "rgba", Window(0, 0, W, H))[..., 0], picture["R"].astype(np.float32))
