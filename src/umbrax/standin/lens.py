"""A scene through a real lens: rays from all over it, which meet where it is focused."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from .casting.packets import SAMPLES
from .frames import render
from .scene import Scene


def through_lens(scene: Scene, width: int, height: int, *, radius: float, sharp_at: float, rays: int = 64) -> NDArray[np.float32]:
    """RGBA `float32[h, w, 4]` of a scene through a thin lens, by at least so many rays a pixel.

    `radius` of the lens and `sharp_at`, along its axis, in the scene's units. A point at the distance d becomes a disc with a radius of
    radius (1 / sharp_at - 1 / d) times the pixels that something at distance 1 is spread over by a length of 1.
    """
    passes = -(-rays // SAMPLES)
    seen = replace(scene, lens_radius=radius, sharp_at=sharp_at)
    total = np.zeros((height, width, 4))
    for seed in range(passes):
        frame = render(seen, width, height, seed=seed)
        total += np.concatenate([frame.beauty, frame.alpha[..., None]], axis=2)
    return (total / passes).astype(np.float32)
