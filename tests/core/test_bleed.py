"""Surround bleed: by hand on a straight edge, inside the alpha alone, and it follows what lies around where the element stands."""

from typing import Any

import numpy as np
import pytest
from scipy.special import erf

from arrays import PLATE, ArrayReader, ArraySource, assert_near, make, shot_of

WIDTH, HEIGHT, EDGE = 120, 60, 60
COLOUR = np.array([0.4, 0.3, 0.2], np.float32)
AROUND = np.array([0.1, 0.5, 0.9], np.float32)


def half(alpha: float = 1.0) -> ArrayReader:
    """An element that covers everything right of a straight edge, over an even plate; its specular pass is 0.25 on ten columns."""
    element = np.zeros((HEIGHT, WIDTH, 4), np.float32)
    element[:, EDGE:, 3] = alpha
    element[..., :3] = COLOUR * element[..., 3:]
    shine = np.zeros((HEIGHT, WIDTH, 3), np.float32)
    shine[:, 90:100] = (0.25, 0.1, 0.05)
    plate = np.broadcast_to(AROUND, (HEIGHT, WIDTH, 3)).copy()
    station = ArraySource({"rgba": ("beauty", element), "specular": ("specular", shine)})
    return ArrayReader(station=station, valley=ArraySource({"rgba": ("beauty", plate)}))


def pixels(reader: ArrayReader, more: dict[str, Any] | None = None, **settings: Any) -> np.ndarray:
    treatments = [{"id": "b", "kind": "bleed", **settings}] if settings else []
    element = {"id": "station", "picture": {"kind": "pass", "source": "station", "pass": "rgba"}, "treatments": treatments, **(more or {})}
    shot = shot_of([PLATE, element], width=WIDTH, height=HEIGHT).model_copy(update={"mattes": {}})
    return make(shot, reader).pixels


@pytest.mark.parametrize("amount", [1.0, 0.4])
def test_a_straight_edge_by_hand(amount: float) -> None:
    """rim = the Gaussian's part beyond the edge x gain, at most 1; over is c (1 - r) + r colour, screen c + r w - c r w."""
    distance = np.arange(WIDTH - EDGE) + 0.5
    rim = amount * np.clip(1.5 * 0.5 * (1 - erf(distance / (7 * np.sqrt(2)))), 0, 1)[:, None]
    for join, wanted in (
        ("over", COLOUR * (1 - rim) + rim * AROUND),
        ("screen", COLOUR + rim * AROUND - COLOUR * rim * AROUND),
        ("multiply", COLOUR * (1 - rim) + rim * COLOUR * AROUND),
    ):
        got = pixels(half(), width=7.0, size=20.0, gain=1.5, join=join, amount=amount)
        assert got[HEIGHT // 2, EDGE:, :3] == pytest.approx(wanted, abs=1.5e-3)
        assert_near(got[:, : EDGE - 1], pixels(half())[:, : EDGE - 1], 1e-6, "nothing outside the alpha")


def test_a_gain_past_full_stays_full_and_thin_alpha_bleeds_as_it_is() -> None:
    full = pixels(half(), width=7.0, size=20.0, gain=100.0, join="over")[HEIGHT // 2, EDGE : EDGE + 8, :3]
    assert full == pytest.approx(np.broadcast_to(AROUND, (8, 3)), abs=1e-3)
    # alpha 0.3 far from any edge: rim = 0.3 x 0.7, laid inside the alpha
    thin = pixels(half(0.3), width=7.0, size=20.0, gain=1.0, join="over")[HEIGHT // 2, 110, :3]
    rim = 0.3 * 0.7
    assert thin == pytest.approx(0.3 * (COLOUR * (1 - rim) + AROUND * rim) + 0.7 * AROUND, abs=2e-3)


def test_the_rim_is_a_pass_where_it_is_told() -> None:
    got = pixels(half(), rim="specular", size=20.0, gain=2.0, join="over")[HEIGHT // 2]
    assert got[95, :3] == pytest.approx(0.5 * COLOUR + 0.5 * AROUND, abs=1e-4)
    assert got[70, :3] == pytest.approx(COLOUR, abs=1e-6)
    assert got[105, :3] == pytest.approx(COLOUR, abs=1e-6)


@pytest.mark.parametrize(("black", "white", "rim"), [(0.05, 0.45, 0.5), (0.0, 0.25, 1.0), (0.2, 0.1, 0.0), (0.3, 0.4, 0.0), (0.5, 0.0, 0.5)])
def test_a_pass_is_the_rim_from_black_to_white(black: float, white: float, rim: float) -> None:
    """(0.25 - black) / (white - black), from 0 to 1; where black is above white it is turned round."""
    got = pixels(half(), rim="specular", black=black, white=white, size=20.0, gain=1.0, join="over")[HEIGHT // 2, 95, :3]
    assert got == pytest.approx((1 - rim) * COLOUR + rim * AROUND, abs=1e-3)


def test_the_colour_that_gets_in_has_a_grade_of_its_own() -> None:
    got = pixels(half(), rim="specular", white=0.25, size=20.0, gain=1.0, join="over", saturation=0.0, tint=[1.0, 0.5, 2.0])
    luma = float(AROUND @ [0.2126, 0.7152, 0.0722])
    assert got[HEIGHT // 2, 95, :3] == pytest.approx([luma, 0.5 * luma, 2 * luma], abs=1e-3)


def test_it_takes_what_is_there_where_the_element_stands_now() -> None:
    """Moved by whole pixels over a plate that is blue on the left: the colour of where it went."""
    reader = half()
    plate = np.broadcast_to(np.array([0.9, 0.2, 0.1], np.float32), (HEIGHT, WIDTH, 3)).copy()
    plate[:, :60] = (0.0, 0.0, 0.8)
    reader.sources["valley"].passes["rgba"] = ("beauty", plate)
    settings = {"width": 4.0, "size": 4.0, "gain": 2.0, "join": "over"}
    moved = pixels(reader, {"placing": {"move": [-40, 0]}}, **settings)[HEIGHT // 2, 20, :3]
    assert moved[2] > 0.6
    assert moved[0] < 0.2
