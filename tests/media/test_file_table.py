"""A table of differently built files, written by six packages: the passes, kinds, windows and values of each."""

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import OpenImageIO as oiio
import pytest
import tifffile
from foreign import write, write_parts
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from psd_tools import PSDImage

from umbrax.core.picture import Window
from umbrax.core.plan.reader import KINDS
from umbrax.media.decoding import decode
from umbrax.media.files import inspect
from umbrax.media.recognise import recognise

H, W = 18, 26
HALF, FLOAT, UINT = np.float16, np.float32, np.uint32
Channels = dict[str, np.ndarray]


def plane(dtype: Any = HALF, seed: int = 0, size: tuple[int, int] = (H, W)) -> np.ndarray:
    random = np.random.default_rng(seed)
    if np.dtype(dtype).kind == "u":
        return random.integers(0, np.iinfo(dtype).max, size, dtype=dtype, endpoint=True)
    return random.normal(0, 4, size).astype(dtype)


def planes(*names: str, dtype: Any = HALF) -> Channels:
    return {name: plane(dtype, seed) for seed, name in enumerate(names)}


@dataclass
class Built:
    """What is in a file, by the full names of its channels; `window` where it is not the whole frame."""

    channels: Channels
    kinds: dict[str, str]
    window: Window = field(default_factory=lambda: Window(0, 0, W, H))
    exact: bool = True
    windows: dict[str, Window] = field(default_factory=dict)


Build = Callable[[Path], Built]


def layers(kinds: dict[str, str], *names: str, dtype: Any = HALF) -> Build:
    """An EXR written by the OpenEXR package with these channels."""

    def build(path: Path) -> Built:
        channels = planes(*names, dtype=dtype)
        write(path, channels)
        return Built(channels, kinds)

    return build


def rgb_layers(**kinds: str) -> Build:
    """Layers of red, green and blue by their names and kinds."""
    return layers(kinds, *(f"{name}.{letter}" for name in kinds for letter in "RGB"))


def exr(channels: Channels, kinds: dict[str, str], **header: Any) -> Build:
    def build(path: Path) -> Built:
        write(path, channels, header)
        return Built(channels, kinds)

    return build


def windowed(x0: int, y0: int, display: tuple[int, int]) -> Build:
    """A data window that begins elsewhere than the display window."""

    def build(path: Path) -> Built:
        channels = planes("R", "G", "B", "A")
        data = (np.array([x0, y0], np.int32), np.array([x0 + W - 1, y0 + H - 1], np.int32))
        shown = (np.array([0, 0], np.int32), np.array([display[0] - 1, display[1] - 1], np.int32))
        write(path, channels, {"dataWindow": data, "displayWindow": shown})
        return Built(channels, {"rgba": "beauty"}, Window(x0, y0, x0 + W, y0 + H))

    return build


def parts(path: Path) -> Built:
    first, second = planes("R", "G", "B", "A"), planes("Z", dtype=FLOAT)
    write_parts(path, [("beauty", first, {}), ("depth", second, {})])
    return Built(
        {**{f"beauty/{k}": v for k, v in first.items()}, **{f"depth/{k}": v for k, v in second.items()}}, {"beauty": "beauty", "depth": "depth"}
    )


def by_oiio(names: tuple[str, ...], kind: str, kinds: dict[str, str], *, tile: int = 0, exact: bool = True, **attributes: Any) -> Build:
    """A file written by OpenImageIO."""

    def build(path: Path) -> Built:
        dtype = {"half": HALF, "float": FLOAT, "uint8": np.uint8, "uint16": np.uint16}[kind]
        channels = planes(*names, dtype=dtype)
        if not exact:
            channels = {name: np.full((H, W), 0.5 + 0.1 * n, dtype) for n, name in enumerate(names)}
        spec = oiio.ImageSpec(W, H, len(names), kind)
        spec.channelnames = names
        if tile:
            spec.tile_width = spec.tile_height = tile
        for name, value in attributes.items():
            spec.attribute(name.replace("__", ":"), value)
        out = oiio.ImageOutput.create(str(path))
        assert out.open(str(path), spec), out.geterror()
        assert out.write_image(np.ascontiguousarray(np.stack(list(channels.values()), axis=2)))
        out.close()
        return Built(channels, kinds, exact=exact)

    return build


def by_pillow(mode: str, kinds: dict[str, str], exact: bool = True, **options: Any) -> Build:
    def build(path: Path) -> Built:
        letters = {"L": "Y", "RGB": "RGB", "RGBA": "RGBA", "LA": "YA", "P": "RGB", "I;16": "Y"}[mode]
        dtype = np.uint16 if mode == "I;16" else np.uint8
        channels = planes(*letters, dtype=dtype)
        if mode == "P":
            pixels = np.stack([plane(np.uint8, 3)] * 3, axis=2) // 32 * 32
            channels = {c: pixels[..., i] for i, c in enumerate("RGB")}
            Image.fromarray(pixels).quantize(8).save(path)
            return Built(channels, kinds)
        pixels = np.stack(list(channels.values()), axis=2)
        if not exact:
            pixels[:] = 100
            channels = {name: pixels[..., i] for i, name in enumerate(channels)}
        Image.fromarray(pixels[..., 0] if pixels.shape[2] == 1 else pixels).save(path, **options)
        return Built(channels, kinds, exact=exact)

    return build


def by_tifffile(dtype: Any, letters: str, kinds: dict[str, str], **options: Any) -> Build:
    def build(path: Path) -> Built:
        channels = planes(*letters, dtype=dtype)
        pixels = np.stack(list(channels.values()), axis=2)
        photometric = "rgb" if len(letters) >= 3 else "minisblack"
        extra = {"extrasamples": ["unassalpha"]} if letters.endswith("A") else {}
        tifffile.imwrite(path, pixels if len(letters) > 1 else pixels[..., 0], photometric=photometric, **extra, **options)
        return Built(channels, kinds)

    return build


RGBA = ("R", "G", "B", "A")
BEAUTY = {"rgba": "beauty"}
TABLE: dict[str, tuple[str, Build]] = {
    # the OpenEXR package: names as different programs give them
    "plain rgb": (".exr", layers(BEAUTY, "R", "G", "B")),
    "plain rgba": (".exr", layers(BEAUTY, *RGBA)),
    "lower case": (".exr", layers(BEAUTY, "r", "g", "b", "a")),
    "long names": (".exr", layers(BEAUTY, "red", "green", "blue", "alpha")),
    "named beauty": (".exr", layers({"beauty": "beauty"}, "beauty.R", "beauty.G", "beauty.B")),
    "prefix and combined": (".exr", layers({"View.Combined": "beauty"}, *(f"View.Combined.{c}" for c in RGBA))),
    "depth alone": (".exr", layers({"Z": "depth"}, "Z", dtype=FLOAT)),
    "depth as a layer": (".exr", layers({"View.Depth": "depth"}, "View.Depth.Z", dtype=FLOAT)),
    "zdepth in lower case": (".exr", layers({"zdepth": "depth"}, "zdepth.y", dtype=FLOAT)),
    "diffuse, direct and indirect": (
        ".exr",
        rgb_layers(diffuse_direct="diffuse", diffuse_indirect="diffuse"),
    ),
    "camel case": (".exr", layers({"RenderSpecularPass": "specular"}, *(f"RenderSpecularPass.{c}" for c in "RGB"))),
    "gi": (".exr", layers({"GI": "diffuse"}, "GI.R", "GI.G", "GI.B")),
    "reflection and refraction": (".exr", rgb_layers(refl="reflection", refr="refraction")),
    "transmission": (".exr", layers({"transmission": "refraction"}, *(f"transmission.{c}" for c in "rgb"))),
    "emission": (".exr", layers({"self_illumination": "emission"}, *(f"self_illumination.{c}" for c in "RGB"))),
    "subsurface": (".exr", layers({"SSS": "subsurface"}, *(f"SSS.{c}" for c in "RGB"))),
    "volume, coat, sheen": (
        ".exr",
        rgb_layers(volume="volume", clearcoat="coat", sheen="sheen"),
    ),
    "ambient light and occlusion": (".exr", rgb_layers(ambient="ambient", AO="occlusion")),
    "shadow catcher": (".exr", layers({"shadow_catcher": "shadow"}, *(f"shadow_catcher.{c}" for c in "RGB"))),
    "albedo": (".exr", layers({"Albedo": "surface_colour"}, *(f"Albedo.{c}" for c in "RGB"))),
    "normals": (".exr", layers({"N": "normal"}, "N.X", "N.Y", "N.Z")),
    "position": (".exr", layers({"WorldPosition": "position"}, *(f"WorldPosition.{c}" for c in "XYZ"), dtype=FLOAT)),
    "position by one letter": (".exr", layers({"P": "position"}, "P.X", "P.Y", "P.Z", dtype=FLOAT)),
    "motion": (".exr", layers({"motionVector": "motion"}, "motionVector.X", "motionVector.Y")),
    "uv": (".exr", layers({"UV": "uv"}, "UV.U", "UV.V")),
    "ink with alpha": (".exr", layers({"ink": "line"}, *(f"ink.{c}" for c in RGBA))),
    "a late matte": (".exr", layers({"door_mask": "single_matte"}, "door_mask.Y")),
    "rgb mattes": (".exr", layers({"multimatte_1": "rgb_matte"}, *(f"multimatte_1.{c}" for c in "RGB"))),
    "an index in whole numbers": (".exr", exr({"objectIndex.Y": plane(UINT)}, {"objectIndex": "object_index"})),
    "half, float and uint together": (
        ".exr",
        exr(
            {**planes(*RGBA), "depth.Z": plane(FLOAT), "materialID.Y": plane(UINT, 4)},
            {**BEAUTY, "depth": "depth", "materialID": "material_index"},
        ),
    ),
    "nothing that is known": (".exr", layers({"xyzzy": "other"}, "xyzzy.R", "xyzzy.G", "xyzzy.B")),
    "two parts": (".exr", parts),
    "overscan": (".exr", windowed(-4, -3, (W - 8, H - 6))),
    "a small part of the frame": (".exr", windowed(7, 5, (64, 48))),
    "outside the frame on one side": (".exr", windowed(-10, 4, (40, 30))),
    # OpenImageIO
    "tiles": (".exr", by_oiio(RGBA, "half", BEAUTY, tile=16)),
    "tiles of float": (".exr", by_oiio(("R", "G", "B"), "float", BEAUTY, tile=64, compression="zips")),
    "radiance": (".hdr", by_oiio(("R", "G", "B"), "float", BEAUTY, exact=False)),
    "film scan": (".dpx", by_oiio(("R", "G", "B"), "uint16", BEAUTY, oiio__BitsPerSample=16)),
    "tiff of floats": (".tif", by_oiio(("R", "G", "B"), "float", BEAUTY)),
    # Pillow
    "png": (".png", by_pillow("RGB", BEAUTY)),
    "png with alpha": (".png", by_pillow("RGBA", BEAUTY)),
    "grey png": (".png", by_pillow("L", BEAUTY)),
    "grey png with alpha": (".png", by_pillow("LA", BEAUTY)),
    "png with a palette": (".png", by_pillow("P", BEAUTY)),
    "png of 16 bits": (".png", by_pillow("I;16", BEAUTY)),
    "webp without loss": (".webp", by_pillow("RGB", BEAUTY, lossless=True)),
    "jpeg": (".jpg", by_pillow("RGB", BEAUTY, exact=False, quality=95)),
    # tifffile
    "tiff of 8 bits": (".tif", by_tifffile(np.uint8, "RGB", BEAUTY)),
    "tiff of 16 bits with alpha": (".tif", by_tifffile(np.uint16, "RGBA", BEAUTY)),
    "tiff of halves": (".tif", by_tifffile(HALF, "RGB", BEAUTY)),
    "packed grey tiff": (".tif", by_tifffile(np.uint16, "Y", BEAUTY, compression="zlib")),
    "tiled tiff": (".tif", by_tifffile(FLOAT, "RGB", BEAUTY, tile=(16, 16))),
}  # fmt: skip


def by_psd_tools(path: Path) -> Built:
    """A layered picture: what is seen, and each layer by name, on the part of the frame it covers."""
    document = PSDImage.new("RGB", (W, H))
    pixels = np.stack(list(planes(*"RGBA", dtype=np.uint8).values()), axis=2)
    document.create_pixel_layer(Image.fromarray(pixels), name="ink lines", top=0, left=0)
    document.create_pixel_layer(Image.fromarray(pixels[2:9, 4:15]), name="lamp glow", top=2, left=4)
    document.save(path)
    written = PSDImage.open(path)
    channels = {f"rgba.{letter}": np.asarray(written.topil())[..., index] for index, letter in enumerate("RGB")}
    for layer in written:
        channels |= {f"{layer.name}/{letter}": np.asarray(layer.topil())[..., index] for index, letter in enumerate("RGBA")}
    windows = {"lamp glow": Window(4, 2, 15, 9)}
    return Built(channels, {"rgba": "beauty", "ink lines": "line", "lamp glow": "emission"}, windows=windows)


def views(path: Path) -> Built:
    """Two eyes in one part, as OpenEXR's multiView attribute tells."""
    channels = planes("R", "G", "B", "diffuse.R", "diffuse.G", "diffuse.B", "right.R", "right.G", "right.B", "right.diffuse.R")
    write(path, channels, {"multiView": ["left", "right"]})
    return Built(channels, {"rgba": "beauty", "diffuse": "diffuse", "right": "beauty", "right.diffuse": "diffuse"})


TABLE |= {"layered picture": (".psd", by_psd_tools), "two views": (".exr", views)}


@pytest.mark.parametrize("name", TABLE)
def test_a_file_opens_with_its_passes_kinds_window_and_values(name: str, tmp_path: Path) -> None:
    ending, build = TABLE[name]
    path = tmp_path / f"file{ending}"
    built = build(path)
    info = inspect(path)
    assert {found.name: found.kind for found in info.passes} == built.kinds
    assert all(found.window == built.windows.get(found.name, built.window) for found in info.passes)
    expected = {
        key.rpartition("/")[2].lower() if len(info.passes) == 1 else key.replace("/", ".").lower(): v for key, v in built.channels.items()
    }
    letters = {"red": "r", "green": "g", "blue": "b", "alpha": "a"}
    seen = 0
    for found, values in decode(info):
        for channel, plane_read in zip(found.channels, values, strict=True):
            full = (
                channel.lower() if len(info.passes) == 1 or "." in channel or channel.lower() in expected else f"{found.name}.{channel}".lower()
            )
            wanted = expected.get(full, expected.get(letters.get(full, full)))
            assert wanted is not None, (full, list(expected))
            seen += 1
            if built.exact:
                assert plane_read.dtype.kind == wanted.dtype.kind
                assert np.array_equal(plane_read, wanted)
            else:
                top = 255 if plane_read.dtype == np.uint8 else 1
                assert np.abs(plane_read.astype(float) - wanted).max() <= 0.02 * top
    assert seen == len(built.channels)


def test_the_table_is_long_enough() -> None:
    assert len(TABLE) >= 40


WORDS = {
    "beauty": "beauty", "diffuse": "diffuse", "specular": "specular", "reflection": "reflection", "refraction": "refraction",
    "emission": "emission", "subsurface": "subsurface", "volume": "volume", "sheen": "sheen", "shadow": "shadow", "depth": "depth",
    "position": "position", "normal": "normal", "velocity": "motion", "albedo": "surface_colour", "occlusion": "occlusion",
}  # fmt: skip
SEPARATORS = st.sampled_from(["_", ".", "-", " ", "__", ":"])
PREFIXES = st.sampled_from(["", "render", "View", "layer1", "RL", "out", "cam_A", "0042"])
CASES = st.sampled_from([str.lower, str.upper, str.title])


@given(word=st.sampled_from(sorted(WORDS)), before=PREFIXES, between=SEPARATORS, case=CASES, number=st.sampled_from(["", "1", "_02", ".003"]))
def test_any_prefix_separator_case_and_number_leaves_the_kind(
    word: str, before: str, between: str, case: Callable[[str], str], number: str
) -> None:
    name = f"{before}{between if before else ''}{case(word)}{number}"
    assert recognise(name, ("R", "G", "B")).kind == WORDS[word], name


@given(name=st.text(max_size=40), channels=st.lists(st.text(min_size=1, max_size=12), min_size=1, max_size=5))
def test_any_name_gets_a_kind_and_a_reason(name: str, channels: list[str]) -> None:
    found = recognise(name, tuple(channels))
    assert found.kind in KINDS
    assert found.why


@pytest.mark.parametrize("compression", ["NO", "RLE", "ZIPS", "ZIP", "PIZ", "PXR24", "B44", "B44A", "DWAA", "DWAB"])
def test_every_compression_gives_what_the_openexr_package_decodes(compression: str, tmp_path: Path) -> None:
    path = tmp_path / "x.exr"
    channels = {**planes(*RGBA), "depth.Z": plane(FLOAT, 9), "index.Y": plane(UINT, 10)}
    write(path, channels, {"compression": getattr(OpenEXR, f"{compression}_COMPRESSION")})
    with OpenEXR.File(str(path), separate_channels=True) as file:
        theirs = {name: channel.pixels for name, channel in file.channels().items()}
    for found, values in decode(inspect(path)):
        for channel, value in zip(found.channels, values, strict=True):
            assert np.array_equal(value, theirs[channel])
