"""Light that is played with: what a change leaves alone is kept, and what comes out is what would come out of light seen for the first time."""

from typing import Any

import numpy as np
import pytest

from umbrax.core.kernels import arms, ghosts, lattices
from umbrax.core.kernels.lit import lit_part
from umbrax.core.picture import Picture, Window
from umbrax.core.treatments import TREATMENTS

FED = Window(-11, 6, 190, 141)
FRAME = Window(-7, 4, 150, 101)
EXTRA: dict[str, dict[str, Any]] = {"reflections": {"centre": (70.0, 52.0), "half_diagonal": 90.0}}
PLAYED: dict[str, list[dict[str, Any]]] = {
    "bloom": [{"size": 9.0}, {"size": 9.5}, {"size": 30.0}, {"size": 30.0, "tint": [1, 0.5, 0.2]}, {"size": 30.0, "conserve": True}],
    "spikes": [
        {"length": 20.0}, {"length": 31.0}, {"length": 31.0, "angle": 11.0}, {"length": 31.0, "arms": 4}, {"length": 31.0, "arms": 3},
        {"length": 31.0, "spread": 1.0, "arms": 3},
    ],
    "reflections": [
        {"size": 20.0}, {"size": 20.5}, {"size": 60.0}, {"size": 60.0, "fade": 0.8}, {"size": 60.0, "fade": 0.8, "count": 3},
        {"size": 60.0, "spread": -0.7}, {"size": 60.0, "dispersion": 0.3}, {"size": 60.0, "softness": 1.0},
        {"size": 60.0, "last_tint": [0, 1, 2]},
    ],
    "halo": [{"size": 12.0}, {"size": 13.0}, {"size": 13.0, "colour": "object"}, {"size": 13.0, "core": 2.0}],
}  # fmt: skip


def fed(places: int = 5) -> Picture:
    """Some lamps near each other in a large plane, of which the part that holds them is kept."""
    rng, light = np.random.default_rng(4), np.zeros((FED.height, FED.width, 3), np.float32)
    for y, x in rng.integers(30, 60, (places, 2)):
        light[y, x] = rng.uniform(0.5, 40.0, 3)
    return Picture(light, FED)


def made(kind: str, own: Picture, settings: dict[str, Any], window: Window = FRAME, **more: Any) -> np.ndarray:
    treatment = TREATMENTS.get(kind)
    params = treatment.params.model_validate({"id": "t", "kind": kind, **settings})
    return treatment.apply(params, own, window, 1, **(EXTRA.get(kind, {}) | more)).pixels


@pytest.mark.parametrize("kind", PLAYED)
def test_played_with_it_comes_out_as_light_that_is_seen_for_the_first_time(kind: str) -> None:
    whole = fed()
    for settings in (*PLAYED[kind], PLAYED[kind][0]):
        for window in (Window(20, 10, 80, 80), FRAME):
            anew = fed()
            np.testing.assert_array_equal(made(kind, lit_part(whole), settings, window), made(kind, lit_part(anew), settings, window))


def test_a_reflection_moves_with_the_centre_and_fades_by_the_frame() -> None:
    whole, settings = fed(), {"size": 20.0, "fade": 0.8}
    for more in ({}, {"half_diagonal": 60.0}, {"half_diagonal": 60.0, "centre": (70.1, 52.0)}):
        anew = fed()
        np.testing.assert_array_equal(
            made("reflections", lit_part(whole), settings, **more), made("reflections", lit_part(anew), settings, **more)
        )


@pytest.mark.parametrize("kind", ["spikes", "reflections"])
def test_a_drag_of_the_size_lays_nothing_out_anew(kind: str, monkeypatch: pytest.MonkeyPatch) -> None:
    module, name = {"spikes": (lattices, "laid_out"), "reflections": (ghosts, "_put")}[kind]
    calls, original = [], getattr(module, name)
    monkeypatch.setattr(module, name, lambda *what: calls.append(name) or original(*what))
    whole = fed()
    for settings in PLAYED[kind][:2]:
        made(kind, lit_part(whole), settings)
    assert len(calls) == 1
    monkeypatch.setattr("umbrax.core.kernels.points.MOST_KEPT", 0)
    made(kind, lit_part(whole), PLAYED[kind][0])
    assert len(calls) == 2, "too much to be kept"


def test_spikes_of_many_arms_are_laid_out_for_all_of_them_at_once(monkeypatch: pytest.MonkeyPatch) -> None:
    """In two halves where that would be too many places, and the same comes out."""
    whole = fed(200)
    expected = made("spikes", lit_part(whole), {"length": 20.0, "arms": 8})
    monkeypatch.setattr(arms, "MOST_PLACES", 300)
    np.testing.assert_allclose(made("spikes", lit_part(whole), {"length": 20.0, "arms": 8}), expected, rtol=1e-5, atol=1e-6)
