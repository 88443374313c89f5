"""A card behind others: the formula without leaks, by hand and as what was rendered together."""

from typing import Any

import numpy as np
import pytest

from arrays import ArrayReader, ArraySource, card, make, ranked, shot_of
from umbrax.core.document.edits import apply
from umbrax.core.document.removals import card_removal, matte_removal
from umbrax.core.errors import UmbraxError

HEIGHT, WIDTH = 40, 60
SKY = {"id": "sky", "picture": {"kind": "plate", "source": "valley"}}
MASTS = {"id": "masts", "picture": {"kind": "pass", "source": "station"}}
BALLOON = {"id": "balloon", "picture": {"kind": "pass", "source": "balloon"}}
TUCK = {"behind": "mast", "card": "masts"}


def reader(mast: np.ndarray, other: np.ndarray, balloon: np.ndarray, colours: tuple[float, float, float, float] = (0.2, 0.5, 1.0, 0.6)) -> Any:
    """A mast and another object of one render, a balloon, and a sky behind: coverages and one grey each."""
    beauty = np.zeros((HEIGHT, WIDTH, 4), np.float32)
    beauty[..., :3] = (colours[0] * mast + colours[1] * other)[..., None]
    beauty[..., 3] = mast + other
    ball = np.zeros_like(beauty)
    ball[..., :3], ball[..., 3] = (colours[2] * balloon)[..., None], balloon
    sky = np.full((HEIGHT, WIDTH, 3), colours[3], np.float32)
    return ArrayReader(
        station=ArraySource({"rgba": ("beauty", beauty)}, {"object_ids": ranked({"mast": mast, "other": other})}),
        balloon=ArraySource({"rgba": ("beauty", ball)}), valley=ArraySource({"rgba": ("beauty", sky)}),
    )  # fmt: skip


def build(*cards: dict[str, Any], **more: Any) -> Any:
    sources = {"station": {"path": "s.exr"}, "valley": {"path": "v.exr"}, "balloon": {"path": "b.exr"}}
    mattes = {name: {"kind": "id", "source": "station", "layer": "object_ids", "names": [name]} for name in ("mast", "other")}
    return shot_of(list(cards), width=WIDTH, height=HEIGHT, sources=sources, mattes=mattes, **more)


def even(value: float) -> np.ndarray:
    return np.full((HEIGHT, WIDTH), value, np.float32)


def test_the_worked_example() -> None:
    """Mast 0.2, sky 0.6, balloon 1, m 0.5 gives 0.6; a plain hold-out, balloon (1 - m) over what is there, would give 0.7."""
    got = make(build(SKY, MASTS, card(BALLOON, tuck=[TUCK])), reader(even(0.5), even(0), even(1))).pixels
    assert got == pytest.approx(np.broadcast_to(np.array([0.6, 0.6, 0.6, 1], np.float32), got.shape), abs=1e-6)


@pytest.mark.parametrize("opacity", [1.0, 0.4])
@pytest.mark.parametrize(("covered", "light"), [(0.3, 0.2), (1.0, 0.2), (1.0, 0.5)])
def test_it_is_what_would_be_rendered_together(covered: float, light: float, opacity: float) -> None:
    """Random coverages, mast before balloon before sky, the other object behind the balloon: within a pixel all lie side by side.

    Where mast and other share a pixel their light is mixed in the render, and each is taken to have the mean of both: what that
    is off by is seen through the balloon, at most the balloon x m n / (m + n) x the difference of their lights.
    """
    rng = np.random.default_rng(3)
    mast, ball = rng.uniform(0, 1, (2, HEIGHT, WIDTH)).astype(np.float32)
    other = (1 - mast) * rng.uniform(0, covered, (HEIGHT, WIDTH)).astype(np.float32)
    got = make(build(SKY, MASTS, card(BALLOON, tuck=[TUCK], opacity=opacity)), reader(mast, other, ball, (0.2, light, 1.0, 0.6))).pixels
    behind = light * other + (1 - mast - other) * 0.6
    seen = opacity * ball
    wanted = 0.2 * mast + behind * (1 - seen) + (1 - mast) * seen * 1.0
    mixed = seen * mast * other / (mast + other) * (light - 0.2)
    assert (np.abs(got[..., 0] - wanted) <= mixed + 2e-6).all()
    assert got[..., 3] == pytest.approx(np.ones_like(wanted), abs=2e-6)


def test_over_nothing_alpha_is_right() -> None:
    mast, ball = even(0.5), even(0.5)
    got = make(build(MASTS, card(BALLOON, tuck=[TUCK])), reader(mast, even(0), ball)).pixels
    assert got[0, 0] == pytest.approx([0.2 * 0.5 + 0.25, 0.35, 0.35, 0.75], abs=1e-6)


def test_it_holds_on_its_frames_only_and_leaves_no_trace_on_others() -> None:
    from umbrax.core.plan.planner import ShotPlanner

    things = reader(even(0.5), even(0), even(1))
    held, plain = build(SKY, MASTS, card(BALLOON, tuck=[{**TUCK, "frames": [4, 6]}])), build(SKY, MASTS, BALLOON)
    for frame, tucked in ((3, False), (4, True), (6, True), (7, False)):
        same = ShotPlanner(held, frame, things).picture().key == ShotPlanner(plain, frame, things).picture().key
        assert same is not tucked


def test_it_is_behind_where_the_occluder_stands_and_behind_its_glass_as_far_as_that_is_there() -> None:
    mast = np.zeros((HEIGHT, WIDTH), np.float32)
    mast[10:20, 10:20] = 1
    moved = card(MASTS, placing={"move": [7, 3]}, opacity=0.5)
    got = make(build(SKY, moved, card(BALLOON, tuck=[TUCK])), reader(mast, even(0), even(1))).pixels
    # half there: half of the balloon is seen through it
    assert got[18, 20, 0] == pytest.approx(0.2 * 0.5 + 0.5 * 1.0, abs=1e-6)
    assert got[11, 11, 0] == 1


def test_what_is_between_them_covers_the_occluder() -> None:
    """A card in front of the mast and behind the balloon: where it hides the mast, the balloon is before both."""
    cover = {"id": "cover", "picture": {"kind": "solid", "colour": [0, 0, 0], "alpha": 0.75}}
    got = make(build(SKY, MASTS, cover, card(BALLOON, tuck=[TUCK])), reader(even(1), even(0), even(1))).pixels
    assert got[5, 5, 0] == pytest.approx(0.25 * 0.2 + 0.75 * 1.0, abs=1e-6)


def test_two_mattes_of_one_card_and_one_in_front_that_is_no_occluder() -> None:
    both = [TUCK, {"behind": "other", "card": "masts"}]
    got = make(build(SKY, MASTS, card(BALLOON, tuck=both)), reader(even(0.25), even(0.5), even(1))).pixels
    assert got[5, 5, 0] == pytest.approx(0.2 * 0.25 + 0.5 * 0.5 + 0.25 * 1.0, abs=1e-6)
    # an occluder that lies in front is not below: it covers the card anyway
    turned = make(build(SKY, card(BALLOON, tuck=[TUCK]), MASTS), reader(even(0.5), even(0), even(1))).pixels
    assert np.array_equal(turned, make(build(SKY, BALLOON, MASTS), reader(even(0.5), even(0), even(1))).pixels)


def test_a_tuck_names_a_card_of_its_build_and_goes_with_it() -> None:
    with pytest.raises(UmbraxError, match="tuck it behind"):
        build(SKY, card(BALLOON, tuck=[{**TUCK, "card": "mast"}]))
    with pytest.raises(UmbraxError, match="joined by over"):
        build(SKY, MASTS, card(BALLOON, tuck=[TUCK], join="screen"))
    with pytest.raises(UmbraxError, match="first to last"):
        build(SKY, MASTS, card(BALLOON, tuck=[{**TUCK, "frames": [6, 4]}]))
    shot = build(SKY, MASTS, card(BALLOON, tuck=[TUCK], follow="masts"))
    gone = card_removal(shot, "masts")
    assert gone.with_it == ("a tuck of card balloon", "what card balloon follows")
    left = apply(shot, gone.edits).card("balloon")
    assert left.tuck == ()
    assert left.follow is None
    assert apply(shot, matte_removal(shot, "mast").edits).card("balloon").tuck == ()


def test_a_card_follows_another_with_all_that_moves_it() -> None:
    """Following is the other's placing after one's own: together they move as a bundle of both would."""
    ball = np.zeros((HEIGHT, WIDTH), np.float32)
    ball[15:25, 20:30] = 1
    things = reader(even(0), even(0), ball)
    way = {"move": [6, -3], "turn": 90, "about": [30, 20]}
    own = {"move": [2, 5]}
    got = make(build(card(MASTS, placing=way), card(BALLOON, follow="masts", placing=own)), things).pixels
    bundle = {"id": "b", "picture": {"kind": "bundle", "build": [card(BALLOON, placing=own)]}, "placing": way}
    assert np.array_equal(got, make(build(bundle), things).pixels)
    with pytest.raises(UmbraxError, match="masts -> balloon -> masts"):
        build(card(MASTS, follow="balloon"), card(BALLOON, follow="masts"))
    with pytest.raises(UmbraxError, match="nothing to follow"):
        build(card(MASTS, follow="masts"))


def test_light_wraps_round_a_tucked_card_from_behind_it_and_not_from_what_it_is_behind() -> None:
    """A bright mast beside a disc, before and behind: the wrap of the tucked disc is that over the sky alone, with the other object."""
    y, x = np.mgrid[:HEIGHT, :WIDTH]
    mast, other = ((x >= 34) & (x < 38)).astype(np.float32), (x >= 44).astype(np.float32)
    disc = (np.hypot(x - 24, y - 20) < 12).astype(np.float32)
    scene = reader(mast, other, disc, (5.0, 0.7, 0.1, 0.2))
    wrapped = card(BALLOON, treatments=[{"id": "w", "kind": "wrap", "width": 8.0, "size": 6.0}])
    left = np.s_[:, :34]
    tucked = make(build(SKY, MASTS, card(wrapped, tuck=[TUCK])), scene).pixels[left]
    before = make(build(SKY, MASTS, wrapped), scene).pixels[left]
    alone = make(build(SKY, card(MASTS, cut=["other"]), wrapped), scene).pixels[left]
    assert tucked == pytest.approx(alone, abs=1e-5)
    assert np.abs(before - alone).max() > 0.05, "the mast would have been seen"
    away = make(build(SKY, MASTS, card(wrapped, tuck=[{**TUCK, "frames": [5, 9]}])), scene).pixels[left]
    assert np.array_equal(away, before), "on frames on which it is not tucked it is"
