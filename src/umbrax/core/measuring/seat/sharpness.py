"""Sharpness: whether an element's rim is sharper than any edge behind it.

The blur of an edge is told from how much its steepness loses by a known further blur: Zhuo and Sim, "Defocus map estimation from a
single image", Pattern Recognition 44 (2011), 9. Of a step blurred by a Gaussian s, the gradient taken with a Gaussian a is
1 / sqrt(2 pi (s^2 + a^2)), so two of them, a < b, give s^2 = (b^2 - R^2 a^2) / (R^2 - 1) with R the ratio of the two.
"""

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from ...kernels.blur import gaussian
from .base import Answer, Remedy, Seated, untold
from .pixels import Mask, Plane

KIND, TITLE = "sharpness", "Sharpness"
FINE, COARSE, COARSER = 1.0, 2.0, 3.0  # sigmas of the gradients
UNLIKE = 0.05  # by how much what is no step is off
TINY = 1e-12
REACH = 12  # pixels, four times the widest of them
SOFTEST = 8.0  # pixels of blur beyond which an edge is told from shading and grain no more
FEWEST = 80  # pixels of edges
SHARPEST = 20  # percent
STEP = 0.05  # least height of a step, as a part of the brightest behind
OVER_NOISE = 12.0  # and how many times the deviation of grain
APART = 0.5  # pixels of blur that are seen
IN_FOCUS = 3.0  # pixels of blur beyond which what is behind is out of focus on purpose
RIM = 0.5  # least step of an alpha


def edge_blurs(values: Plane, least: float, within: Mask) -> NDArray[np.floating]:
    """The Gaussian sigma, in pixels, of each pixel on the crest of an edge at least `least` high; in no order.

    A third gradient must be what a step of that blur has: lines, corners and texture are no steps.
    """
    light = np.ascontiguousarray(values, np.float32)
    # a difference of pixels is too coarse for the finest
    down, across = (ndimage.gaussian_filter(light, FINE, order=order) for order in ((1, 0), (0, 1)))
    fine = np.hypot(down, across)
    crests = _crest(fine, np.abs(across) > np.abs(down)) & within & (fine * np.sqrt(2 * np.pi) * np.hypot(SOFTEST, FINE) >= least)
    slope = fine[crests]
    coarse, coarser = (np.hypot(*(part[crests] for part in _gradient(light, size))) for size in (COARSE, COARSER))
    ratio = slope / np.maximum(coarse, TINY)
    squares = np.maximum((COARSE**2 - ratio**2 * FINE**2) / np.maximum(ratio**2 - 1, TINY), 0)
    told = np.sqrt((squares + COARSER**2) / (squares + FINE**2))
    height = slope * np.sqrt(2 * np.pi * (squares + FINE**2))
    step = (ratio < (1 + UNLIKE) * COARSE / FINE) & (squares <= SOFTEST**2) & (np.abs(slope / np.maximum(coarser, TINY) / told - 1) < UNLIKE)
    return np.asarray(np.sqrt(squares[step & (height >= least)]))


def _gradient(light: Plane, size: float) -> tuple[Plane, Plane]:
    """Down and across, of what is blurred by a Gaussian. A difference over two pixels blurs by a box of variance 1/3 besides."""
    height, width = light.shape
    sigma = float(np.sqrt(size**2 - 1 / 3))
    blurred = gaussian(light[..., None], sigma, sigma, (0, 0), (0, 0, width, height), True)[..., 0]
    down, across = np.zeros_like(blurred), np.zeros_like(blurred)
    down[1:-1] = (blurred[2:] - blurred[:-2]) / 2
    across[:, 1:-1] = (blurred[:, 2:] - blurred[:, :-2]) / 2
    return down, across


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
    grains = seated.behind.noise
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
    return Answer(KIND, TITLE, False, "its rim is sharper than the edges behind it", *values, "px", remedy)
