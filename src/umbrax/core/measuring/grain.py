"""The grain of a patch: how strong it is and how large, from what is left when its shape is taken out."""

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from ..errors import UmbraxError

FEWEST = 24  # pixels a side
SMOOTH = 6.0  # sigma of the shape that is taken out


def grain_of(pixels: NDArray[np.float32]) -> tuple[float, float]:
    """(size, strength) as the treatment has them, of an even patch of RGBA `float32[h, w, 4]`.

    White noise blurred by a Gaussian s has the autocorrelation exp(-d^2 / (4 s^2)) at a distance d; the shape taken out with a
    Gaussian much wider takes next to none of it.
    """
    if min(pixels.shape[:2]) < FEWEST:
        raise UmbraxError("too-small", f"grain is measured on a patch of at least {FEWEST} x {FEWEST} pixels; choose a larger one")
    light = pixels[..., :3].astype(np.float64) / np.maximum(pixels[..., 3:], 1e-6)
    noise = light - np.stack([ndimage.gaussian_filter(light[..., c], SMOOTH, mode="reflect") for c in range(3)], axis=2)
    inside = noise[6:-6, 6:-6]
    variance = float((inside**2).mean())
    if variance <= 0:
        return 0.0, 0.0
    across = float((inside[:, 1:] * inside[:, :-1]).mean()) / variance
    down = float((inside[1:] * inside[:-1]).mean()) / variance
    return likeness_to_size((across + down) / 2), float(np.sqrt(variance))


def likeness_to_size(likeness: float) -> float:
    """The Gaussian sigma of white noise whose neighbours have this correlation: s of exp(-1 / (4 s^2)); 0 for next to none."""
    return 0.0 if likeness < 0.02 else float(np.sqrt(-1 / (4 * np.log(min(likeness, 0.999)))))
