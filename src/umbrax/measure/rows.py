"""What is measured, and against what."""

from collections.abc import Callable
from typing import Any

import cv2
import numpy as np

from umbrax.core.joins import JOINS, join
from umbrax.core.kernels import blank, blur, ids
from umbrax.core.kernels.feeding import feed_light
from umbrax.core.mattes import Refine
from umbrax.core.mattes.refining import refine_planes
from umbrax.core.picture import Picture, Window
from umbrax.core.treatments import TREATMENTS
from umbrax.core.treatments.bloom import BloomParams, level_weights

from .row import Row, Work

HD = (1080, 1920)


def _rgba(height: int, width: int, seed: int = 0) -> np.ndarray:
    """As the engine makes its pictures: on a cache line."""
    pixels = blank(height, width, 4)
    np.random.default_rng(seed).random(out=pixels, dtype=np.float32)
    return pixels


def _over() -> tuple[Work, Work]:
    """Two pictures read and one written: three halves of what one copy of one and a half pictures moves."""
    top, below, out = _rgba(*HD), _rgba(*HD, 1), _rgba(*HD, 2)
    source, target = np.zeros(top.size * 3 // 2, np.float32), np.ones(top.size * 3 // 2, np.float32)
    half = source.size // 2

    def copy() -> None:
        from concurrent.futures import ThreadPoolExecutor

        with ThreadPoolExecutor(2) as pool:
            list(pool.map(lambda part: np.copyto(target[part], source[part]), (slice(0, half), slice(half, None))))

    return (lambda: JOINS.get("over").linear(top, below, np.float32(0.9), out)), copy


def _gaussian(sigma: float) -> Callable[[], tuple[Work, Work]]:
    def prepare() -> tuple[Work, Work]:
        picture = _rgba(*HD)
        cv2.setNumThreads(2)
        return (
            lambda: blur.gaussian(picture, sigma, sigma, (0, 0), (0, 0, HD[1], HD[0]), True),
            lambda: cv2.GaussianBlur(picture, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE),
        )

    return prepare


def _bloom() -> tuple[Work, Work]:
    picture = Picture(_rgba(*HD) * 2, Window(0, 0, HD[1], HD[0]))
    size = next(float(s) for s in range(4, 400) if len(level_weights(float(s), 0.7)) == 8)
    params = BloomParams(id="t", kind="bloom", size=size)

    def ours() -> object:
        light = Picture(feed_light(picture.pixels, params.threshold, params.knee, params.limit), picture.window)
        return TREATMENTS.get("bloom").apply(params, light, picture.window, 1)

    return ours, lambda: picture.pixels.copy()


def _planes(rendered: bool) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(4)
    names = rng.integers(1, 2**32, 400, dtype=np.uint32)
    if rendered:
        blocks = rng.integers(0, 400, (6, 54, 96)).repeat(20, axis=1).repeat(20, axis=2)
        picked = names[blocks]
        coverage: np.ndarray = np.zeros((6, *HD), np.float32)
        coverage[0] = 1
        coverage[1, ::20] = coverage[1, :, ::20] = 0.4
        picked = np.where(coverage > 0, picked, np.uint32(0)).astype(np.uint32)
    else:
        picked = names[rng.integers(0, 400, (6, *HD))]
        coverage = rng.random((6, *HD)).astype(np.float32)
    return np.ascontiguousarray(picked), coverage


def _ids(rendered: bool, mattes: int) -> Callable[[], tuple[Work, Work]]:
    def prepare() -> tuple[Work, Work]:
        picked, coverage = _planes(rendered)
        known = np.unique(picked[picked != 0])
        sets = [frozenset(int(i) for i in known[20 * n : 20 * n + 20]) for n in range(mattes)]
        planes = np.concatenate([picked.view(np.float32), coverage])

        def sum_once() -> object:
            with np.errstate(all="ignore"):
                return planes.sum(axis=0)

        return (lambda: ids.pull(picked, coverage, sets[0]) if mattes == 1 else ids.pull_many(picked, coverage, sets)), sum_once

    return prepare


def _choke() -> tuple[Work, Work]:
    """Two discs, choked by 20 pixels with their shares, against one exact distance transform."""
    y, x = np.mgrid[: HD[0], : HD[1]].astype(np.float32)
    large, small = (np.clip(radius - np.hypot(x - cx, y - cy) + 0.5, 0, 1) for cx, cy, radius in ((900, 540, 300), (1500, 300, 60)))
    matte = np.maximum(large, small)
    planes = np.stack([matte, matte, np.ones_like(matte)], axis=2).astype(np.float32)
    solid = (matte > 0.5).astype(np.uint8)
    refine = Refine(grow=-20)
    return (lambda: refine_planes(planes, refine)), (lambda: cv2.distanceTransform(solid, cv2.DIST_L2, cv2.DIST_MASK_PRECISE))


def _grade_ten() -> tuple[Work, Work]:
    """Ten graded, matted elements joined at 960x540, against the same in plain NumPy."""
    height, width = 540, 960
    elements = [_rgba(height, width, seed) for seed in range(10)]
    mattes = [np.random.default_rng(seed).random((height, width, 1), np.float32) for seed in range(10)]
    window = Window(0, 0, width, height)
    treatment = TREATMENTS.get("grade")
    mixed = treatment.mixed
    assert mixed is not None
    params = treatment.params.model_validate({"id": "t", "kind": "grade", "exposure": 0.5, "contrast": 1.2, "saturation": 0.9})

    def ours() -> object:
        picture = np.zeros((height, width, 4), np.float32)
        for element, matte in zip(elements, mattes, strict=True):
            graded = mixed(params, Picture(element, window), Picture(matte, window), window, 1).pixels
            picture = join("over", Picture(graded, window), Picture(picture, window), window).pixels
        return picture

    def plain() -> object:
        luma = np.array([0.2126, 0.7152, 0.0722], np.float32)
        picture = np.zeros((height, width, 4), np.float32)
        for element, matte in zip(elements, mattes, strict=True):
            alpha = element[..., 3:]
            colour: Any = element[..., :3] / np.where(alpha > 0, alpha, 1) * np.float32(2**0.5)
            grey = (colour @ luma)[..., None]
            colour = grey + np.float32(0.9) * (colour - grey)
            colour = np.float32(0.18) * np.maximum(colour / np.float32(0.18), 0) ** np.float32(1.2)
            graded = np.concatenate([colour * alpha, alpha], axis=2)
            mixed = element + (graded - element) * matte
            picture = mixed + picture * (1 - mixed[..., 3:])
        return picture

    return ours, plain


def _demo_rows() -> tuple[Any, ...]:
    from .assembling_rows import ASSEMBLING_ROWS
    from .demo_rows import DEMO_ROWS
    from .engine_rows import ENGINE_ROWS
    from .finishing_rows import FINISHING_ROWS
    from .lens_rows import LENS_ROWS
    from .light_rows import LIGHT_ROWS

    return (*(Row(*row) for row in DEMO_ROWS), *ENGINE_ROWS, *ASSEMBLING_ROWS, *FINISHING_ROWS, *LIGHT_ROWS, *LENS_ROWS)


ROWS: tuple[Row, ...] = (
    Row("over, 1920x1080 RGBA", "a copy moving the same bytes, two threads", 1.5, _over),
    Row("Gaussian, size 10", "cv2.GaussianBlur", 15, _gaussian(10.0), True, True),
    Row("Gaussian, size 25", "cv2.GaussianBlur", 60, _gaussian(25.0), True, True),
    Row("Gaussian, size 100", "cv2.GaussianBlur", 500, _gaussian(100.0), True, True),
    Row("bloom, 7 levels", "a copy of the picture", 3, _bloom),
    Row("ID matte of 20 among 400 names, rendered", "summing the 12 planes once", 1, _ids(True, 1)),
    Row("ID matte of 20 among 400 names, noise", "summing the 12 planes once", 3, _ids(False, 1)),
    Row("12 ID mattes in one pass, rendered", "summing the 12 planes once", 1.5, _ids(True, 12)),
    Row("choke by 20 px, 1920x1080", "cv2.distanceTransform, exact", 1.5, _choke),
    Row("ten graded, matted elements, 960x540", "the same in plain NumPy", 15, _grade_ten, True, True),
    *_demo_rows(),
)
