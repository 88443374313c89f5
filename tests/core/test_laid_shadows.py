"""Shadows laid down on the ground: by hand, against OpenCV's affine maps and the normal distribution."""

import math
from typing import Any

import cv2
import numpy as np
import pytest
from scipy.stats import norm

from arrays import ArrayReader, ArraySource, assert_near, disc, element, made_of
from umbrax.core.document.text import read_data
from umbrax.core.kernels.resample import reduce_area
from umbrax.core.picture import Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.steps import Step

HEIGHT, WIDTH = 120, 160
FRAME = Window(0, 0, WIDTH, HEIGHT)
BALL = disc(HEIGHT, WIDTH, 50.0, 60.0, 18.0)


def source_of(alpha: np.ndarray) -> dict[str, ArraySource]:
    return {"thing": ArraySource({"rgba": ("beauty", np.stack([0 * alpha] * 3 + [alpha], axis=2).astype(np.float32))})}


def box(top: int, bottom: int, left: int, right: int) -> np.ndarray:
    alpha = np.zeros((HEIGHT, WIDTH), np.float32)
    alpha[top:bottom, left:right] = 1
    return alpha


def shadow_step(alpha: np.ndarray, **settings: Any) -> Step:
    """The shadow by itself, laid down all the way unless told."""
    treatment = {"id": "c", "kind": "cast", "lay_down": 1.0, "softness": 0.0, "density": 1.0, **settings}
    shot = read_data({
        "umbrax": 1, "name": "test", "format": {"width": WIDTH, "height": HEIGHT, "first": 1, "last": 1},
        "sources": {"thing": {"path": "t.exr"}}, "build": [element("thing", treatments=[treatment])],
    })  # fmt: skip
    return ShotPlanner(shot, 1, ArrayReader(**source_of(alpha))).laid("thing", "c")


def shadow(alpha: np.ndarray, window: Window = FRAME, **settings: Any) -> np.ndarray:
    """Its alpha on a window."""
    return evaluate(shadow_step(alpha, **settings), window, PictureCache(1 << 28)).pixels[..., 3]


def centre(cover: np.ndarray) -> tuple[float, float]:
    y, x = np.mgrid[: cover.shape[0], : cover.shape[1]] + 0.5
    return float((x * cover).sum() / cover.sum()), float((y * cover).sum() / cover.sum())


@pytest.mark.parametrize(("angle", "length"), [(60.0, 0.5), (120.0, 0.8), (-35.0, 0.4), (200.0, 0.6)])
def test_what_stands_so_high_above_the_foot_falls_so_far_from_it(angle: float, length: float) -> None:
    """A box 20 to 40 above the foot: the middle of its shadow, and as much of it as it is lower."""
    got = shadow(box(40, 60, 70, 80), foot=[0, 80], angle=angle, length=length, density=0.5)
    across, down = length * math.cos(math.radians(angle)), -length * math.sin(math.radians(angle))
    assert centre(got) == pytest.approx((75 + 30 * across, 80 + 30 * down), abs=0.02)
    assert got.sum() == pytest.approx(0.5 * 200 * abs(down), rel=2e-3)


def affine(
    alpha: np.ndarray, foot: float, angle: float, length: float, laid: float = 1.0, distance: float = 24.0, more: Any = (0, 0)
) -> np.ndarray:
    """A hard shadow by cv2.warpAffine on pixels eight times as fine, each the mean of its 64. What stands h above the foot falls `more` x h
    farther to the right and down."""
    fine = 8
    right, down = math.cos(math.radians(angle)), -math.sin(math.radians(angle))
    aside, lower = laid * length * right + more[0], 1 - laid - laid * length * down - more[1]
    away = (1 - laid) * distance
    matrix = np.array([[1, -aside, away * right + aside * foot], [0, lower, foot - lower * foot + away * down]])
    matrix[:, 2] = fine * (matrix[:, 2] + matrix[:, :2] @ [0.5, 0.5] / fine - 0.5 / fine)  # between centres of fine pixels
    large = np.kron(alpha, np.ones((fine, fine), np.float32))
    return reduce_area(cv2.warpAffine(large, matrix, (fine * WIDTH, fine * HEIGHT), flags=cv2.INTER_LINEAR)[..., None], fine)[..., 0]


@pytest.mark.parametrize("settings", [
    {"angle": 40.0, "length": 0.6}, {"angle": -50.0, "length": 1.4}, {"angle": 155.0, "length": 1.0}, {"angle": 80.0, "length": 1.1},
    {"angle": 30.0, "length": 0.8, "laid": 0.5, "distance": 12.0}, {"angle": -60.0, "length": 0.5, "laid": 0.3, "distance": 7.0},
])  # fmt: skip
def test_a_hard_shadow_is_an_affine_map_of_the_alpha(settings: dict[str, Any]) -> None:
    expected = affine(BALL, 85.0, **settings)
    got = shadow(BALL, foot=[0, 85], **({"lay_down": settings.pop("laid")} if "laid" in settings else {}), **settings)
    assert np.abs(got - expected).max() < 0.05, "of a pixel at the border"
    assert got.sum() == pytest.approx(expected.sum(), rel=2e-3)


@pytest.mark.parametrize(("angle", "length", "softness"), [(70.0, 0.8, 0.15), (-50.0, 1.0, 0.1), (35.0, 1.2, 0.06)])
def test_a_soft_shadow_is_that_of_a_large_light(angle: float, length: float, softness: float) -> None:
    """The mean of hard shadows, each longer or shorter and turned, by as much as a normal distribution says (14 by 14 equally likely ones);
    a hard shadow is ten times as far from it."""
    alpha, foot = np.maximum(BALL, box(50, 84, 57, 62)), 84.0
    more = softness * length * norm.ppf((np.arange(14) + 0.5) / 14)
    expected = sum(affine(alpha, foot, angle, length, more=(x, y)) for x in more for y in more) / len(more) ** 2
    got, hard = (shadow(alpha, foot=[0, foot], angle=angle, length=length, softness=one) for one in (softness, 0.0))
    away, hard_away = (np.sqrt(np.mean((one - expected)[expected > 0.01] ** 2)) for one in (got, hard))
    assert away < 0.03
    assert away < 0.15 * hard_away
    assert got.sum() == pytest.approx(expected.sum(), rel=0.02)


def test_without_a_foot_it_stands_on_its_lowest_place() -> None:
    for alpha, foot in ((box(40, 60, 70, 80), 60.0), (BALL, 68.0), (0.4 * box(30, 50, 10, 40), 50.0)):
        settings = {"angle": 110.0, "length": 0.5}
        assert_near(centre(shadow(alpha, **settings)), centre(shadow(alpha, foot=[0, foot], **settings)), 0.05)
    assert not shadow(np.zeros((HEIGHT, WIDTH))).any()


def test_it_is_softer_the_farther_it_fell() -> None:
    """The side of a wall that falls towards who looks: at h from its foot the normal distribution of sigma softness x h."""
    got = shadow(box(0, 60, 0, 80), foot=[0, 60], angle=-90.0, length=1.0, softness=0.2, density=1.0)
    for h, within in ((4, 0.03), (10, 0.015), (21, 0.01), (35, 0.01)):
        expected = norm.sf((np.arange(50, 110) + 0.5 - 80) / (0.2 * (h + 0.5)))
        assert_near(got[60 + h, 50:110], expected, within)


def test_what_lies_below_the_foot_casts_nothing_on_the_ground() -> None:
    """It would fall towards the light; on a wall it does cast, and in between as much less as it is laid down."""
    settings = {"foot": [0, 60.25], "angle": 60.0, "length": 1.0, "distance": 30.0}
    tall = math.sin(math.radians(60.0))
    got = shadow(box(40, 80, 70, 80), **settings)
    assert got.sum() == pytest.approx(202.5 * tall, rel=2e-3)
    assert not got[62:].any()
    leaning = shadow(box(40, 80, 70, 80), lay_down=0.25, **settings)
    assert leaning.sum() == pytest.approx((202.5 + 0.75 * 197.5) * (0.75 + 0.25 * tall), rel=2e-3)


@pytest.mark.parametrize("settings", [{"foot": [0, 70]}, {}, {"lay_down": 0.6, "softness": 0.3}, {"angle": -20.0, "softness": 0.0}])
def test_nothing_cuts_it_off_and_a_window_of_it_is_the_same(settings: dict[str, Any]) -> None:
    """All of it is in its domain, beyond the frame too."""
    step = shadow_step(BALL, **{"angle": 20.0, "length": 4.0, "softness": 0.05, **settings})
    whole = evaluate(step, step.domain.grown(60), PictureCache(1 << 28))
    assert not FRAME.contains(step.domain)
    assert whole.pixels[..., 3].sum() > 1.1 * BALL.sum()
    beside = np.ones(whole.pixels.shape[:2], bool)
    beside[60:-60, 60:-60] = False
    assert not whole.pixels[beside].any()
    part = Window(33, 21, 121, 90)
    assert np.array_equal(evaluate(step, part, PictureCache(1 << 28)).pixels, whole.crop(part).pixels)


def test_one_that_falls_within_the_pictures_plane_has_no_area() -> None:
    assert not shadow(BALL, angle=0.0).any()


def test_it_lies_under_its_element_and_over_what_is_behind() -> None:
    plate = ArraySource({"rgba": ("beauty", np.ones((HEIGHT, WIDTH, 3), np.float32))})
    cast = {"id": "c", "kind": "cast", "lay_down": 1.0, "angle": -90.0, "length": 1.0, "softness": 0.0, "density": 0.75}
    got = made_of([element("plate"), element("thing", treatments=[cast])], {"plate": plate, **source_of(box(20, 60, 70, 90))})
    assert_near(got[60:100, 70:90, :3], np.full((40, 20, 3), 0.25), 1e-5)
    assert not got[20:60, 70:90, :3].any()
    assert_near(got[101:, :, :3], np.ones((HEIGHT - 101, WIDTH, 3)), 1e-6)
