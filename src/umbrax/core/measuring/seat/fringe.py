"""Fringe: whether an element's rim is darker or brighter the less of a pixel it covers.

The light of a pixel without its alpha is that of the element, however little of the pixel it covers. Colours that were multiplied by
alpha once too often fall with it (the exponent of alpha is 1), those that hold what stood behind the element when it was
rendered or filmed rise or fall as that was brighter or darker.
"""

import numpy as np
from scipy import ndimage

from .base import Answer, Remedy, Seated, untold
from .pixels import spread

KIND, TITLE = "fringe", "Fringe"
LEAST, MOST = 0.1, 0.9  # alpha of the rim
NEAR = 7  # pixels within which the rim goes from nothing to all
CORE = 2.0  # sigma of the mean of the solid light beside it
FEWEST = 60  # pixels
DARK = 1e-4  # light that has a colour
EXPONENT = 0.35


def exponent(seated: Seated) -> float | None:
    """By which power of alpha the light of the rim goes, against the solid light beside it; None where there is no rim to tell by."""
    alpha, luma = seated.own.alpha, seated.own.luma
    thin = (ndimage.minimum_filter(alpha, NEAR) < 0.02) & (ndimage.maximum_filter(alpha, NEAR) > 0.98)
    core = spread(luma, seated.own.solid, CORE)
    rim = thin & (alpha > LEAST) & (alpha < MOST) & (core > DARK) & (luma > DARK)
    if np.count_nonzero(rim) < FEWEST:
        return None
    covered, change = np.log2(alpha[rim].astype(np.float64)), np.log2(luma[rim].astype(np.float64) / core[rim])
    # shading falls off towards a rim whatever it covers: what goes with alpha alone is the slope
    return float(np.polyfit(covered, change, 1)[0])


def fringe(seated: Seated) -> Answer:
    found = exponent(seated)
    if found is None:
        return untold(KIND, TITLE, "it has no rim in the frame that goes from nothing to all within a few pixels")
    if abs(found) <= EXPONENT:
        return Answer(KIND, TITLE, True, "its rim has the light of the element", (found,), unit="exponent")
    what = "darker" if found > 0 else "brighter"
    message = f"its rim is {what} the less of a pixel it covers, as one that holds what stood behind it before"
    remedy = Remedy("Choke it by a pixel", {"kind": "edge", "grow": -1.0})
    return Answer(KIND, TITLE, False, message, (found,), unit="exponent", remedy=remedy)
