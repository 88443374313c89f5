"""Joins against the published operators: Porter and Duff 1984; W3C Compositing and Blending Level 1, 5 and 10."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from umbrax.core.joins.base import JOINS, join
from umbrax.core.picture import Picture, Window

WINDOW = Window(0, 0, 4, 3)
UNIT = st.floats(0, 1, width=32)


def associated(draw_colour: np.ndarray, alpha: np.ndarray) -> Picture:
    return Picture(np.concatenate([draw_colour * alpha, alpha], axis=2).astype(np.float32), WINDOW)


@st.composite
def pictures(draw: st.DrawFn) -> Picture:
    return associated(draw(arrays(np.float32, (3, 4, 3), elements=UNIT)), draw(arrays(np.float32, (3, 4, 1), elements=UNIT)))


def both(a: Picture, b: Picture) -> tuple[np.ndarray, ...]:
    """Associated colours and alphas in double precision."""
    pa, pb = a.pixels.astype(np.float64), b.pixels.astype(np.float64)
    return pa[..., :3], pa[..., 3:], pb[..., :3], pb[..., 3:]


@given(pictures(), pictures())
@settings(max_examples=60, deadline=None)
def test_over_is_the_operator_of_porter_and_duff(a: Picture, b: Picture) -> None:
    ca, aa, cb, ab = both(a, b)
    expected = np.concatenate([ca + cb * (1 - aa), aa + ab * (1 - aa)], axis=2)
    assert join("over", a, b, WINDOW).pixels == pytest.approx(expected, abs=2e-7)


@given(pictures(), pictures())
@settings(max_examples=30, deadline=None)
def test_under_is_over_the_other_way_round(a: Picture, b: Picture) -> None:
    assert join("under", a, b, WINDOW).pixels == pytest.approx(join("over", b, a, WINDOW).pixels, abs=2e-7)


@given(pictures(), pictures(), pictures())
@settings(max_examples=60, deadline=None)
def test_over_is_associative_within_float_rounding(a: Picture, b: Picture, c: Picture) -> None:
    left = join("over", join("over", a, b, WINDOW), c, WINDOW).pixels
    right = join("over", a, join("over", b, c, WINDOW), WINDOW).pixels
    assert left == pytest.approx(right, abs=4e-7)


def w3c(a: Picture, b: Picture, blend) -> np.ndarray:  # type: ignore[no-untyped-def]
    """co = as (1 - ab) Cs + as ab B(Cb, Cs) + (1 - as) ab Cb; alpha as over (W3C, section 10)."""
    ca, aa, cb, ab = both(a, b)
    cs = np.where(aa > 0, ca / np.where(aa > 0, aa, 1), 0)
    cd = np.where(ab > 0, cb / np.where(ab > 0, ab, 1), 0)
    colour = aa * (1 - ab) * cs + aa * ab * blend(cd, cs) + (1 - aa) * ab * cd
    return np.concatenate([colour, aa + ab * (1 - aa)], axis=2)


@pytest.mark.parametrize(("kind", "blend"), [("multiply", lambda cb, cs: cb * cs), ("screen", lambda cb, cs: cb + cs - cb * cs)])
@given(pictures(), pictures())
@settings(max_examples=60, deadline=None)
def test_blends_equal_their_w3c_definition(kind: str, blend, a: Picture, b: Picture) -> None:  # type: ignore[no-untyped-def]
    assert join(kind, a, b, WINDOW).pixels == pytest.approx(w3c(a, b, blend), abs=5e-7)


@given(pictures(), pictures())
@settings(max_examples=30, deadline=None)
def test_plus_adds_light_and_limits_alpha_to_one(a: Picture, b: Picture) -> None:
    out = join("plus", a, b, WINDOW).pixels
    assert out[..., :3] == pytest.approx(a.pixels[..., :3] + b.pixels[..., :3], abs=1e-7)
    assert out[..., 3] == pytest.approx(np.minimum(1, a.pixels[..., 3] + b.pixels[..., 3]), abs=1e-7)


@pytest.mark.parametrize("kind", JOINS.kinds())
def test_at_opacity_zero_the_picture_below_comes_back_bit_for_bit(kind: str) -> None:
    rng = np.random.default_rng(1)
    a, b = (Picture(rng.normal(0, 50, (3, 4, 4)).astype(np.float32), WINDOW) for _ in range(2))
    assert np.array_equal(join(kind, a, b, WINDOW, 0.0).pixels, b.pixels)


@pytest.mark.parametrize("kind", JOINS.kinds())
def test_joins_never_change_their_inputs_and_give_no_nan_far_outside_the_unit_range(kind: str) -> None:
    rng = np.random.default_rng(2)
    a, b = (Picture(rng.uniform(-10, 1e4, (3, 4, 4)).astype(np.float32), WINDOW) for _ in range(2))
    before = a.pixels.copy(), b.pixels.copy()
    assert np.isfinite(join(kind, a, b, WINDOW, 0.7).pixels).all()
    assert np.array_equal(a.pixels, before[0])
    assert np.array_equal(b.pixels, before[1])


@pytest.mark.parametrize("kind", ["over", "plus", "screen"])
@pytest.mark.parametrize("below", [0.0, 0.2, 1.0, 3.0])
def test_light_without_alpha_is_added_by_every_join_that_can_carry_it(kind: str, below: float) -> None:
    light = associated(np.zeros((3, 4, 3)), np.zeros((3, 4, 1)))
    light.pixels[..., :3] = 0.5
    out = join(kind, light, associated(np.full((3, 4, 3), below), np.ones((3, 4, 1))), WINDOW).pixels
    assert out == pytest.approx(np.broadcast_to([below + 0.5] * 3 + [1], out.shape), abs=1e-6)


@pytest.mark.parametrize("kind", JOINS.kinds())
@pytest.mark.parametrize("side", ["top", "below"])
def test_no_join_jumps_where_alpha_reaches_zero(kind: str, side: str) -> None:
    """A picture with alpha 1e-6 and one with alpha 0 look alike, whatever light they carry."""
    rng = np.random.default_rng(5)
    light = rng.uniform(-0.2, 2, (3, 4, 3)).astype(np.float32)
    other = associated(rng.uniform(0, 2, (3, 4, 3)), rng.uniform(0, 1, (3, 4, 1)))
    nearly, none = (Picture(np.dstack([light, np.full((3, 4), a, np.float32)]), WINDOW) for a in (1e-6, 0))
    pairs = [(p, other) if side == "top" else (other, p) for p in (nearly, none)]
    near, at = (join(kind, top, below, WINDOW, 0.8).pixels for top, below in pairs)
    assert near == pytest.approx(at, abs=2e-5)


def test_screen_keeps_the_larger_of_two_lights_above_one() -> None:
    bright, dim = (associated(np.full((3, 4, 3), v), np.ones((3, 4, 1))) for v in (5.0, 0.5))
    assert join("screen", bright, dim, WINDOW).pixels[0, 0, 0] == 5
    assert join("screen", dim, bright, WINDOW).pixels[0, 0, 0] == 5


def test_a_full_frame_plate_goes_on_outside_whatever_is_put_on_it() -> None:
    for chosen in JOINS:
        assert chosen.edge("empty", "extend") == "extend"
        assert chosen.edge("one", "empty") == "empty"
