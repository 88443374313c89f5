"""Noise: how strong and how large the grain of a picture is under all that it shows."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..grain import likeness_to_size
from .pixels import Mask, Plane, codes, in_blocks

BLOCK = 16
FEWEST = 2  # even blocks
EVENEST = 10  # percent of all blocks that are even enough
UNLIKE = 0.08  # neighbours that correlate by less are no larger grains
FEWEST_PARTS, MOST_PARTS = 4, 6  # of the picture by how bright they are
SPREAD = 1.5  # times as bright as the darkest part the brightest is, for grain to be told to go with it
FLAT = 0.15  # less of a response is none
DARK = 1e-3  # light of a block in which noise may be cut off at 0


@dataclass(frozen=True)
class Noise:
    """Size (sigma in pixels), strength (deviation of light) at a luma and response as the grain treatment has them: the deviation goes with
    luma^response."""

    size: float
    strength: float
    at: float
    response: float = 0.0

    def strength_at(self, luma: float) -> float:
        return self.strength * float((luma / self.at) ** self.response)

    def seen(self, luma: float) -> float:
        """Its deviation on a display at a luma, in codes of 255."""
        return float(codes(np.array(luma + self.strength_at(luma))) - codes(np.array(luma)))


def noise_of(light: Plane, luma: Plane, solid: Mask) -> Noise | None:
    """Of light `[h, w, 3]`, by the evenest of all solid blocks, by how bright they are; None where there are too few.

    Second differences at one and at two pixels see next to nothing of what is shaped. Of Gaussian grain, whose neighbours correlate by
    r = exp(-1 / (4 size^2)) and others by r^(d^2), their mean squares are 6 - 8 r + 2 r^4 and 6 - 8 r^4 + 2 r^16 times its variance.
    """
    bright = in_blocks(luma, BLOCK).mean(axis=2)
    told = in_blocks(solid, BLOCK).all(axis=2) & (bright > DARK)
    near, far, bright = _rough(light, 1)[told], _rough(light, 2)[told], bright[told]
    parts = min(MOST_PARTS, len(near) * EVENEST // (100 * FEWEST))
    if not parts:
        return None
    order = np.argsort(bright, kind="stable")
    chosen = [part[near[part] <= np.percentile(near[part], EVENEST)] for part in np.array_split(order, parts)]
    of_near, of_far, at = (np.array([float(values[part].mean()) for part in chosen]) for values in (near, far, bright))
    if not of_near.all():
        return Noise(0.0, 0.0, float(at.mean()))
    response = _response(at, np.sqrt(of_near))
    if response == 0 and parts > 1:  # the evenest of all are evener than those of each brightness
        even = near <= np.percentile(near, EVENEST)
        of_near, of_far, at = (np.array([float(values[even].mean())]) for values in (near, far, bright))
    likeness = float(np.interp(of_far.sum() / of_near.sum(), RATIOS, LIKENESSES))
    strengths, middle = np.sqrt(of_near / _of_unit(np.array(likeness), 1)), float(np.exp(np.log(at).mean()))
    strength = float(np.median(strengths * (middle / at) ** response))
    return Noise(likeness_to_size(likeness) if likeness > UNLIKE else 0.0, strength, middle, response)


def _response(at: NDArray[np.float64], strengths: NDArray[np.float64]) -> float:
    """By which power of luma grain is stronger, 0 to 1: the middle of all slopes between two brightnesses (Theil and Sen); none where that is
    as good as by chance, as where some brightnesses are full of detail."""
    if len(at) < FEWEST_PARTS or at[-1] < SPREAD * at[0]:
        return 0.0
    from scipy.stats import theilslopes  # a second to import, which nothing else needs

    slope, _, least, _ = theilslopes(np.log(strengths), np.log(at), 0.95)
    return round(float(min(slope, 1.0)), 2) if slope >= FLAT and least > 0 else 0.0


def _of_unit(likeness: NDArray[np.float64], by: int) -> NDArray[np.float64]:
    """The mean square of second differences at a distance, of grain with a variance of 1."""
    return np.asarray(6 - 8 * likeness ** (by**2) + 2 * likeness ** (4 * by**2))


LIKENESSES = np.linspace(0, 0.96, 97)  # grain of up to 2.5 pixels
RATIOS = _of_unit(LIKENESSES, 2) / _of_unit(LIKENESSES, 1)


def _rough(light: Plane, by: int) -> NDArray[np.float64]:
    """The mean square of second differences at a distance in each block, along rows and columns, `[rows, columns]`."""
    blocks = in_blocks(light, BLOCK).astype(np.float64)
    shaped = blocks.reshape(*blocks.shape[:2], BLOCK, BLOCK, 3)
    across = shaped[..., : -2 * by, :] - 2 * shaped[..., by:-by, :] + shaped[..., 2 * by :, :]
    down = shaped[:, :, : -2 * by] - 2 * shaped[:, :, by:-by] + shaped[:, :, 2 * by :]
    return np.asarray((np.square(across).mean(axis=(2, 3, 4)) + np.square(down).mean(axis=(2, 3, 4))) / 2)
