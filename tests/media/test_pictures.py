"""Eight and sixteen bit pictures in and out: transfer functions, association, complete files only."""

import json
from pathlib import Path

import numpy as np
import OpenEXR
import OpenImageIO as oiio
import pytest
from PIL import Image
from psd_tools import PSDImage

from running import command
from umbrax.core.colour import linear_from_srgb
from umbrax.core.document.sources import Source
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.media.fastcopies import FastCopies
from umbrax.media.files import inspect
from umbrax.media.reader import MediaReader
from umbrax.media.writing import pixel_type, write_picture

RNG = np.random.default_rng(9)


def save(path: Path, pixels: np.ndarray, kind: str) -> Path:
    spec = oiio.ImageSpec(pixels.shape[1], pixels.shape[0], pixels.shape[2], kind)
    spec.attribute("oiio:UnassociatedAlpha", 1)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(np.ascontiguousarray(pixels))
    assert out.close()
    return path


def read(path: Path, tmp_path: Path, **source: object) -> np.ndarray:
    reader = MediaReader({"s": Source.model_validate({"path": path.name, **source})}, [path.parent], FastCopies(tmp_path / "fast"))
    info = reader.describe("s", 1)
    name = next(iter(info.passes))
    return reader.pixels("s", 1, name, info.passes[name].window)


@pytest.mark.parametrize(
    ("ending", "kind", "top"),
    [("png", "uint8", 255), ("png", "uint16", 65535), ("tif", "uint16", 65535), ("tif", "uint8", 255)],
)
def test_integer_pictures_are_srgb_and_become_associated(tmp_path: Path, ending: str, kind: str, top: int) -> None:
    codes = RNG.integers(0, top + 1, (6, 7, 4)).astype(kind)
    pixels = read(save(tmp_path / f"p.{ending}", codes, kind), tmp_path)
    alpha = codes[..., 3:] / top
    assert pixels[..., 3:] == pytest.approx(alpha, abs=1e-6)
    assert pixels[..., :3] == pytest.approx(linear_from_srgb(codes[..., :3] / top) * alpha, abs=2e-6)


@pytest.mark.parametrize("kind", ["uint8", "uint16", "float", "half"])
@pytest.mark.parametrize("associated", [True, False])
def test_a_tiff_says_itself_whether_its_colours_are_multiplied_by_alpha(tmp_path: Path, kind: str, associated: bool) -> None:
    """TIFF 6.0, ExtraSamples: 1 is associated, 2 unassociated alpha. White at half coverage is (0.5, 0.5, 0.5, 0.5) in light."""
    spec = oiio.ImageSpec(4, 3, 4, kind)
    spec.channelnames = ("R", "G", "B", "A")
    if not associated:
        spec.attribute("oiio:UnassociatedAlpha", 1)
    stored = np.full((3, 4, 4), 0.5, np.float32)
    stored[..., :3] = 0.5 if associated else 1.0
    top = {"uint8": 255, "uint16": 65535}.get(kind)
    path = tmp_path / "p.tif"
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(np.rint(stored * top).astype(kind) if top else stored)
    assert out.close()
    assert inspect(path).passes[0].unassociated is not associated
    assert read(path, tmp_path) == pytest.approx(np.full((3, 4, 4), 0.5), abs=0.003)


@pytest.mark.parametrize("ending", ["tif", "jpg", "png"])
@pytest.mark.parametrize("orientation", range(1, 9))
def test_a_picture_that_lies_on_its_side_is_turned_upright(tmp_path: Path, ending: str, orientation: int) -> None:
    """The corner of the scene's top left, by the table of TIFF 6.0's tag Orientation (which EXIF 2.3 repeats)."""
    corner = {1: (0, 0), 2: (0, -1), 3: (-1, -1), 4: (-1, 0), 5: (0, 0), 6: (-1, 0), 7: (-1, -1), 8: (0, -1)}[orientation]
    stored = np.zeros((16, 24, 3), np.uint8)
    rows, columns = (slice(0, 8) if i == 0 else slice(-8, None) for i in corner)
    stored[rows, columns] = 255
    # the scene's first row runs along the stored rows, or for 5 to 8 along the stored columns
    along = (slice(None), columns) if orientation >= 5 else (rows, slice(None))
    stored[along] = np.maximum(stored[along], 128)
    spec = oiio.ImageSpec(24, 16, 3, "uint8")
    spec.attribute("Orientation", orientation)
    spec.attribute("CompressionQuality", 100)
    path = tmp_path / f"o.{ending}"
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(stored)
    assert out.close()
    pixels = read(path, tmp_path, colour="raw")[..., 1]
    assert pixels.shape == ((24, 16) if orientation >= 5 else (16, 24))
    assert inspect(path).display.width == pixels.shape[1]
    assert pixels[2:6, 2:6] == pytest.approx(1, abs=0.1)
    assert pixels[2:6, -6:-2] == pytest.approx(0.5, abs=0.1), "the first row goes on to the right"
    assert pixels[-6:-2] == pytest.approx(0, abs=0.1)


def with_aspect(path: Path, aspect: float | None, orientation: int = 1) -> Path:
    spec = oiio.ImageSpec(16, 8, 3, "half" if path.suffix == ".exr" else "uint8")
    if aspect is not None:
        spec.attribute("PixelAspectRatio", aspect)
    spec.attribute("Orientation", orientation)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(np.zeros((8, 16, 3), np.float32))
    assert out.close()
    return path


@pytest.mark.parametrize("ending", ["exr", "png", "tif", "jpg", "dpx"])
def test_a_file_says_how_wide_its_pixels_are(tmp_path: Path, ending: str) -> None:
    """OpenEXR and DPX by a number; the others by their resolutions across and down."""
    for told, expected in ((2.0, 2.0), (0.5, 0.5), (None, 1.0), (500.0, 1.0)):
        assert inspect(with_aspect(tmp_path / f"{told}.{ending}", told)).pixel_aspect == pytest.approx(expected, rel=1e-3)


def test_pixels_of_a_picture_on_its_side_are_as_high_as_they_were_wide(tmp_path: Path) -> None:
    for orientation, expected in ((1, 2.0), (3, 2.0), (6, 0.5)):
        assert inspect(with_aspect(tmp_path / f"{orientation}.tif", 2.0, orientation)).pixel_aspect == pytest.approx(expected)


@pytest.mark.parametrize(("transfer", "linear"), [("Logarithmic", False), ("Printing density", False), ("Linear", None), ("ITU-R 709-4", None)])
def test_logarithmic_film_codes_become_light(tmp_path: Path, transfer: str, linear: bool | None) -> None:
    """White 685 is 1, black 95 is 0; 0.002 of density a code and a negative's gamma of 0.6: 90 codes below white is half (0.501)."""
    codes = np.array([95, 595, 685, 1023], np.uint16)
    spec = oiio.ImageSpec(4, 1, 3, "uint16")
    spec.attribute("oiio:BitsPerSample", 10)
    spec.attribute("dpx:Transfer", transfer)
    path = tmp_path / "film.dpx"
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec)
    assert out.write_image(np.repeat(codes[None, :, None] << 6, 3, axis=2).astype(np.uint16))
    assert out.close()
    found = read(path, tmp_path)[0, :, 0]
    film = [0, (10 ** (-90 / 300) - 10 ** (-590 / 300)) / (1 - 10 ** (-590 / 300)), 1, 13.53]
    if linear is False:
        assert found == pytest.approx(film, rel=0.01, abs=0.002)
    else:
        assert found == pytest.approx(linear_from_srgb(codes / 1023), abs=0.002)
    assert read(path, tmp_path, colour="film_log")[0, :, 0] == pytest.approx(film, rel=0.01, abs=0.002)


def layered(path: Path) -> Path:
    document = PSDImage.new("RGB", (12, 10))
    layer = document.create_pixel_layer(Image.fromarray(np.full((8, 9, 3), 188, np.uint8)), name="Grün", top=1, left=2)
    # what the package takes from an alpha it makes a mask beside the layer; this is the layer's own transparency
    transparency = layer._channels[0]
    transparency.set_data(np.tile(np.arange(0, 225, 25, dtype=np.uint8), (8, 1)).tobytes(), 9, 8, 8)
    layer._record.channel_info[0].length = len(transparency.data) + 2
    document.save(path)
    return path


def test_a_layer_shown_as_a_picture_is_linear_and_associated_and_its_name_is_text(tmp_path: Path) -> None:
    layered(tmp_path / "g.psd")
    reader = MediaReader({"s": Source(path="g.psd")}, [tmp_path], FastCopies(tmp_path / "fast"))
    found = reader.describe("s", 1).find("Grün")
    assert found.kind == "other", "nothing in the name tells, and n is no word of it"
    shown = reader.pixels("s", 1, "Grün", found.window, shown=True)
    alpha = np.tile(np.arange(0, 225, 25) / 255, (8, 1))[..., None]
    assert shown[..., 3:] == pytest.approx(alpha, abs=1e-6)
    assert shown[..., :3] == pytest.approx(np.broadcast_to(linear_from_srgb(np.array(188 / 255)) * alpha, (8, 9, 3)), abs=2e-6)
    assert reader.pixels("s", 1, "Grün", found.window)[..., 0] == pytest.approx(188 / 255), "asked for its numbers, they are as written"


def test_what_a_file_calls_its_passes_is_valid_text_on_the_command_line(tmp_path: Path) -> None:
    result = command("passes", str(layered(tmp_path / "g.psd")), "--json", state=tmp_path)
    assert [found["name"] for found in json.loads(result.stdout)["passes"]] == ["rgba", "Grün"]


def test_the_colour_of_a_source_can_be_set(tmp_path: Path) -> None:
    path = save(tmp_path / "p.png", np.full((4, 4, 3), 128, np.uint8), "uint8")
    assert read(path, tmp_path, colour="raw")[0, 0, 0] == pytest.approx(128 / 255)
    assert read(path, tmp_path, colour="srgb_tx")[0, 0, 0] == pytest.approx(linear_from_srgb(np.array(128 / 255)))


def light() -> np.ndarray:
    pixels = RNG.uniform(0, 2, (9, 11, 4)).astype(np.float32)
    pixels[..., 3] = RNG.uniform(0.2, 1, (9, 11))
    return pixels


def test_float_exr_is_written_bit_for_bit_and_half_is_that_rounded(tmp_path: Path) -> None:
    pixels = light()
    for kind, dtype in (("float", np.float32), ("half", np.float16)):
        write_picture(tmp_path / f"{kind}.exr", pixels, kind)  # type: ignore[arg-type]
        with OpenEXR.File(str(tmp_path / f"{kind}.exr"), separate_channels=True) as file:
            for index, letter in enumerate("RGBA"):
                assert np.array_equal(file.channels()[letter].pixels, pixels[..., index].astype(dtype))


@pytest.mark.parametrize(("kind", "step"), [("8", 1 / 255), ("16", 1 / 65535)])
def test_png_is_unassociated_and_goes_through_the_view(tmp_path: Path, kind: str, step: float) -> None:
    pixels = light()
    pixels[..., :3] *= 0.1
    write_picture(tmp_path / "p.png", pixels, kind)  # type: ignore[arg-type]
    again = read(tmp_path / "p.png", tmp_path)
    assert again[..., 3] == pytest.approx(pixels[..., 3], abs=step)
    colour, expected = again[..., :3] / again[..., 3:], pixels[..., :3] / pixels[..., 3:]
    assert np.abs(colour - expected).max() < 3 * step


@pytest.mark.parametrize("ending", ["png", "tif"])
def test_glow_outside_an_element_is_kept_by_raising_alpha_to_its_brightness(tmp_path: Path, ending: str) -> None:
    """Over black, colour times alpha is the light again (Porter and Duff 1984, over with an empty backdrop)."""
    pixels = np.zeros((3, 64, 4), np.float32)
    pixels[..., :3] = np.linspace(0, 1.5, 64)[None, :, None] * np.float32([1, 0.5, 0.25])
    pixels[2, :, 3] = 1
    path = tmp_path / f"glow.{ending}"
    assert write_picture(path, pixels, "16")
    again = read(path, tmp_path)
    assert again[..., :3] == pytest.approx(np.minimum(pixels[..., :3], [1, 0.75, 0.375]), abs=2e-4), "what is above 1 the view cuts off"
    assert again[:2, :, 3] == pytest.approx(np.minimum(pixels[:2, :, 0], 1), abs=2e-5)
    assert (again[2, :, 3] == 1).all()
    assert write_picture(path, pixels, "16", raise_alpha=False), "light was lost, and that is told"
    assert not read(path, tmp_path)[:2].any()


def test_nothing_is_told_of_pictures_whose_light_has_its_alpha(tmp_path: Path) -> None:
    pixels = light()
    pixels[..., :3] = np.minimum(pixels[..., :3], pixels[..., 3:])
    assert not write_picture(tmp_path / "p.png", pixels, "8")
    pixels[0, 0] = (1, 1, 1, 0)
    assert not write_picture(tmp_path / "p.exr", pixels, "half")
    assert not write_picture(tmp_path / "p.jpg", pixels, "8"), "a picture without alpha holds all its light"


def test_a_matte_is_one_channel_without_a_view(tmp_path: Path) -> None:
    matte = np.linspace(0, 1, 256, dtype=np.float32).reshape(16, 16, 1)
    write_picture(tmp_path / "m.exr", matte, "half")
    with OpenEXR.File(str(tmp_path / "m.exr"), separate_channels=True) as file:
        assert list(file.channels()) == ["Y"]
    write_picture(tmp_path / "m.png", matte, "8")
    codes = oiio.ImageBuf(str(tmp_path / "m.png")).get_pixels(oiio.UINT8)
    assert np.array_equal(codes[..., 0].ravel(), np.arange(256))


def test_what_cannot_be_written_says_so_and_leaves_nothing(tmp_path: Path) -> None:
    with pytest.raises(UmbraxError, match=r"cannot write '.gif'"):
        pixel_type(Path("x.gif"), None)
    with pytest.raises(UmbraxError, match=r".png cannot hold 'half'; use 8 or 16"):
        pixel_type(Path("x.png"), "half")
    (tmp_path / "file").write_text("")
    with pytest.raises(UmbraxError, match="cannot make the folder"):
        write_picture(tmp_path / "file" / "x.exr", light(), "half")
    (tmp_path / "d.exr").mkdir()
    with pytest.raises((UmbraxError, OSError)):
        write_picture(tmp_path / "d.exr", light(), "half")
    assert sorted(p.name for p in tmp_path.iterdir()) == ["d.exr", "file"]


def test_a_still_answers_on_every_frame_and_windows_agree(tmp_path: Path) -> None:
    path = save(tmp_path / "p.png", RNG.integers(0, 255, (20, 30, 3)).astype(np.uint8), "uint8")
    reader = MediaReader({"s": Source(path=path.name)}, [tmp_path], FastCopies(tmp_path / "fast"))
    whole = reader.pixels("s", 1, "rgba", Window(0, 0, 30, 20))
    assert np.array_equal(reader.pixels("s", 99, "rgba", Window(4, 5, 12, 9)), whole[5:9, 4:12])
