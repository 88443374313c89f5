"""Outlines against the stand-in: what hides an instrument is left out of the scene, and its whole outline is the truth."""

from functools import cache

import numpy as np
import pytest

from umbrax.core.contours.drawing import begun
from umbrax.core.contours.hiding import bridged, own_edges
from umbrax.core.contours.lines import Line, lines_round
from umbrax.standin.frames import Frame, render
from umbrax.standin.scene import Scene, balloon, observatory, together, without

WIDTH, HEIGHT = 640, 360


@cache
def seen(frame: int) -> Frame:
    return render(scene(frame), WIDTH, HEIGHT)


def scene(frame: int) -> Scene:
    return together(observatory(frame), balloon(frame))


@cache
def bare(frame: int, target: str) -> Frame:
    """The same without what passes before a mast: the cups that spin round it, their arms, and the balloon."""
    passing = [name for name in scene(frame).objects if name.startswith((f"{target}_cup", f"{target}_arm", "balloon"))]
    return render(without(scene(frame), *passing), WIDTH, HEIGHT)


def edges(picture: Frame, target: str) -> list[Line]:
    found = lines_round(picture.object_coverage(target), 0.5, 8.0)
    return [edge for line in found for edge in own_edges(line, picture.depth)]


def farthest(some: np.ndarray, others: np.ndarray) -> tuple[float, float]:
    away = np.array([np.hypot(*(others - point).T).min() for point in some[::2]])
    return float(away.max()), float(away.mean())


@pytest.mark.parametrize(("frame", "target"), [(1012, "mast_2"), (1018, "mast_2"), (1036, "mast_1"), (1047, "mast_2")])
def test_a_bridged_outline_is_that_of_the_scene_without_what_hides(frame: int, target: str) -> None:
    truth = bridged(edges(bare(frame, target), target), bare(frame, target).depth)
    whole = bridged(edges(seen(frame), target), seen(frame).depth)
    assert len(truth) == len(whole) == 1
    assert farthest(whole[0].points, truth[0].points)[0] < 3.5
    for one, other in ((whole, truth), (truth, whole)):
        assert farthest(one[0].points, other[0].points)[1] < 0.3


@pytest.mark.parametrize(("frame", "target"), [(1012, "mast_2"), (1030, "mast_2"), (1043, "mast_1")])
def test_an_open_outline_draws_nothing_along_what_hides(frame: int, target: str) -> None:
    opened, truth = edges(seen(frame), target), lines_round(bare(frame, target).object_coverage(target), 0.5, 8.0)
    assert len(opened) > 1
    for line in opened:
        assert not line.closed
        # the corner at either end aside, where the two edges meet
        assert len(line.points) < 14 or farthest(line.points[6:-6], truth[0].points)[0] < 0.5


def test_the_start_stays_on_the_part_hidden_telescope_while_it_turns() -> None:
    """At most 3 pixels of 1280 from frame to frame, relative to where the telescope moves to."""
    before: np.ndarray | None = None
    for frame in range(1001, 1011):
        picture = render(observatory(frame), WIDTH, HEIGHT, after=observatory(frame + 1))
        covered = picture.object_coverage(*(f"telescope_{part}" for part in ("tube", "hood", "lens", "ring")))
        line = begun(lines_round(covered, 0.5, 8.0)[0], (365.0, 60.0))
        if before is not None:
            assert np.hypot(*(line.points[0] - before)) < 3 * WIDTH / 1280
        inside = line.points[0] + 0.15 * (line.points.mean(axis=0) - line.points[0])
        x, y = np.floor(inside).astype(int)
        assert covered[y, x] == 1
        before = line.points[0] + picture.motion[y, x]
