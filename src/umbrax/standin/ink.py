"""Ink lines of a frame: where one object ends before another, and where a surface breaks; black with an alpha."""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from .casting.packets import SAMPLES
from .coverage import ranked
from .frames import Frame

INK = np.array([0.030, 0.024, 0.032], np.float32)
CREASE = 0.75  # cosine below which two neighbours belong to different faces
WIDTH_PX = 0.85  # the standard deviation of a line's rim


def ink_lines(frame: Frame) -> NDArray[np.float32]:
    """Associated RGBA `float32[h, w, 4]`: thick where something stands before the sky, thinner where surfaces break."""
    objects = frame.scene.objects
    kind_of = np.array([objects.index(thing.object) for thing in frame.scene.things])
    numbers = np.arange(1, len(objects) + 1, dtype=np.uint32)
    foremost = ranked(frame.seen, frame.counts, kind_of, numbers, 1, SAMPLES)[0][0].astype(np.int32)
    outline, crease = np.zeros(foremost.shape, np.float32), np.zeros(foremost.shape, np.float32)
    for axis in (0, 1):
        here, there = _neighbours(foremost, axis)
        differs = here != there
        sky = (here == 0) | (there == 0)
        near, far = _neighbours(frame.normal, axis)
        breaks = ~differs & ~sky & ((near * far).sum(axis=-1) < CREASE)
        for plane, found in ((outline, differs & sky), (crease, (differs & ~sky) | breaks)):
            first, second = _neighbours(plane, axis)
            first[found] = 1.0
            second[found & sky] = 1.0
    strength = cv2.GaussianBlur(np.maximum(outline, 0.8 * crease), (0, 0), WIDTH_PX) * 1.9
    alpha = np.clip(strength, 0, 1).astype(np.float32)
    alpha[alpha < 1 / 512] = 0
    return np.concatenate([alpha[..., None] * INK, alpha[..., None]], axis=2)


def _neighbours(plane: NDArray[Any], axis: int) -> tuple[NDArray[Any], NDArray[Any]]:
    return (plane[:-1], plane[1:]) if axis == 0 else (plane[:, :-1], plane[:, 1:])
