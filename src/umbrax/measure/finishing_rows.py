"""Rows of finishing treatments on a card, through the engine, each against what general libraries need for the same, with the same threads."""

from typing import Any

import cv2
import numpy as np

from .assembling_rows import SKY, TREATMENT, changing, on_station, shot_with
from .engine_rows import HD
from .row import Row, Work

Pixels = Any


def _picture(channels: int = 4) -> Pixels:
    cv2.setNumThreads(2)
    return np.random.default_rng(8).random((HD[1], HD[0], channels), np.float32)


def _treated(kind: str, changes: str, value: float) -> Work:
    """One card with one treatment that changes by a hair, over a plate."""
    return changing(shot_with(SKY, on_station({"kind": kind})), (*TREATMENT, changes), value)


def _over(top: Pixels, below: Pixels) -> Pixels:
    return top + below * (1 - top[..., 3:])


def _soften() -> tuple[Work, Work]:
    picture, below = _picture(), _picture()
    return _treated("soften", "size", 2.0), lambda: _over(cv2.GaussianBlur(picture, (0, 0), 2.0), below)


def _sharpen() -> tuple[Work, Work]:
    picture, below = _picture(), _picture()

    def plain() -> object:
        return _over(cv2.addWeighted(picture, 1.5, cv2.GaussianBlur(picture, (0, 0), 1.5), -0.5, 0), below)

    return _treated("sharpen", "strength", 0.5), plain


def _haze() -> tuple[Work, Work]:
    picture, below, depth = _picture(), _picture(), _picture(1)

    def plain() -> object:
        part = 1 - np.exp(np.float32(-0.02) * depth)
        hazy = picture + (np.float32(0.5) * picture[..., 3:] - picture) * part
        hazy[..., 3] = picture[..., 3]
        return _over(hazy, below)

    return _treated("haze", "density", 0.02), plain


def _vignette() -> tuple[Work, Work]:
    picture, below = _picture(), _picture()
    y, x = np.mgrid[-1 : 1 : HD[1] * 1j, -1 : 1 : HD[0] * 1j].astype(np.float32)

    def plain() -> object:
        t = np.clip(np.hypot(x, y) - 0.45, 0, 1)
        darker = picture * (1 - np.float32(0.3) * t * t * (3 - 2 * t))[..., None]
        darker[..., 3] = picture[..., 3]
        return _over(darker, below)

    return _treated("vignette", "strength", 0.3), plain


def _warp() -> tuple[Work, Work]:
    picture, below = _picture(), _picture()
    y, x = np.mgrid[: HD[1], : HD[0]].astype(np.float32)
    return _treated("warp", "k1", 0.05), lambda: _over(cv2.remap(picture, x * 0.98, y * 0.98, cv2.INTER_CUBIC), below)


def _fringe() -> tuple[Work, Work]:
    picture, below = _picture(), _picture()

    def plain() -> object:
        ways = (np.array([[k, 0, 0], [0, k, 0]], np.float32) for k in (1.001, 0.999))
        red, blue = (cv2.warpAffine(picture, way, HD, flags=cv2.INTER_CUBIC) for way in ways)
        return _over(np.dstack([red[..., 0], picture[..., 1], blue[..., 2], picture[..., 3]]), below)

    return _treated("fringe", "size", 2.0), plain


def _edge() -> tuple[Work, Work]:
    """Choked: a distance to the contour from both sides, and the colours around it."""
    picture, below = _picture(), _picture()
    inside = (picture[..., 3] > 0.5).astype(np.uint8)

    def plain() -> object:
        away = cv2.distanceTransform(inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) - cv2.distanceTransform(
            1 - inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE
        )
        around = cv2.GaussianBlur(picture, (0, 0), 2.0)
        alpha = np.clip(away - 1.5, 0, 1)[..., None]
        colour = np.where(picture[..., 3:] > 0, picture / np.maximum(picture[..., 3:], 1e-3), around / np.maximum(around[..., 3:], 1e-6))
        return _over(colour * alpha, below)

    return _treated("edge", "grow", -2.0), plain


FINISHING_ROWS = tuple(
    Row(f"{name} on a card, 1920x1080", reference, reach, prepare, True)
    for name, reference, reach, prepare in (
        ("soften 2", "cv2.GaussianBlur and NumPy's over", 1.5, _soften),
        ("sharpen", "cv2.GaussianBlur, addWeighted and NumPy's over", 1.5, _sharpen),
        ("haze", "the same in NumPy", 2.5, _haze),
        ("vignette", "the same in NumPy", 3, _vignette),
        ("lens warp", "cv2.remap, cubic, and NumPy's over", 1, _warp),
        ("colour fringe", "cv2.warpAffine twice, cubic, and NumPy's over", 1.2, _fringe),
        ("edge choked by 2", "cv2.distanceTransform and GaussianBlur, NumPy", 1.2, _edge),
    )
)
