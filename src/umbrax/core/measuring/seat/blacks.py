"""Blacks: whether the darkest of an element is darker than anything behind it, as where the air between is missing."""

import numpy as np
from numpy.typing import NDArray

from .base import Answer, Remedy, Seated, Side, three, untold
from .pixels import codes, in_blocks

KIND, TITLE = "blacks", "Blacks"
BLOCK = 4  # pixels a side that are averaged: grain makes no blacks
DARKEST = 1.0  # percent
FEWEST = 60  # blocks
WHITE = 0.5
APART = 4.0  # codes of 255 that are seen


def darkest(side: Side) -> NDArray[np.float64] | None:
    """The light of each channel below which the darkest percent lies; None where too little is solid."""
    solid = in_blocks(side.solid, BLOCK).all(axis=2)
    if np.count_nonzero(solid) < FEWEST:
        return None
    means = in_blocks(side.light, BLOCK).mean(axis=2, dtype=np.float64)[solid]
    return np.asarray(np.percentile(means, DARKEST, axis=0))


def blacks(seated: Seated) -> Answer:
    own, behind = darkest(seated.own), darkest(seated.behind)
    if own is None or behind is None:
        return untold(KIND, TITLE, "too little of the element is solid" if own is None else "too little behind it is solid")
    missing = codes(behind) - codes(own)
    if missing.max() <= APART:
        message = "nothing of it is darker than what is behind"
        return Answer(KIND, TITLE, True, message, three(own), three(behind), "light")
    lift = np.where(missing > 0, (behind - own) / np.maximum(1 - own, 1e-3), 0.0)
    # a lift leaves 1 where it is: what is nearly that is no black
    remedy = Remedy("Lift its blacks", {"kind": "tones", "lift": [round(float(one), 5) for one in lift]}) if own.max() < WHITE else None
    message = f"its darkest parts are darker than anything behind it, by {missing.max():.0f} of 255 on a display"
    return Answer(KIND, TITLE, False, message, three(own), three(behind), "light", remedy)
