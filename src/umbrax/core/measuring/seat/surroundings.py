"""Surroundings: whether bright light behind an element's rim reaches round it."""

import numpy as np
from scipy import ndimage

from .base import Answer, Remedy, Seated, untold
from .pixels import spread

KIND, TITLE = "surroundings", "Light from behind"
RIM = 5  # pixels
AROUND = 12.0  # sigma over which light is averaged
STOPS = 2.0
PART = 0.15  # of the rim
FEWEST = 60  # pixels
DARK = 1e-3
TAKES_IT = frozenset({"wrap", "bleed"})


def surroundings(seated: Seated) -> Answer:
    own, behind = seated.own, seated.behind
    rim = own.solid & (ndimage.minimum_filter(own.alpha, 2 * RIM + 1) < 0.5)
    if np.count_nonzero(rim) < FEWEST:
        return untold(KIND, TITLE, "it has no rim in the frame")
    outside = behind.solid & (own.alpha < 0.5)
    there = spread(np.maximum(behind.luma, 0), outside, AROUND)[rim]
    here = spread(np.maximum(own.luma, 0), own.solid, RIM)[rim]
    stops = np.log2(np.maximum(there, DARK) / np.maximum(here, DARK))
    part = float((stops > STOPS).mean())
    values = (float(here.mean()),), (float(there.mean()),)
    if part <= PART:
        return Answer(KIND, TITLE, True, "no bright light stands behind its rim", *values, "light")
    message = f"behind {100 * part:.0f} % of its rim light is over {STOPS:.0f} stops brighter"
    if seated.treatments & TAKES_IT:
        return Answer(KIND, TITLE, True, f"{message}, and is wrapped round it", *values, "light")
    remedy = Remedy("Wrap light round it", {"kind": "wrap"})
    return Answer(KIND, TITLE, False, f"{message}, and none of it reaches round", *values, "light", remedy)
