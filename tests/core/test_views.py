"""Views against OpenColorIO's own rendering, and what light shows as given codes."""

from typing import get_args

import numpy as np
import PyOpenColorIO as ocio
import pytest

from umbrax.core import colour
from umbrax.core.document.shot import ColourSettings
from umbrax.core.views import VIEWS, exact_codes, light_of, looking

RNG = np.random.default_rng(5)
SHAPE = (60, 80)


def by_ocio(light: np.ndarray) -> np.ndarray:
    """Codes 0..1 by a processor that is made here, one pixel after the other."""
    config = ocio.Config.CreateFromBuiltinConfig("cg-config-v5.0.0_aces-v2.1_ocio-v2.6")
    view = ocio.DisplayViewTransform("Linear Rec.709 (sRGB)", "sRGB - Display", "ACES 2.0 - SDR 100 nits (Rec.709)")
    processor = config.getProcessor(view).getDefaultCPUProcessor()
    return np.array([processor.applyRGB(pixel) for pixel in light.reshape(-1, 3).tolist()]).reshape(light.shape)


def lights() -> dict[str, np.ndarray]:
    """Light as renders have it, greys over 19 stops, strong colours, and colours that BT.709 does not hold."""
    some = np.exp2(RNG.uniform(-10, 5, (*SHAPE, 1))) * np.clip(RNG.normal(1, 0.4, (*SHAPE, 3)), 0, None)
    made = {
        "rendered": some, "greys": np.repeat(np.exp2(RNG.uniform(-12, 7, (*SHAPE, 1))), 3, axis=2),
        "strong": np.exp2(RNG.uniform(-8, 4, (*SHAPE, 3))), "wide": some - 0.1 * some.max(axis=2, keepdims=True),
    }  # fmt: skip
    return {name: light.astype(np.float32) for name, light in made.items()}


@pytest.mark.parametrize(("name", "mean", "most"), [("rendered", 0.15, 1), ("greys", 0.1, 1), ("strong", 0.3, 2), ("wide", 0.15, 1)])
def test_the_aces_view_is_that_of_opencolorio(name: str, mean: float, most: float) -> None:
    light = lights()[name]
    expected = np.rint(np.clip(by_ocio(light), 0, 1) * 255).astype(int)
    assert np.abs(exact_codes(light, 255, "aces").astype(int) - expected).max() <= 1, "to rounding"
    quick = np.abs(looking(light, 0.0, "aces").astype(int) - expected)
    assert quick.mean() <= mean
    assert np.percentile(quick, 99) <= most


def test_highlights_roll_off_and_greys_stay_grey() -> None:
    stops = np.repeat(np.exp2(np.linspace(-12, 6, 400))[None, :, None], 3, axis=2).astype(np.float32)
    for codes in (exact_codes(stops, 255, "aces").astype(int)[0], looking(stops, 0.0, "aces").astype(int)[0]):
        assert (np.diff(codes, axis=0) >= 0).all()
        assert np.ptp(codes, axis=1).max() <= 1
        assert codes[-1, 0] < 255, "64 is not white yet"
        assert codes[0, 0] == 0
    assert exact_codes(stops, 255, "srgb")[0, stops[0, :, 0] >= 1].min() == 255, "which the other view shows as white"


@pytest.mark.parametrize("view", VIEWS)
def test_what_is_no_number_is_black_and_exposure_doubles_light(view: str) -> None:
    odd = np.full((2, 3, 3), np.nan, np.float32)
    assert looking(odd, 0.0, view).max() == exact_codes(odd, 255, view).max() == 0  # type: ignore[arg-type]
    light = lights()["rendered"]
    assert np.array_equal(looking(light, 1.0, view), looking(light * 2, 0.0, view))  # type: ignore[arg-type]
    four = np.concatenate([light, np.zeros((*SHAPE, 1), np.float32)], axis=2)
    assert np.array_equal(looking(four, 0.0, view), looking(light, 0.0, view)), "alpha takes no part"  # type: ignore[arg-type]
    grey = light[..., :1].copy()
    assert np.array_equal(looking(grey, 0.0, view), looking(np.repeat(grey, 3, axis=2), 0.0, view))  # type: ignore[arg-type]
    part = np.ascontiguousarray(light[11:40, 7:66])
    assert np.array_equal(looking(part, 0.0, view), looking(light, 0.0, view)[11:40, 7:66])  # type: ignore[arg-type]


def test_light_of_codes_shows_as_these_codes() -> None:
    """A photograph's colours; those at the edge of what a display shows are met less well."""
    photograph = np.clip(RNG.normal(0.5, 0.2, (*SHAPE, 1)) + RNG.normal(0, 0.08, (*SHAPE, 3)), 0, 0.98).astype(np.float32)
    back = np.abs(by_ocio(light_of(photograph, "aces")) - photograph) * 255
    assert back.mean() < 0.1
    assert np.percentile(back, 99) < 0.6
    everything = RNG.random((*SHAPE, 3), np.float32)
    back = np.abs(by_ocio(light_of(everything, "aces")) - everything) * 255
    assert back.mean() < 0.3
    assert np.percentile(back, 99) < 2.5
    assert light_of(np.zeros((1, 1, 3), np.float32), "aces").max() == 0
    grey = np.linspace(0, 1, 64, dtype=np.float32).reshape(1, 64, 1)
    assert light_of(grey, "aces") == pytest.approx(light_of(np.repeat(grey, 3, axis=2), "aces")[..., :1])
    assert np.array_equal(light_of(everything, "srgb"), colour.linear_from_srgb(everything))


def test_windows_of_codes_are_bit_for_bit_those_of_the_whole() -> None:
    codes = RNG.random((*SHAPE, 3), np.float32)
    whole = light_of(codes, "aces")
    assert np.array_equal(light_of(np.ascontiguousarray(codes[5:33, 11:70]), "aces"), whole[5:33, 11:70])


def test_a_shot_may_choose_any_view() -> None:
    assert get_args(ColourSettings.model_fields["view"].annotation) == VIEWS
