"""Cast shadow, colour fringe and lens warp by hand."""

from typing import Any

import numpy as np
import pytest
from scipy.ndimage import map_coordinates

from arrays import ArraySource, assert_near, disc, element, made_of

HEIGHT, WIDTH = 120, 160
BALL = disc(HEIGHT, WIDTH, 50.0, 60.0, 18.0)


def made(cards: list[dict[str, Any]], **sources: np.ndarray) -> np.ndarray:
    return made_of(cards, {name: ArraySource({"rgba": ("beauty", rgba.astype(np.float32))}) for name, rgba in sources.items()})


def flat(colour: tuple[float, float, float], alpha: np.ndarray | float = 1.0) -> np.ndarray:
    a = np.broadcast_to(np.float32(alpha), (HEIGHT, WIDTH))[..., None]
    return np.concatenate([np.array(colour, np.float32) * a, a], axis=2)


def cast(**settings: Any) -> dict[str, Any]:
    return {"id": "c", "kind": "cast", **settings}


def test_a_shadow_has_its_offset_and_its_mass() -> None:
    """Its alpha adds up to density times the element's, about a place moved by the distance at the angle."""
    ball = flat((0.0, 0.0, 0.0), BALL)
    # only what is not under the element is seen of it: a shadow of a colour, thrown clear of it
    treatments = [cast(distance=45.0, angle=-20.0, softness=0.1, density=0.5, colour=[0, 0, 1])]
    blue = made([element("ball", treatments=treatments)], ball=ball)[..., 2]
    assert blue.sum() == pytest.approx(0.5 * BALL.sum(), rel=1e-3)
    y, x = np.mgrid[:HEIGHT, :WIDTH] + 0.5
    angle = np.radians(-20.0)
    assert (x * blue).sum() / blue.sum() == pytest.approx(60.0 + 45 * np.cos(angle), abs=0.02)
    assert (y * blue).sum() / blue.sum() == pytest.approx(50.0 - 45 * np.sin(angle), abs=0.02)


def test_a_hard_shadow_multiplies_what_is_behind_and_lies_under_its_element() -> None:
    plate, ball = flat((0.8, 0.6, 0.4)), flat((1.0, 0.2, 0.1), BALL)
    cards = [element("plate"), element("ball", treatments=[cast(distance=20.0, angle=0.0, softness=0.0, density=0.75)])]
    got = made(cards, plate=plate, ball=ball)
    assert got[50, 60] == pytest.approx([1.0, 0.2, 0.1, 1.0], abs=1e-6)
    assert got[50, 90, :3] == pytest.approx(np.array([0.8, 0.6, 0.4]) * 0.25, abs=1e-5)
    assert got[50, 20] == pytest.approx([0.8, 0.6, 0.4, 1.0])
    # a glassy element shows the shadow under it
    glass = flat((0.0, 0.0, 0.0), 0.5 * BALL)
    seen = made([element("plate"), element("ball", treatments=[cast(distance=2.0, softness=0.0, density=1.0)])], plate=plate, ball=glass)
    assert seen[50, 60, 0] == pytest.approx(0.8 * 0.5 * 0.5, abs=1e-5)


def test_a_shadow_is_cut_off_by_nothing_and_softer_the_farther_it_falls() -> None:
    near, far = (
        made([element("plate"), element("ball", treatments=[cast(distance=d, angle=0.0, softness=0.2)])],
             plate=flat((1.0, 1.0, 1.0)), ball=flat((1.0, 1.0, 1.0), BALL))[50, :, 0]
        for d in (25.0, 60.0)
    )  # fmt: skip
    assert np.abs(np.diff(near)).max() > 1.8 * np.abs(np.diff(far)).max()
    assert far[119] < 0.99, "beyond the element's own window"


def test_an_elements_opacity_and_amount_thin_its_shadow() -> None:
    cards = [element("plate"), element("ball", opacity=0.5, treatments=[cast(distance=30.0, angle=0.0, softness=0.0, density=0.8, amount=0.5)])]
    got = made(cards, plate=flat((1.0, 1.0, 1.0)), ball=flat((0.0, 0.0, 0.0), BALL))
    assert got[50, 90, 0] == pytest.approx(1 - 0.8 * 0.5 * 0.5, abs=1e-5)


def test_a_shadow_through_a_matte_is_that_of_its_part() -> None:
    """All of that part, and wherever it falls."""
    two = np.maximum(BALL, disc(HEIGHT, WIDTH, 50.0, 20.0, 12.0))
    treatments = [cast(distance=40.0, angle=-90.0, softness=0.1, density=0.5, colour=[0, 0, 1], through="left")]
    mattes = {"left": {"kind": "shape", "form": "ellipse", "points": [20, 50, 18, 18]}}
    rgba = {"ball": ArraySource({"rgba": ("beauty", flat((0.0, 0.0, 0.0), two).astype(np.float32))})}
    blue = made_of([element("ball", treatments=treatments)], rgba, mattes=mattes)[..., 2]
    assert blue.sum() == pytest.approx(0.5 * np.pi * 144, rel=0.01)
    assert blue[90, 20] == pytest.approx(0.5, abs=0.01)
    assert blue[80:, 42:].max() < 0.01, "nothing of the ball's own"


def test_a_fringe_moves_red_out_and_blue_in_by_its_size_at_the_corner() -> None:
    """A step: where red, green and blue are half of it, at a place a third of the way to the corner."""
    step = np.clip(np.arange(WIDTH) - 105.0 + 0.5, 0, 1)
    rgba = np.dstack([np.broadcast_to(step, (HEIGHT, WIDTH))] * 3 + [np.ones((HEIGHT, WIDTH))])
    got = made([element("step", treatments=[{"id": "f", "kind": "fringe", "size": 6.0}])], step=rgba)
    middle = HEIGHT // 2
    places = [np.interp(0.5, got[middle, 90:120, c], np.arange(90, 120) + 0.5) for c in range(3)]
    moved = (105.5 - WIDTH / 2) * 6.0 / (np.hypot(WIDTH, HEIGHT) / 2)
    assert places[1] == pytest.approx(105.5, abs=1e-4)
    assert places[0] - places[1] == pytest.approx(moved, abs=0.02)
    assert places[1] - places[2] == pytest.approx(moved, abs=0.02)


def test_the_alpha_of_a_fringed_element_holds_all_of_its_colours() -> None:
    got = made([element("ball", treatments=[{"id": "f", "kind": "fringe", "size": 8.0}])], ball=flat((0.9, 0.9, 0.9), BALL))
    assert (got[..., :3] <= 0.9 * got[..., 3:] + 0.09).all()


def test_a_warp_is_its_formula() -> None:
    """Against scipy.ndimage.map_coordinates, cubic, on a smooth picture; the interpolations differ by less than a step of 8 bits."""
    y, x = np.mgrid[:HEIGHT, :WIDTH].astype(np.float64)
    smooth = 0.5 + 0.2 * np.sin(x / 9) + 0.2 * np.cos(y / 7)
    rgba = np.dstack([smooth] * 3 + [np.ones((HEIGHT, WIDTH))])
    got = made([element("wall", treatments=[{"id": "w", "kind": "warp", "k1": 0.12, "k2": -0.05, "centre": [70, 66]}])], wall=rgba)
    px, py = x + 0.5 - 70, y + 0.5 - 66
    r2 = (px**2 + py**2) / (WIDTH**2 + HEIGHT**2) * 4
    k = 1 + 0.12 * r2 - 0.05 * r2**2
    at = np.array([66 + py * k - 0.5, 70 + px * k - 0.5])
    inside = (at[0] > 2) & (at[0] < HEIGHT - 3) & (at[1] > 2) & (at[1] < WIDTH - 3)
    assert inside.mean() > 0.7
    assert got[inside][:, 0] == pytest.approx(map_coordinates(smooth, at, order=3)[inside], abs=1 / 510)
    # what it looks past goes on where the frame cuts it off, and is not there where it ends
    beside = (at[1] < -2) | (at[1] > WIDTH + 1)
    assert_near(got[beside][:, 0], map_coordinates(smooth, at, order=3, mode="nearest")[beside], 0.02)
    rgba[:, [0, 1, -2, -1]] = 0
    ends = made([element("wall", treatments=[{"id": "w", "kind": "warp", "k1": 0.12, "k2": -0.05, "centre": [70, 66]}])], wall=rgba)
    assert not ends[beside].any()
