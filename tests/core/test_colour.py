"""sRGB against IEC 61966-2-1 as colour-science implements it, the table against the formula, and primaries against reference libraries."""

import colour
import numpy as np
import PyOpenColorIO as ocio
import pytest

from umbrax.core.colour import PRIMARIES, exact_codes, linear_from_srgb, looking, primaries_matrix, srgb_from_linear
from umbrax.core.kernels.mixing import mixed

CODES = np.linspace(0, 1, 4097)


def test_encoding_equals_the_standard() -> None:
    assert srgb_from_linear(CODES) == pytest.approx(colour.models.eotf_inverse_sRGB(CODES), abs=1e-12)


def test_decoding_equals_the_standard() -> None:
    assert linear_from_srgb(CODES) == pytest.approx(colour.models.eotf_sRGB(CODES), abs=1e-12)


def test_worked_values_of_the_standard() -> None:
    # IEC 61966-2-1: the linear part up to 0.0031308 with slope 12.92; 0.5 decodes to 0.21404 (computed by hand)
    assert srgb_from_linear(np.array([0.0031308, 1.0])) == pytest.approx([0.0031308 * 12.92, 1.0])
    assert linear_from_srgb(np.array([0.5])) == pytest.approx([((0.5 + 0.055) / 1.055) ** 2.4])


def test_eight_bit_codes_survive_the_round_trip_exactly() -> None:
    codes = np.arange(256)
    assert np.array_equal(exact_codes(linear_from_srgb(codes / 255), 255), codes)


def test_sixteen_bit_codes_survive_the_round_trip_exactly() -> None:
    codes = np.arange(65536)
    assert np.array_equal(exact_codes(linear_from_srgb(codes / 65535), 65535), codes)


def test_the_table_for_looking_is_within_one_code_of_the_formula() -> None:
    light = np.concatenate([np.geomspace(1e-6, 1.2, 20000), [0, -1, 7, 1e9]]).astype(np.float32)
    picture = np.repeat(light[None, :, None], 4, axis=2)
    shown = looking(picture)[0, :, 0].astype(int)
    assert np.abs(shown - exact_codes(light, 255).astype(int)).max() <= 1


def test_not_a_number_shows_black_and_exposure_doubles_light() -> None:
    picture = np.full((1, 2, 4), np.nan, np.float32)
    assert looking(picture).max() == 0
    grey = np.full((1, 2, 4), 0.1, np.float32)
    assert np.array_equal(looking(grey, 1.0), looking(grey * 2))


SPACES = {
    "lin_ap1": ("ACEScg", "ACEScg"), "lin_ap0": ("ACES2065-1", "ACES2065-1"), "lin_rec2020": ("ITU-R BT.2020", "Linear Rec.2020"),
    "lin_p3d65": ("Display P3", "Linear P3-D65"),
}  # fmt: skip


@pytest.mark.parametrize("space", SPACES)
def test_primaries_are_turned_as_reference_libraries_turn_them(space: str) -> None:
    """colour-science from the published chromaticities, and OpenColorIO's built-in configuration; both adapt whites by Bradford."""
    science, name = SPACES[space]
    matrix = primaries_matrix(PRIMARIES[space])
    assert matrix is not None
    spaces = colour.RGB_COLOURSPACES
    assert matrix == pytest.approx(colour.matrix_RGB_to_RGB(spaces[science], spaces["ITU-R BT.709"], "Bradford"), abs=1e-6)
    config = ocio.Config.CreateFromBuiltinConfig("cg-config-v5.0.0_aces-v2.1_ocio-v2.6")
    turn = config.getProcessor(name, "Linear Rec.709 (sRGB)").getDefaultCPUProcessor()
    assert pytest.approx(np.array([turn.applyRGB(row) for row in np.eye(3).tolist()]), abs=1e-6) == matrix.T
    back = primaries_matrix(PRIMARIES["lin_rec709"], PRIMARIES[space])
    assert back is not None
    assert back @ matrix == pytest.approx(np.eye(3), abs=1e-6)
    assert matrix.sum(axis=1) == pytest.approx([1, 1, 1], abs=1e-6), "white stays white"


def test_the_same_primaries_are_left_as_they_are_however_many_digits_they_have() -> None:
    assert primaries_matrix(PRIMARIES["lin_rec709"]) is None
    assert primaries_matrix((0.6400001, 0.33, 0.3, 0.6, 0.15, 0.06, 0.31270001, 0.32902)) is None


def test_mixing_changes_colours_alone() -> None:
    pixels = np.random.default_rng(1).normal(0, 100, (17, 23, 4)).astype(np.float32)
    matrix = np.array([[0.5, 0.25, 0.25], [0, 1, 0], [-1, 0, 2]], np.float32)
    before = pixels.copy()
    for channels in (3, 4):
        found = mixed(pixels[..., :channels], matrix)
        assert found[..., :3] == pytest.approx(pixels[..., :3].astype(np.float64) @ matrix.T.astype(np.float64), rel=1e-5, abs=1e-4)
        assert np.array_equal(found[..., 3:], pixels[..., 3:channels])
        part = mixed(np.ascontiguousarray(pixels[3:9, 5:18, :channels]), matrix)
        assert np.array_equal(part, found[3:9, 5:18]), "bit for bit"
    assert np.array_equal(pixels, before)
