"""What a treatment makes, laid on its input by a join."""

from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, assert_near, card, make, scene, shot_of
from umbrax.core.document.parameters import MatteRef
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner

SOFT = {"id": "t1", "kind": "soften", "size": 4.0}
BRIGHT = {"id": "t1", "kind": "grade", "exposure": 1.0}


def laid(treatment: dict[str, Any], join: str, **more: Any) -> np.ndarray:
    return make(shot_of([card(STATION, treatments=[{**treatment, "lay": {"join": join}, **more}])]), scene()).pixels


def plain(*treatments: dict[str, Any]) -> np.ndarray:
    return make(shot_of([card(STATION, treatments=list(treatments))]), scene()).pixels


@pytest.mark.parametrize("amount", [1.0, 0.4])
@pytest.mark.parametrize("join", ["over", "screen", "multiply", "overlay"])
def test_a_blur_is_laid_on_as_a_second_card_of_it_would_be(join: str, amount: float) -> None:
    second = card(STATION, id="again", treatments=[SOFT], join=join, opacity=amount)
    wanted = make(shot_of([STATION, second]), scene()).pixels
    assert_near(laid(SOFT, join, amount=amount), wanted, 2e-6)


@pytest.mark.parametrize("amount", [0.5, 1.0, 2.5])
def test_a_blur_added_is_light_that_goes_beyond_and_hides_nothing(amount: float) -> None:
    got = laid(SOFT, "plus", amount=amount)
    assert_near(got[..., :3], plain()[..., :3] + amount * plain(SOFT)[..., :3], 1e-6, relative=1e-5)
    assert np.array_equal(got[..., 3], plain()[..., 3])
    assert got[..., :3][plain()[..., 3] == 0].max() > 0.01


def test_a_grade_is_laid_inside_the_alpha_and_never_squares_an_edge() -> None:
    """Over gives what replacing gives; added at an edge of alpha a it adds a times what it adds inside."""
    assert_near(laid(BRIGHT, "over"), plain(BRIGHT), 2e-6)
    assert_near(laid(BRIGHT, "plus")[..., :3], 3 * plain()[..., :3], 1e-6, relative=1e-5)
    assert np.array_equal(laid(BRIGHT, "plus")[..., 3], plain()[..., 3])
    half = laid(BRIGHT, "multiply", amount=0.5)
    a = plain()[..., 3:]
    colour = plain()[..., :3] / np.maximum(a, 1e-6)
    assert_near(half[..., :3], np.where(a > 0, a * (0.5 * colour + 0.5 * 2 * colour**2), 0), 2e-6, relative=2e-5)


def test_through_a_matte_and_several_times() -> None:
    shot = shot_of([PLATE, {"id": "f", "treat": True, "treatments": [{**SOFT, "lay": {"join": "plus"}, "through": "ball"}]}])
    window = Window(0, 0, 120, 90)
    m = evaluate(ShotPlanner(shot, 1, scene()).coverage(MatteRef(matte="ball"), 1), window, PictureCache(1 << 28)).pixels
    below, soft = (
        make(shot_of([PLATE]), scene()).pixels,
        make(shot_of([PLATE, {"id": "f", "treat": True, "treatments": [SOFT]}]), scene()).pixels,
    )
    assert make(shot, scene()).pixels[..., :3] == pytest.approx((below + m * soft)[..., :3], abs=3e-6)
    twice = [{**SOFT, "lay": {"join": "plus"}}, {"id": "t2", "kind": "soften", "size": 9.0, "lay": {"join": "screen"}, "amount": 0.5}]
    once = make(shot_of([card(STATION, treatments=twice[:1])]), scene()).pixels
    assert np.abs(make(shot_of([card(STATION, treatments=twice)]), scene()).pixels - once).max() > 0.05


def test_an_amount_above_1_is_a_gain_of_what_is_laid_on_only() -> None:
    with pytest.raises(UmbraxError, match="at most 1"):
        shot_of([card(STATION, treatments=[{**SOFT, "amount": 1.5}])])
    with pytest.raises(UmbraxError, match="at most 1"):
        shot_of([card(STATION, treatments=[{**SOFT, "amount": {"keys": [[1, 0.5, "linear"], [5, 1.5, "linear"]]}}])])
    with pytest.raises(UmbraxError, match="join"):
        shot_of([card(STATION, treatments=[{**SOFT, "lay": {"join": "xor"}}])])
