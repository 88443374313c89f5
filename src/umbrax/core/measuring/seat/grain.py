"""Grain: whether an element is as noisy as what is behind it, by their evenest parts."""

from dataclasses import dataclass

import numpy as np

from ..grain import likeness_to_size
from .base import Answer, Remedy, Seated, Side, codes, in_blocks, spread, untold

KIND, TITLE = "grain", "Grain"
BLOCK = 16
FEWEST = 6  # even blocks
SHAPE = 6.0  # sigma of what is taken for shape
EVENEST = 25  # percent of all blocks that are even enough
DARK = 1e-3  # light of a block in which noise may be cut off at 0
SEEN = 0.4  # codes of 255 that a deviation must be to be seen
STRONGEST = 10.0  # that the treatment takes
LESS, MORE = 0.6, 1.6


@dataclass(frozen=True)
class Noise:
    """Size (sigma in pixels) and strength (deviation of light) as the grain treatment has them, and the light it was measured at."""

    size: float
    strength: float
    at: float

    @property
    def seen(self) -> float:
        """Its deviation on a display, in codes of 255."""
        return float(codes(np.array(self.at + self.strength)) - codes(np.array(self.at)))


def noise(side: Side) -> Noise | None:
    """Of the evenest quarter of all solid blocks; None where there are too few."""
    solid, luma = in_blocks(side.solid, BLOCK).all(axis=2), in_blocks(side.luma, BLOCK).mean(axis=2)
    told = solid & (luma > DARK)
    if np.count_nonzero(told) < 4 * FEWEST:
        return None
    blocks = in_blocks(side.light - spread(side.light, side.solid, SHAPE), BLOCK)[told]
    squares = np.square(blocks).mean(axis=(1, 2), dtype=np.float64)
    even = squares <= np.percentile(squares, EVENEST)
    shaped = blocks[even].astype(np.float64).reshape(-1, BLOCK, BLOCK, 3)
    square = float((shaped**2).mean())
    if square <= 0:
        return Noise(0.0, 0.0, float(luma[told][even].mean()))
    across = float((shaped[:, :, 1:] * shaped[:, :, :-1]).mean()) / square
    down = float((shaped[:, 1:] * shaped[:, :-1]).mean()) / square
    return Noise(likeness_to_size((across + down) / 2), float(np.sqrt(square)), float(luma[told][even].mean()))


def grain(seated: Seated) -> Answer:
    own, behind = noise(seated.own), noise(seated.behind)
    if own is None or behind is None:
        return untold(KIND, TITLE, "the element is too small to tell" if own is None else "too little behind it is even")
    values = (own.strength,), (behind.strength,)
    if behind.seen < SEEN and own.seen < SEEN:
        return Answer(KIND, TITLE, True, "neither has grain that is seen", *values, "deviation")
    if own.strength < LESS * behind.strength:
        strength = float(np.sqrt(behind.strength**2 - own.strength**2))
        remedy = Remedy(
            "Give it the same grain", {"kind": "grain", "size": round(behind.size, 2), "strength": round(min(strength, STRONGEST), 5)}
        )
        return Answer(KIND, TITLE, False, "what is behind it has grain that it lacks", *values, "deviation", remedy)
    if own.strength > MORE * behind.strength and own.seen >= SEEN:
        message = "it is noisier than what is behind; render it with more samples"
        return Answer(KIND, TITLE, False, message, *values, "deviation")
    return Answer(KIND, TITLE, True, "its grain is that of what is behind", *values, "deviation")
