"""Sharpness: whether an element's rim is sharper than any edge behind it.

The blur of an edge is told from how much its steepness loses by a known further blur: Zhuo and Sim, "Defocus map estimation from a
single image", Pattern Recognition 44 (2011), 9. Of a step blurred by a Gaussian s, the gradient taken with a Gaussian a is
1 / sqrt(2 pi (s^2 + a^2)), so two of them, a < b, give s^2 = (b^2 - R^2 a^2) / (R^2 - 1) with R the ratio of the two.
"""

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from .base import Answer, Mask, Plane, Remedy, Seated, untold
from .grain import noise

KIND, TITLE = "sharpness", "Sharpness"
FINE, COARSE = 1.0, 2.0  # sigmas of the two gradients
REACH = 8  # pixels, four times the wider of the two
SOFTEST = 8.0  # pixels of blur beyond which an edge is told from shading and grain no more
FEWEST = 80  # pixels of edges
SHARPEST = 20  # percent
STEP = 0.05  # least height of a step, as a part of the brightest behind
OVER_NOISE = 12.0  # and how many times the deviation of grain
APART = 0.5  # pixels of blur that are seen
IN_FOCUS = 3.0  # pixels of blur beyond which what is behind is out of focus on purpose
RIM = 0.5  # least step of an alpha


def edge_blurs(values: Plane, least: float, within: Mask) -> NDArray[np.floating]:
    """The Gaussian sigma, in pixels, of each pixel on the crest of an edge at least `least` high; in no order."""
    light = np.ascontiguousarray(values, np.float32)
    down, across = (ndimage.gaussian_filter(light, FINE, order=order) for order in ((1, 0), (0, 1)))
    fine, coarse = np.hypot(down, across), ndimage.gaussian_gradient_magnitude(light, COARSE)
    ratio = np.divide(fine, coarse, out=np.ones_like(fine), where=coarse > 0)
    ratio = np.clip(ratio, np.sqrt((SOFTEST**2 + COARSE**2) / (SOFTEST**2 + FINE**2)), COARSE / FINE)
    squares = (COARSE**2 - ratio**2 * FINE**2) / (ratio**2 - 1)
    height = fine * np.sqrt(2 * np.pi * (squares + FINE**2))
    found = _crest(fine, np.abs(across) > np.abs(down)) & (height >= least) & within
    return np.asarray(np.sqrt(squares[found]))


def _crest(slope: NDArray[np.floating], across: Mask) -> Mask:
    """Where a gradient is the largest across the edge: along its row, or down its column."""
    left, right, up, down = (np.roll(slope, by, axis) for by, axis in ((1, 1), (-1, 1), (1, 0), (-1, 0)))
    crest = np.where(across, (slope >= left) & (slope > right), (slope >= up) & (slope > down))
    crest[[0, -1], :] = False
    crest[:, [0, -1]] = False
    return crest


def _around(alpha: Plane) -> Plane:
    """What of an alpha is not empty, and as much around it as a gradient reaches."""
    rows, columns = (np.flatnonzero(alpha.any(axis=axis)) for axis in (1, 0))
    return alpha[max(0, rows[0] - REACH) : rows[-1] + REACH + 1, max(0, columns[0] - REACH) : columns[-1] + REACH + 1]


def _sharpest(blurs: NDArray[np.floating]) -> float | None:
    return float(np.percentile(blurs, SHARPEST)) if len(blurs) >= FEWEST else None


def sharpness(seated: Seated) -> Answer:
    alpha = _around(seated.own.alpha)
    rim = _sharpest(edge_blurs(alpha, RIM, np.ones(alpha.shape, np.bool_)))
    grains = noise(seated.behind)
    luma, solid = seated.behind.luma, seated.behind.solid
    bright = float(np.percentile(luma[solid], 99)) if solid.any() else 0.0
    least = max(STEP * bright, OVER_NOISE * grains.strength if grains else 0.0)
    # an edge of what is behind is one within it
    inside = ndimage.minimum_filter(solid, size=9)
    edges = _sharpest(edge_blurs(np.minimum(luma, bright), least, inside)) if bright > 0 else None
    if rim is None or edges is None:
        return untold(KIND, TITLE, "it has no rim in the frame" if rim is None else "there are no edges behind it to compare with")
    values = (rim,), (edges,)
    if edges > IN_FOCUS:
        return Answer(KIND, TITLE, None, "what is behind is out of focus", *values, "px")
    missing = float(np.sqrt(max(edges**2 - rim**2, 0.0)))
    if missing <= APART:
        return Answer(KIND, TITLE, True, "its rim is no sharper than edges behind it", *values, "px")
    remedy = Remedy("Soften it as much", {"kind": "soften", "size": round(missing, 2)})
    return Answer(KIND, TITLE, False, "its rim is sharper than any edge behind it", *values, "px", remedy)
