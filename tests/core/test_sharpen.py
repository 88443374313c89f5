"""Sharpen: unsharp masking against SciPy, and no rim for detail."""

import numpy as np
import scipy.ndimage

from arrays import ArrayReader, ArraySource, assert_near, disc, make, shot_of

SHAPE = (60, 80)


def sharpened(pixels: np.ndarray, kind: str = "pass", **settings: float) -> np.ndarray:
    card = {"id": "a", "picture": {"kind": kind, "source": "station"}}
    if settings:
        card["treatments"] = [{"id": "t", "kind": "sharpen", **settings}]
    shot = shot_of([card], width=80, height=60).model_copy(update={"mattes": {}})
    return make(shot, ArrayReader(station=ArraySource({"rgba": ("beauty", pixels)}))).pixels


def test_an_opaque_plate_is_scipys_unsharp_mask() -> None:
    """c + strength (c - gaussian(c)), scipy.ndimage.gaussian_filter in float64 with the border going on."""
    plate = (0.3 + 0.5 * np.random.default_rng(1).random((*SHAPE, 3))).astype(np.float32)
    for size, strength in ((1.0, 0.4), (2.5, 0.8)):
        blurred = scipy.ndimage.gaussian_filter(plate.astype(np.float64), (size, size, 0), mode="nearest", truncate=6)
        wanted = np.maximum(plate + strength * (plate - blurred), 0)
        assert_near(sharpened(plate, "plate", size=size, strength=strength)[..., :3], wanted, 2e-3)


def test_an_even_element_has_no_detail_and_keeps_its_alpha() -> None:
    alpha = disc(*SHAPE, 30, 40, 17)[..., None]
    even = np.concatenate([alpha * np.float32([0.7, 0.2, 0.1]), alpha], axis=2).astype(np.float32)
    got = sharpened(even, size=3.0, strength=2.0)
    assert_near(got, even, 1e-5)
    assert np.array_equal(got[..., 3:], alpha)


def test_nothing_gets_below_zero_that_was_not() -> None:
    picture = np.zeros((*SHAPE, 4), np.float32)
    picture[..., 3] = 1
    picture[20:40, 30:50, :3] = 5
    picture[5, 5, 0] = -0.25
    got = sharpened(picture, size=2.0, strength=3.0)
    assert got[5, 5, 0] == np.float32(-0.25)
    assert np.array_equal(np.argwhere(got[..., :3] < 0), [[5, 5, 0]])
    assert got[25, 31, 1] > 5.5
