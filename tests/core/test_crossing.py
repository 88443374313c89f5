"""Objects crossed with materials: a rim that two others share is told apart from what is both."""

import numpy as np
import pytest

from arrays import disc, shot_of
from umbrax.core.mattes.combined import crossed_layers
from umbrax.core.mattes.crossing import border_leak

TOTAL = np.ones((60, 60), np.float32)


def halves(at: float) -> np.ndarray:
    """Coverage of everything left of a line, soft where it cuts a pixel."""
    return np.broadcast_to(np.clip(at - np.arange(60), 0, 1).astype(np.float32), (60, 60)).copy()


def test_an_object_beside_another_of_the_material_leaks_along_their_border_only() -> None:
    left = halves(30.5)
    brass = 1 - left  # all of the right one, and nothing of the left one
    assert border_leak([left, brass], [TOTAL, TOTAL]) == pytest.approx(1.0)


def test_an_object_of_the_material_does_not_leak_at_its_own_rim() -> None:
    ball = disc(60, 60, 30, 30, 12.3)
    assert border_leak([ball, ball], [ball, ball]) == pytest.approx(0.0, abs=1e-6)
    assert border_leak([ball, ball], [TOTAL, TOTAL]) == pytest.approx(0.0, abs=1e-6)


def test_both_at_once_leak_as_much_as_their_borders_are_of_the_whole() -> None:
    body, knob = halves(30.5), disc(60, 60, 30, 12, 6.2)
    brass = np.maximum(knob, 1 - body)  # a knob on it, and the object beside it
    rim = np.minimum(body, brass)[:, 28:33].sum()
    expected = rim / np.minimum(body, brass).sum()
    assert border_leak([body, brass], [TOTAL, TOTAL]) == pytest.approx(expected, rel=1e-3)


def test_nothing_at_all_leaks_nothing() -> None:
    assert border_leak([0 * TOTAL, TOTAL], [TOTAL, TOTAL]) == 0.0


def test_only_id_mattes_of_several_layers_of_one_source_are_crossed() -> None:
    def of(how: str, *parts: object) -> object:
        shot = shot_of([], mattes={"own": {"kind": "combined", "how": how, "mattes": list(parts)}})
        return crossed_layers(shot.mattes, "own")

    assert of("all_of", "ball", "glass") == ["ball", "glass"]
    assert of("all_of", "ball", "lamp") is None, "one layer: exact"
    assert of("any_of", "ball", "glass") is None
    assert of("all_of", "ball", {"matte": "glass", "invert": True}) is None
