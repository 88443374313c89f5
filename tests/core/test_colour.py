"""sRGB against IEC 61966-2-1 as colour-science implements it, and the table against the formula."""

import colour
import numpy as np
import pytest

from umbrax.core.colour import exact_codes, linear_from_srgb, looking, srgb_from_linear

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
