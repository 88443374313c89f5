"""IDs in false colour: one colour an ID wherever it stands, and shares of a pixel add up."""

import colorsys
import itertools

import numpy as np

from umbrax.core.kernels.hues import hues


def one(*values: int, shares: tuple[float, ...] = (1.0,)) -> np.ndarray:
    ids = np.array(values, np.uint32).reshape(-1, 1, 1)
    return hues(ids, np.array(shares, np.float32).reshape(-1, 1, 1))[0, 0]


def test_the_same_id_has_the_same_colour_everywhere_and_others_another() -> None:
    rng = np.random.default_rng(1)
    ids = rng.integers(0, 1 << 32, (1, 40, 50), dtype=np.uint32)
    ids[0, :, ::7] = 77
    ids[0, 5] = 0
    picture = hues(ids, np.ones((1, 40, 50), np.float32))
    assert (picture[..., 3] == 1).all()
    assert (picture[5, :, :3] == 0).all(), "nothing there is black"
    assert (picture[ids[0] == 77] == one(77)).all()
    colours = {tuple(colour) for colour in picture[ids[0] != 0][:, :3]}
    assert len(colours) > 0.97 * len(np.unique(ids))


def test_colours_are_told_apart_and_seen() -> None:
    """Names that follow one another, as their hashes may, are far from each other in hue (conversion: the standard library's)."""
    hue = [colorsys.rgb_to_hsv(*map(float, one(number)[:3]))[0] for number in range(1 << 20, (1 << 20) + 12)]
    assert min(abs(a - b) for a, b in itertools.pairwise(hue)) > 0.1
    rng = np.random.default_rng(2)
    lit = hues(rng.integers(1, 1 << 32, (1, 1, 4000), dtype=np.uint32), np.ones((1, 1, 4000), np.float32))[..., :3].max(axis=2)
    assert 0.25 < lit.min() < lit.max() <= 0.81


def test_shares_of_a_pixel_add_up() -> None:
    both = one(5, 900, shares=(0.25, 0.5))
    assert np.abs(both[:3] - (0.25 * one(5)[:3] + 0.5 * one(900)[:3])).max() < 1e-6
    swapped = one(900, 5, shares=(0.5, 0.25))
    assert np.abs(both - swapped).max() < 1e-6
