"""Keyframes: eases by their formulas, holds outside, bounds and order."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from umbrax.core.document.parameters import Parameters, colour, number
from umbrax.core.document.timing import Colour, Keys, Number, NumberOrNone, at_frame, bezier_ease, eased, keyed_frames


class Lamp(Parameters):
    gain: Number = number(1.0, "Gain", low=0, high=10)
    tint: Colour = colour((1.0, 1.0, 1.0), "Tint")


class Lamps(Parameters):
    lamps: dict[str, Lamp]


@given(st.floats(0, 1))
def test_smooth_is_the_cubic_of_the_document(u: float) -> None:
    assert eased(u, "smooth") == pytest.approx(3 * u**2 - 2 * u**3)


@given(st.floats(0, 1), st.floats(0, 1), st.floats(0, 1), st.floats(-1, 2), st.floats(-1, 2))
def test_a_bezier_passes_through_its_own_points(t: float, x1: float, x2: float, y1: float, y2: float) -> None:
    x = 3 * (1 - t) ** 2 * t * x1 + 3 * (1 - t) * t * t * x2 + t**3
    slope = abs(3 * (1 - t) ** 2 * x1 + 6 * (1 - t) * t * (x2 - x1) + 3 * t * t * (1 - x2))
    if slope > 0.05:  # where time hardly moves, t is not determined by it
        y = 3 * (1 - t) ** 2 * t * y1 + 3 * (1 - t) * t * t * y2 + t**3
        assert bezier_ease(x, x1, y1, x2, y2) == pytest.approx(y, abs=1e-6)


def test_values_hold_before_the_first_and_after_the_last_key() -> None:
    keys = Keys.model_validate({"keys": [[10, 1.0, "linear"], [20, 3.0, "hold"], [30, 5.0, "linear"]]})
    assert [keys.at(f) for f in (0, 10, 15, 20, 29, 30, 99)] == [1, 1, 2, 3, 3, 5, 5]


def test_numbers_and_colours_at_any_depth_are_resolved() -> None:
    lamps = Lamps.model_validate(
        {
            "lamps": {
                "a": {
                    "gain": {"keys": [[1, 0, "linear"], [3, 4, "linear"]]},
                    "tint": {"keys": [[1, [0, 0, 0], "linear"], [3, [2, 4, 6], "linear"]]},
                }
            }
        }
    )
    assert at_frame(lamps, 2).lamps["a"] == Lamp(gain=2.0, tint=(1.0, 2.0, 3.0))
    plain = Lamps(lamps={"a": Lamp()})
    assert at_frame(plain, 2) is plain


@pytest.mark.parametrize(
    "gain",
    [
        {"keys": [[2, 1, "linear"], [1, 2, "linear"]]}, {"keys": []}, {"keys": [[1, 11, "linear"]]}, {"keys": [[1, 1, "bouncy"]]},
        {"keys": [[1, 1, ["bezier", 1.5, 0, 0, 1]]]}, -1, "much", float("inf"), {"keys": [[1, float("nan"), "linear"]]},
    ],
)  # fmt: skip
def test_bad_keys_are_refused(gain: object) -> None:
    with pytest.raises(ValidationError):
        Lamp.model_validate({"gain": gain})


def test_what_is_written_is_read_again() -> None:
    lamp = Lamp.model_validate({"gain": {"keys": [[1, 2.5, ["bezier", 0.1, 0.2, 0.3, 0.4]]]}})
    assert Lamp.model_validate(lamp.model_dump(mode="json")) == lamp
    assert Lamp().model_dump(mode="json") == {}


def test_a_number_that_flickers_trembles_below_what_it_is() -> None:
    """of x (1 - flicker n): between the two, never the same for long, smooth, and the same whenever it is asked."""
    shown = Shown.model_validate({"size": {"flicker": 0.4, "of": 2.0, "every": 4, "seed": 7}})
    values = [at_frame(shown, frame).size for frame in np.arange(0, 400, 0.25)]
    assert 2 * 0.6 - 1e-9 <= min(values) < 1.3
    assert 1.9 < max(values) <= 2
    assert np.mean(values) == pytest.approx(2 * 0.8, abs=0.05)
    assert np.abs(np.diff(values)).max() < 0.8 * 1.5 / 16 + 1e-6
    assert values == [at_frame(shown, frame).size for frame in np.arange(0, 400, 0.25)]
    other = Shown.model_validate({"size": {"flicker": 0.4, "of": 2.0, "every": 4, "seed": 8}})
    assert at_frame(other, 10).size != at_frame(shown, 10).size


def test_keys_may_flicker_and_their_bounds_hold() -> None:
    keys = {"keys": [[1, 2.0, "linear"], [11, 4.0, "linear"]]}
    shown = Shown.model_validate({"size": {"flicker": 0.0, "of": keys}})
    assert [at_frame(shown, frame).size for frame in (1, 6, 11)] == [2.0, 3.0, 4.0]
    assert keyed_frames(shown) == {1, 11}
    assert Shown.model_validate(shown.model_dump(mode="json")) == shown
    for of in (-1.0, {"keys": [[1, -1.0, "linear"]]}):
        with pytest.raises(ValidationError):
            Shown.model_validate({"size": {"flicker": 0.2, "of": of}})


class Shown(Parameters):
    """A number of at least 0."""

    size: Number = number(1.0, "Size", low=0)


def test_a_number_that_may_be_left_out_is_keyed_and_flickers_within_its_bounds() -> None:
    class Far(Parameters):
        depth: NumberOrNone = number(None, "Depth", low=1, high=9)

    assert Far().depth is None
    keys = {"keys": [[1, 2.0, "linear"], [5, 4.0, "linear"]]}
    assert at_frame(Far.model_validate({"depth": keys}), 3).depth == 3.0
    assert at_frame(Far.model_validate({"depth": {"flicker": 0.0, "of": keys}}), 3).depth == 3.0
    for bad in (
        0.5,
        {"keys": [[1, 0.5, "linear"]]},
        {"keys": [[1, None, "linear"]]},
        {"flicker": 0.1, "of": 0.5},
        {"flicker": 0.1, "of": None},
    ):
        with pytest.raises(ValidationError):
            Far.model_validate({"depth": bad})
