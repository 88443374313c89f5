"""Pictures of a finding: the mask lies where the fault is, and nowhere else."""

import numpy as np
import pytest

from checkup_frames import HEIGHT, WIDTH, ArrayFrame, changed, found, good
from umbrax.core.checkup import RULES, SHOWN, Examined, where


def places(rule: str, frame: ArrayFrame, name: str) -> set[tuple[int, int]]:
    mask = where(rule, Examined(frame), name)
    assert mask.shape == (HEIGHT, WIDTH)
    return {(int(x), int(y)) for y, x in np.argwhere(mask > 0)}


def box(x0: int, y0: int, x1: int, y1: int) -> set[tuple[int, int]]:
    return {(x, y) for x in range(x0, x1) for y in range(y0, y1)}


def test_every_shown_rule_is_a_rule() -> None:
    assert set(SHOWN) <= set(RULES.kinds())


def test_light_that_is_missing_is_shown_where_it_is_missing() -> None:
    beauty = good().passes["rgba"][1].copy()
    beauty[30:34, 40:45, :3] += 0.25
    assert places("sum-residue", changed(good(), rgba=beauty), "rgba") == box(40, 30, 45, 34)


def test_impossible_pixels_are_shown() -> None:
    diffuse = good().passes["diffuse"][1].copy()
    diffuse[10, 20, 0], diffuse[11, 25, 1] = np.nan, -1
    assert places("bad-pixels", changed(good(), diffuse=diffuse), "diffuse") == {(20, 10), (25, 11)}


def test_leaks_are_shown_where_mattes_overlap() -> None:
    mattes = np.zeros((HEIGHT, WIDTH, 3), np.float32)
    mattes[30:36, 34:40] = 0.8
    assert places("matte-leak", changed(good(), packed=("rgb_matte", mattes)), "packed") == box(34, 30, 40, 36)


def test_numbers_between_whole_ones_are_shown() -> None:
    index = np.zeros((HEIGHT, WIDTH, 1), np.float32)
    index[20:40, 30:50] = 3
    index[25, 30] = 1.4
    assert places("index-smoothed", changed(good(), index=("object_index", index)), "index") == {(30, 25)}


@pytest.mark.parametrize("rule", ["no-alpha", "frames", "what is no rule"])
def test_rules_without_a_place_give_an_empty_picture(rule: str) -> None:
    assert not where(rule, Examined(good()), "rgba").any()


@pytest.mark.parametrize("rule", sorted(set(SHOWN) - {"baked-backdrop", "ids-damaged"}))
def test_a_good_frame_shows_nothing(rule: str) -> None:
    name = {"index-smoothed": "index", "matte-leak": "packed", "depth-meaning": "depth"}.get(rule, "rgba")
    index = np.zeros((HEIGHT, WIDTH, 1), np.float32)
    packed = np.zeros((HEIGHT, WIDTH, 3), np.float32)
    frame = changed(good(), index=("object_index", index), packed=("rgb_matte", packed))
    assert places(rule, frame, name) == set()


def test_findings_say_whether_they_lie_somewhere() -> None:
    diffuse = good().passes["diffuse"][1].copy()
    diffuse[10, 20, 0] = np.nan
    told = {finding.rule: finding.placed for finding in found(changed(good(), diffuse=diffuse, emission=good().passes["emission"][1][..., :3]))}
    assert told["bad-pixels"]
    assert not told["no-alpha"]
    assert all(rule in SHOWN for rule, placed in told.items() if placed)
