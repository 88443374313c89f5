"""Pictures and movies that say what their codes are, against LittleCMS (by Pillow) and colour-science."""

import struct
import warnings
from fractions import Fraction
from io import BytesIO
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from icc import BT709, GAMMA, P3, SRGB_CURVE, WIDE, profile, table
from PIL import Image, ImageCms

from arrays import assert_near
from umbrax.core.colour import PRIMARIES, linear_from_hlg, linear_from_pq, linear_from_srgb, primaries_matrix, srgb_from_linear
from umbrax.core.document.sources import Source
from umbrax.core.kernels.resample import reduce_area
from umbrax.core.picture import Window
from umbrax.media.codes import holds_codes
from umbrax.media.examining import check_up_all, sequence_of
from umbrax.media.fastcopies import FastCopies
from umbrax.media.file_info import CodeCurve
from umbrax.media.profiles import light_by, read_profile
from umbrax.media.reader import MediaReader

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

SIZE = (40, 60)


def codes(seed: int = 1) -> np.ndarray:
    """Colours that BT.709 holds whichever of these primaries they have."""
    rng = np.random.default_rng(seed)
    return np.clip(rng.normal(140, 35, (*SIZE, 1)) + rng.normal(0, 8, (*SIZE, 3)), 50, 235).astype(np.uint8)


def written(path: Path, pixels: np.ndarray, icc: bytes | None) -> None:
    Image.fromarray(pixels).save(path, icc_profile=icc, **({"quality": 100, "subsampling": 0} if path.suffix == ".jpg" else {}))


def read(path: Path, colour: str = "auto", window: Window | None = None) -> np.ndarray:
    found = MediaReader({"a": Source(path=path.name, colour=colour)}, [path.parent], FastCopies(path.parent / "fast"))
    [name] = found.describe("a", 1).passes
    return found.pixels("a", 1, name, Window(0, 0, SIZE[1], SIZE[0]) if window is None else window)[..., :3]


@pytest.mark.parametrize("ending", [".png", ".jpg", ".tif"])
@pytest.mark.parametrize(
    ("colorants", "curve"),
    [(P3, SRGB_CURVE), (WIDE, GAMMA), (P3, table(lambda x: x**1.8)), (BT709, GAMMA)],
    ids=["p3", "wide", "table", "gamma"],
)
def test_a_profile_is_read_as_littlecms_reads_it(ending: str, colorants: Any, curve: bytes, tmp_path: Path) -> None:
    """To sRGB by relative colorimetry, in whole codes: one of rounding, and one of what its own table for sixteen bits is off."""
    icc, path = profile(colorants, curve), tmp_path / f"a{ending}"
    written(path, codes(), icc)
    stored = Image.open(path)
    wanted = ImageCms.profileToProfile(stored, ImageCms.ImageCmsProfile(BytesIO(icc)), ImageCms.createProfile("sRGB"), 1)
    found = srgb_from_linear(read(path).astype(np.float64)) * 255
    assert np.abs(found - np.asarray(wanted, float)).max() <= 1.6
    plain = np.asarray(stored, float)
    assert np.abs(found - plain).max() > 2.5, "which is not what the codes are by themselves"
    assert np.array_equal(read(path, "srgb_tx"), linear_from_srgb(plain.astype(np.float32) / 255).astype(np.float32)), "set otherwise, it is"


@pytest.mark.parametrize("curve", [SRGB_CURVE, table(lambda x: linear_from_srgb(x))])
def test_the_usual_profile_changes_nothing_bit_for_bit(curve: bytes, tmp_path: Path) -> None:
    written(tmp_path / "a.png", codes(), profile(BT709, curve))
    written(tmp_path / "b.png", codes(), None)
    assert np.array_equal(read(tmp_path / "a.png"), read(tmp_path / "b.png"))


def test_primaries_of_a_profile_are_those_of_the_display() -> None:
    for colorants, name in ((P3, "lin_p3d65"), (BT709, "lin_rec709")):
        found = read_profile(profile(colorants, SRGB_CURVE))
        assert found is not None
        assert found.chromaticities == pytest.approx(PRIMARIES[name], abs=1e-3)
        assert found.curve is None


@pytest.mark.parametrize(
    ("number", "values", "light"),
    [
        (0, (1.8,), lambda x: x**1.8),
        (1, (2.0, 1.25, -0.25), lambda x: np.where(x >= 0.2, (1.25 * x - 0.25) ** 2, 0)),
        (2, (2.0, 0.8, -0.08, 0.1), lambda x: np.where(x >= 0.1, (0.8 * x - 0.08) ** 2 + 0.1, 0.1)),
        (3, (2.2, 0.9, 0.1, 0.2, 0.1), lambda x: np.where(x >= 0.1, (0.9 * x + 0.1) ** 2.2, 0.2 * x)),
        (4, (2.2, 0.9, 0.1, 0.2, 0.1, 0.05, 0.03), lambda x: np.where(x >= 0.1, (0.9 * x + 0.1) ** 2.2 + 0.05, 0.2 * x + 0.03)),
    ],
)
def test_parametric_curves_are_those_of_the_standard(number: int, values: tuple[float, ...], light: Any) -> None:
    """ICC.1:2010, table 65, by hand."""
    tag = struct.pack(f">4s4xHxx{len(values)}i", b"para", number, *(round(one * 65536) for one in values))
    found = read_profile(profile(P3, tag))
    assert found is not None
    assert found.curve is not None
    at = np.array([0.0, 0.05, 0.15, 0.25, 0.5, 1.0])
    assert_near(light_by(found.curve, at), light(at), 1e-4)


@given(st.binary(max_size=400), st.integers(0, 600), st.integers(0, 255))
def test_what_is_no_profile_is_none(noise: bytes, at: int, value: int) -> None:
    assert read_profile(noise) is None
    broken = bytearray(profile(P3, GAMMA))
    broken[at % len(broken)] = value
    read_profile(bytes(broken))  # whatever it says, it is read or it is not
    assert read_profile(profile(P3, GAMMA)[: 128 + at % 200]) is None


def test_large_pictures_with_a_profile_are_reduced_as_they_are_read(tmp_path: Path) -> None:
    rng = np.random.default_rng(3)
    written(tmp_path / "a.png", rng.integers(0, 255, (640, 800, 3), np.uint8), profile(P3, GAMMA))
    found = MediaReader({"a": Source(path="a.png")}, [tmp_path], FastCopies(tmp_path / "fast"))
    [name] = found.describe("a", 1).passes
    assert found.keeps("a", 1, name, 4)
    whole = np.ascontiguousarray(found.pixels("a", 1, name, Window(0, 0, 800, 640)))
    assert_near(found.reduced("a", 1, name, 4, Window(0, 0, 200, 160)), reduce_area(whole, 4), 1e-5)


def test_what_a_profile_says_is_told_and_no_view_reads_it_for_a_display(tmp_path: Path) -> None:
    written(tmp_path / "a.png", codes(), profile(P3, SRGB_CURVE))
    written(tmp_path / "b.png", codes(), None)
    copies = FastCopies(tmp_path / "fast")
    assert [holds_codes(copies.info(tmp_path / name)) for name in ("a.png", "b.png")] == [False, True]
    [found] = [one for one in check_up_all([sequence_of(str(tmp_path / "a.png"))], copies) if one.rule == "colour-space"]
    assert found.severity == "note"
    assert "primaries of P3 D65: turned to BT.709 on reading" in found.message


def test_codes_of_high_dynamic_range_are_those_of_colour_science() -> None:
    """ITU-R BT.2100 as the colour-science package has it; paper by ITU-R BT.2408: 203 cd/m^2, and 75 % of hybrid log-gamma."""
    at = np.linspace(0, 1, 101)
    assert_near(linear_from_pq(at) * 203, colour.models.eotf_ST2084(at), 1e-3, relative=1e-6)
    assert_near(linear_from_hlg(at), colour.models.oetf_inverse_BT2100_HLG(at) / colour.models.oetf_inverse_BT2100_HLG(0.75), 1e-6)
    assert (float(linear_from_hlg(np.array(0.75))), float(linear_from_pq(np.array(0.5807)))) == (pytest.approx(1), pytest.approx(1, rel=2e-3))
    assert linear_from_pq(np.array([-0.5, 2.0])) == pytest.approx([0, 10_000 / 203])


@pytest.mark.parametrize(("primaries", "transfer", "space", "light"), [
    (9, 18, "lin_rec2020", linear_from_hlg), (9, 16, "lin_rec2020", linear_from_pq), (12, 1, "lin_p3d65", linear_from_srgb),
    (1, 1, "lin_rec709", linear_from_srgb), (2, 2, "lin_rec709", linear_from_srgb),
])  # fmt: skip
def test_a_movie_is_read_as_its_tags_say(primaries: int, transfer: int, space: str, light: Any, tmp_path: Path) -> None:
    """Codes of ITU-T H.273; greys and colours in flat fields, as ten bits of red, green and blue keep them."""
    fields = np.array([[0.2, 0.2, 0.2], [0.6, 0.6, 0.6], [0.5, 0.4, 0.3], [0.3, 0.5, 0.6]])
    pixels = np.repeat(np.repeat(fields[None], 64, axis=0), 32, axis=1)
    path = tmp_path / "a.mkv"
    with av.open(str(path), "w") as file:
        stream: Any = file.add_stream("ffv1", rate=Fraction(24))
        stream.width, stream.height, stream.pix_fmt = 128, 64, "gbrp10le"
        context = stream.codec_context
        context.color_primaries, context.color_trc, context.colorspace = primaries, transfer, 0
        whole = np.rint(pixels * 1023).astype(np.uint16)
        frame = av.VideoFrame(128, 64, "gbrp10le")
        for plane, channel in zip(frame.planes, (1, 2, 0), strict=True):
            rows = np.zeros((64, plane.line_size // 2), np.uint16)
            rows[:, :128] = whole[..., channel]
            plane.update(rows.tobytes())
        for packet in (*stream.encode(frame), *stream.encode(None)):
            file.mux(packet)
    found = MediaReader({"a": Source(path=path.name)}, [tmp_path], FastCopies(tmp_path / "fast"))
    [name] = found.describe("a", 1).passes
    got = found.pixels("a", 1, name, Window(0, 0, 128, 64))[32, 16::32, :3]
    matrix = primaries_matrix(PRIMARIES[space])
    wanted = light(fields) if matrix is None else light(fields) @ matrix.T.astype(np.float64)
    assert_near(got, wanted, 2e-3, relative=8e-3)


def test_codes_that_no_file_tells_are_set_by_hand(tmp_path: Path) -> None:
    written(tmp_path / "a.png", codes(), None)
    matrix = primaries_matrix(PRIMARIES["lin_rec2020"])
    assert matrix is not None
    wanted = linear_from_pq(codes() / np.float32(255)) @ matrix.T
    assert_near(read(tmp_path / "a.png", "pq"), wanted, 1e-4, relative=1e-4)
    assert CodeCurve("pq") != CodeCurve("hlg")
