"""Light of other primaries than those that are worked in: told by a header or set, turned on reading, and on writing."""

from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import OpenImageIO as oiio
import pytest

from umbrax.core.colour import PRIMARIES, primaries_matrix
from umbrax.core.document.sources import Source
from umbrax.core.errors import UmbraxError
from umbrax.core.kernels.resample import reduce_area
from umbrax.core.picture import Window
from umbrax.core.views import VIEWS, View, exact_codes, light_of
from umbrax.media import reader as reading
from umbrax.media.examining import check_up, sequence_of_source
from umbrax.media.fastcopies import FastCopies
from umbrax.media.finished import finished_light
from umbrax.media.listing import list_passes
from umbrax.media.reader import MediaReader
from umbrax.media.writing import SPACES, Space, check_space, write_picture

SIZE = (24, 40)
WINDOW = Window(0, 0, SIZE[1], SIZE[0])
NAMES = ("R", "G", "B", "A")


def light(channels: int = 4) -> np.ndarray:
    """Colours up to 8, some of them below 0, multiplied by an alpha."""
    pixels = np.random.default_rng(3).uniform(-0.2, 8, (*SIZE, channels)).astype(np.float32)
    if channels == 4:
        pixels[..., 3] = np.linspace(0, 1, SIZE[1], dtype=np.float32)
        pixels[..., :3] *= pixels[..., 3:]
    return pixels


def write_exr(path: Path, planes: dict[str, np.ndarray], **header: Any) -> Path:
    header = {"type": OpenEXR.scanlineimage, "compression": OpenEXR.ZIP_COMPRESSION, **header}
    with OpenEXR.File(header, {name: np.ascontiguousarray(plane) for name, plane in planes.items()}) as file:
        file.write(str(path))
    return path


def read(folder: Path, name: str = "rgba", window: Window = WINDOW, path: str = "a.exr", **source: Any) -> np.ndarray:
    found = MediaReader({"a": Source(path=path, **source)}, [folder], FastCopies(folder / "fast"))
    return found.pixels("a", 1, name, window)


def turned(pixels: np.ndarray, space: str) -> np.ndarray:
    """By the matrix itself, in float64; test_colour checks that against published ones."""
    matrix = primaries_matrix(PRIMARIES[space])
    assert matrix is not None
    out = pixels.astype(np.float64)
    out[..., :3] = out[..., :3] @ matrix.astype(np.float64).T
    return out


@pytest.mark.parametrize("space", ["lin_ap1", "lin_ap0", "lin_rec2020", "lin_p3d65"])
@pytest.mark.parametrize("told", ["header", "setting"])
def test_light_of_other_primaries_is_turned_and_its_alpha_stays(space: str, told: str, tmp_path: Path) -> None:
    pixels = light()
    header = {"chromaticities": PRIMARIES[space]} if told == "header" else {}
    write_exr(tmp_path / "a.exr", {name: pixels[..., i] for i, name in enumerate(NAMES)}, **header)
    found = read(tmp_path, **({} if told == "header" else {"colour": space}))
    assert np.abs(found - turned(pixels, space)).max() < 1e-5
    assert np.array_equal(found[..., 3], pixels[..., 3])
    part = Window(7, 3, 29, 20)
    assert np.array_equal(read(tmp_path, window=part, **({} if told == "header" else {"colour": space})), found[3:20, 7:29])
    assert list_passes(str(tmp_path / "a.exr"))["primaries"] == (space if told == "header" else None)


def test_the_check_up_tells_that_it_is_turned_until_that_is_set(tmp_path: Path) -> None:
    pixels = light()
    write_exr(tmp_path / "a.exr", {name: pixels[..., i] for i, name in enumerate(NAMES)}, chromaticities=PRIMARIES["lin_ap1"])
    for colour, told in (("auto", ["turned to BT.709"]), ("lin_ap1", []), ("lin_rec709", [])):
        reader = MediaReader({"a": Source(path="a.exr", colour=colour)}, [tmp_path], FastCopies(tmp_path / "fast"))
        found = [one.message for one in check_up(sequence_of_source(reader, "a"), reader.copies) if one.rule == "colour-space"]
        assert [message.split(": ")[-1].removesuffix(" on reading") for message in found] == told


def test_what_is_set_goes_before_what_a_header_says(tmp_path: Path) -> None:
    pixels = light()
    write_exr(tmp_path / "a.exr", {name: pixels[..., i] for i, name in enumerate(NAMES)}, chromaticities=PRIMARIES["lin_ap0"])
    assert np.array_equal(read(tmp_path, colour="lin_rec709"), pixels)
    assert np.array_equal(read(tmp_path, colour="raw"), pixels)
    assert np.abs(read(tmp_path, colour="lin_ap1") - turned(pixels, "lin_ap1")).max() < 1e-5


def test_what_is_made_of_turned_light_is_known_by_another_name(tmp_path: Path) -> None:
    """A bake that was made before light was turned is not taken for one of turned light."""
    pixels, names = light(), []
    for space in ("lin_rec709", "lin_ap1"):
        write_exr(tmp_path / "a.exr", {name: pixels[..., i] for i, name in enumerate(NAMES)}, chromaticities=PRIMARIES[space])
        for colour in ("auto", "lin_rec709"):
            found = MediaReader({"a": Source(path="a.exr", colour=colour)}, [tmp_path], FastCopies(tmp_path / "fast"))
            info = found.describe("a", 1)
            names.append(info.identity.removeprefix(found.frame_of("a", 1).frame_info.identity))
    assert names[0] == "", "as ever"
    assert len(set(names)) == 3, "turned, set, and as ever"


def test_tags_and_aces_containers_are_known_and_nonsense_is_not(tmp_path: Path) -> None:
    """SMPTE ST 2065-4: a container with this flag holds AP0."""
    pixels = light(3)

    def written(**attributes: Any) -> np.ndarray:
        spec = oiio.ImageSpec(SIZE[1], SIZE[0], 3, "float")
        for name, value in attributes.items():
            spec.attribute(name.replace("__", ":"), value)
        out = oiio.ImageOutput.create(str(tmp_path / "a.exr"))
        assert out.open(str(tmp_path / "a.exr"), spec)
        out.write_image(pixels)
        out.close()
        return read(tmp_path)

    assert np.abs(written(oiio__ColorSpace="ACEScg") - turned(pixels, "lin_ap1")).max() < 1e-5
    assert np.abs(written(oiio__ColorSpace="lin_rec2020_scene") - turned(pixels, "lin_rec2020")).max() < 1e-5
    planes = {name: pixels[..., i] for i, name in enumerate("RGB")}
    write_exr(tmp_path / "a.exr", planes, acesImageContainerFlag=1)
    assert np.abs(read(tmp_path) - turned(pixels, "lin_ap0")).max() < 1e-5
    for nonsense in ((0.0,) * 8, (0.3, 0.3) * 4, (float("nan"),) * 8, (0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.0)):
        write_exr(tmp_path / "a.exr", planes, chromaticities=nonsense)
        assert np.array_equal(read(tmp_path), pixels), nonsense


def test_only_light_is_turned(tmp_path: Path) -> None:
    pixels = light(3)
    planes = {f"{layer}.{end}": pixels[..., i] for layer in ("specular", "N", "position", "rgb_matte") for i, end in enumerate("RGB")}
    write_exr(tmp_path / "a.exr", planes | {"Z": pixels[..., 0], "shadow.Y": pixels[..., 1]}, chromaticities=PRIMARIES["lin_ap1"])
    found = MediaReader({"a": Source(path="a.exr")}, [tmp_path], FastCopies(tmp_path / "fast"))
    kinds = {name: one.kind for name, one in found.describe("a", 1).passes.items()}
    turns = {name: not np.array_equal(found.pixels("a", 1, name, WINDOW), pixels[..., : len(one.channels)])
             for name, one in found.describe("a", 1).passes.items() if len(one.channels) == 3}  # fmt: skip
    assert {kinds[name] for name, did in turns.items() if did} == {"specular"}
    assert {"normal", "position", "rgb_matte"} <= {kinds[name] for name, did in turns.items() if not did}
    grey = next(name for name, kind in kinds.items() if kind == "shadow")
    assert np.array_equal(found.pixels("a", 1, grey, WINDOW)[..., 0], pixels[..., 1]), "one channel has no primaries"


def test_large_light_is_kept_smaller_in_the_colours_that_are_worked_in(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(reading, "REDUCED_FROM", 1)
    pixels = light()
    write_exr(tmp_path / "a.exr", {name: pixels[..., i] for i, name in enumerate(NAMES)}, chromaticities=PRIMARIES["lin_ap1"])
    for _ in range(2):  # made, then kept
        found = MediaReader({"a": Source(path="a.exr")}, [tmp_path], FastCopies(tmp_path / "fast"))
        assert found.keeps("a", 1, "rgba", 4)
        smaller = found.reduced("a", 1, "rgba", 4, WINDOW.scaled(4))
        assert np.abs(smaller - turned(reduce_area(pixels, 4), "lin_ap1")).max() < 1e-5


@pytest.mark.parametrize("space", SPACES)
def test_exr_is_written_in_the_primaries_that_are_asked_for_and_says_so(space: Space, tmp_path: Path) -> None:
    pixels = light()
    write_picture(tmp_path / "a.exr", pixels, "float", space=space)
    with OpenEXR.File(str(tmp_path / "a.exr"), separate_channels=True) as file:
        assert np.allclose(file.header()["chromaticities"], PRIMARIES[space], atol=1e-6)
        stored = np.stack([file.channels()[name].pixels for name in NAMES], axis=2)
    assert np.array_equal(stored, pixels) == (space == "lin_rec709")
    assert np.array_equal(stored[..., 3], pixels[..., 3])
    if space != "lin_rec709":
        assert np.abs(turned(stored, space) - pixels).max() < 1e-5
    assert np.abs(read(tmp_path) - pixels).max() < 1e-5, "it comes back as it was"
    assert np.abs(finished_light(tmp_path / "a.exr") - pixels).max() < 1e-5


def test_other_formats_have_no_place_for_them() -> None:
    assert check_space(Path("a.png"), "lin_rec709") == "lin_rec709"
    with pytest.raises(UmbraxError, match=r"\.png gets the sRGB view and has no place for 'lin_ap1'"):
        check_space(Path("a.png"), "lin_ap1")
    with pytest.raises(UmbraxError, match=r"cannot write colours as 'cmyk'; use lin_rec709 or lin_ap1"):
        check_space(Path("a.exr"), "cmyk")


@pytest.mark.parametrize("ending", [".png", ".tif"])
def test_what_was_made_for_a_display_shows_as_it_was_through_the_view_of_the_shot(ending: str, tmp_path: Path) -> None:
    rng = np.random.default_rng(2)
    codes = np.clip(rng.normal(120, 45, (*SIZE, 1)) + rng.normal(0, 12, (*SIZE, 3)), 0, 250).astype(np.uint8)
    alpha = np.full((*SIZE, 1), 255, np.uint8)
    alpha[:, :10] = 128
    spec = oiio.ImageSpec(SIZE[1], SIZE[0], 4, "uint8")
    spec.attribute("oiio:UnassociatedAlpha", 1)
    out = oiio.ImageOutput.create(str(tmp_path / f"a{ending}"))
    assert out.open(str(tmp_path / f"a{ending}"), spec)
    out.write_image(np.concatenate([codes, alpha], axis=2))
    out.close()

    def pixels(colour: str, view: View) -> np.ndarray:
        found = MediaReader({"a": Source(path=f"a{ending}", colour=colour)}, [tmp_path], FastCopies(tmp_path / "fast"), view)
        [name] = found.describe("a", 1).passes
        return found.pixels("a", 1, name, WINDOW)

    read = pixels("display", "aces")
    shown = exact_codes(read[:, 10:, :3], 255, "aces").astype(int)
    assert np.abs(shown - codes[:, 10:]).max() <= 2
    assert np.abs(shown - codes[:, 10:]).mean() < 0.1
    whole = light_of(codes / np.float32(255), "aces")
    assert np.allclose(read[:, :10, :3], whole[:, :10] * np.float32(128 / 255), rtol=1e-5), "multiplied by alpha after that"
    assert np.array_equal(read[..., 3], alpha[..., 0] / np.float32(255))
    assert np.array_equal(pixels("display", "srgb"), pixels("srgb_tx", "srgb"))
    assert np.array_equal(pixels("auto", "aces"), pixels("srgb_tx", "srgb")), "only where it is set so"
    names = {view: MediaReader({"a": Source(path=f"a{ending}", colour="display")}, [tmp_path], FastCopies(tmp_path / "fast"), view)
             .describe("a", 1).identity for view in VIEWS}  # fmt: skip
    assert len(set(names.values())) == len(VIEWS), "other views, other light"


@pytest.mark.parametrize("kind", ["8", "16"])
def test_png_is_written_through_the_view_that_is_asked_for(kind: Any, tmp_path: Path) -> None:
    pixels = np.abs(light())
    pixels[..., 3] = 1
    write_picture(tmp_path / "a.png", pixels, kind, view="aces")
    stored = oiio.ImageBuf(str(tmp_path / "a.png")).get_pixels(oiio.UINT8 if kind == "8" else oiio.UINT16)
    assert np.array_equal(stored[..., :3], exact_codes(pixels[..., :3], 255 if kind == "8" else 65535, "aces"))
