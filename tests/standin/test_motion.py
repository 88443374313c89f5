"""Motion blur against the stand-in rendered at sub-frames: the mean of 32 while the shutter is open."""

from dataclasses import replace
from functools import cache

import cv2
import numpy as np
import pytest

from arrays import ArraySource, disc, element, made_of
from umbrax.core.colour import srgb_from_linear
from umbrax.standin.frames import Frame, render
from umbrax.standin.scene import BOX, Scene, Thing, balloon, instance, move, observatory, scale

WIDTH, HEIGHT, SHUTTER = 320, 180, 0.5


def staged(time: float) -> Scene:
    """A balloon that flies past before the station, cups that spin, and a wall that stands still."""
    flying = instance(balloon(1010).things, "near", "near", move(-4.9 + 0.9 * time, -0.9 + 0.25 * time, 6.5))
    wall = [Thing("wall", "stone", BOX, move(0, 3, -9) @ scale(14, 12, 0.2))]
    station = observatory(1010)
    return replace(station, things=[*station.things, *flying, *wall], terrace=(0.0, -1.0, 0.0, -1.0))


@cache
def middle() -> Frame:
    return render(staged(0.0), WIDTH, HEIGHT, after=staged(1.0))


def rgba(frame: Frame) -> np.ndarray:
    return np.concatenate([frame.beauty, frame.alpha[..., None]], axis=2)


@cache
def truth() -> np.ndarray:
    times = ((np.arange(32) + 0.5) / 32 - 0.5) * SHUTTER
    return np.mean([rgba(render(staged(float(time)), WIDTH, HEIGHT)) for time in times], axis=0)


def smeared(picture: np.ndarray, right: np.ndarray, down: np.ndarray, depth: np.ndarray | None, shutter: float) -> np.ndarray:
    """By the product: RGBA that moves so many pixels to the next frame."""
    passes = {"rgba": ("beauty", picture.astype(np.float32)), "motion": ("motion", np.dstack([right, down, 0 * down]).astype(np.float32))}
    if depth is not None:
        passes["depth"] = ("depth", depth.astype(np.float32)[..., None])
    treatment = {"id": "m", "kind": "motion_blur", "shutter": shutter}
    return made_of([element("station", treatments=[treatment])], {"station": ArraySource(passes)})


def blurred(with_depth: bool = True) -> np.ndarray:
    frame = middle()
    return smeared(rgba(frame), *np.moveaxis(frame.motion, 2, 0), frame.depth if with_depth else None, SHUTTER)


def each_along_its_own() -> np.ndarray:
    """The plain way: every pixel is the mean of what lies along its own motion."""
    y, x = np.mgrid[:HEIGHT, :WIDTH].astype(np.float32)
    total = np.zeros((HEIGHT, WIDTH, 4), np.float32)
    for t in (np.arange(32) + 0.5) / 32 - 0.5:
        way = (middle().motion * np.float32(t * SHUTTER)).astype(np.float32)
        total += cv2.remap(rgba(middle()), x + way[..., 0], y + way[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return total / 32


def error(got: np.ndarray, where: np.ndarray) -> float:
    seen, wanted = (srgb_from_linear(np.clip(one[..., :3], 0, 1)) for one in (got, truth()))
    return float(np.sqrt(np.mean((seen - wanted)[where] ** 2)))


def moving() -> np.ndarray:
    """Where anything passes while the shutter is open."""
    passing = np.hypot(middle().motion[..., 0], middle().motion[..., 1]) > 0.5
    return np.asarray(cv2.dilate(passing.astype(np.uint8), np.ones((25, 25), np.uint8)) > 0)


def test_motion_blur_is_the_mean_of_the_sub_frames() -> None:
    assert np.hypot(middle().motion[..., 0], middle().motion[..., 1]).max() * SHUTTER > 8, "some of it moves far"
    ours, plain, none = (error(got, moving()) for got in (blurred(), each_along_its_own(), rgba(middle())))
    assert ours < 0.025
    assert ours < 0.35 * plain
    assert ours < 0.35 * none
    assert error(blurred(), ~moving()) < 0.004


def test_what_stands_still_does_not_leak_into_what_moves_past_it() -> None:
    """Where the balloon is seen in every sub-frame nothing of the wall is; where it never is the picture is as it was."""
    wall = blurred(), rgba(middle())
    assert np.abs(wall[0] - wall[1])[~moving()].max() < 1e-5
    always = np.min([render(staged(float(t)), WIDTH, HEIGHT).object_coverage("near_balloon_skin") for t in (-0.25, 0.0, 0.25)], axis=0) == 1
    marked = wall_seen(always)
    assert marked[always].max() < 0.02


def wall_seen(always: np.ndarray) -> np.ndarray:
    """How much of the wall, painted 1 in an otherwise black picture, is seen at each pixel."""
    frame = middle()
    painted = np.zeros((HEIGHT, WIDTH, 4), np.float32)
    painted[..., 3] = 1
    painted[..., 0] = frame.object_coverage("wall") == 1
    return smeared(painted, *np.moveaxis(frame.motion, 2, 0), frame.depth, SHUTTER)[..., 0]


SIZE, WAY = 96, 24.0  # pixels


def ball(x: float = 0.0) -> np.ndarray:
    """How much of each pixel a ball covers that has moved by x."""
    return disc(SIZE, SIZE, SIZE / 2 - 0.2, SIZE / 2 + 0.3 + x, 8.0, samples=16)


def ball_on_its_way() -> np.ndarray:
    return np.mean([ball(x) for x in np.linspace(-WAY / 2, WAY / 2, 49)], axis=0)


@pytest.mark.parametrize("with_depth", [True, False])
@pytest.mark.parametrize("light", [0.9, 20.0])
def test_nothing_of_what_moves_stays_in_the_pixels_that_it_shares(light: float, with_depth: bool) -> None:
    """Motion is that of the middle of each pixel: the still ones at a ball's edge hold some of its light. Against the mean of 49 places."""
    still, inside = 0.2, ball() > 0.5
    picture = np.dstack([ball() * light + (1 - ball()) * still] * 3 + [np.ones((SIZE, SIZE))])
    got = smeared(picture, inside * WAY, 0 * inside, np.where(inside, 5.0, 50.0) if with_depth else None, 1.0)
    wanted = ball_on_its_way() * light + (1 - ball_on_its_way()) * still
    assert np.abs(got[..., 0] - wanted).max() < 0.04 * light


@pytest.mark.parametrize("depth", ["none", "of the middle", "of what is there"])
def test_the_rim_of_an_element_moves_with_it(depth: str) -> None:
    """A pixel covered in part whose middle saw nothing has the motion of nothing; with IDs its depth is told, but not its motion."""
    inside = ball() > 0.5
    there = inside if depth == "of the middle" else ball() > 0
    got = smeared(
        np.dstack([ball() * 0.9] * 3 + [ball()]), inside * WAY, 0 * inside, None if depth == "none" else np.where(there, 5.0, np.inf), 1.0
    )
    assert np.abs(got[..., 3] - ball_on_its_way()).max() < 0.03


def test_what_stands_still_at_another_depth_stays_beside_what_moves() -> None:
    """Glass that stands still before a ball that flies past, one beside the other: each its own thing, as depth says."""
    picture, right, depth = np.zeros((40, 60, 4)), np.zeros((40, 60)), np.full((40, 60), np.inf)
    for columns, light, way, away in ((slice(20, 22), [0.1, 0.0, 0.0, 0.3], 0.0, 3.0), (slice(22, 40), [0.0, 0.8, 0.0, 1.0], 12.0, 9.0)):
        picture[:, columns], right[:, columns], depth[:, columns] = light, way, away
    got = smeared(picture, right, 0 * right, depth, 1.0)
    wanted = np.zeros(60)
    wanted[20:22] = 0.1
    assert got[20, :, 0] == pytest.approx(wanted, abs=1e-4)


def test_without_depth_what_moves_faster_lies_in_front() -> None:
    assert error(blurred(with_depth=False), moving()) < 1.3 * error(blurred(), moving())
