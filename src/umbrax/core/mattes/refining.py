"""Refinements of a matte: levels, grow or choke, feather, invert, by the signed distance to its contour.

With c(u, r) = clamp(u / r + 1/2) the coverage of a straight edge at distance u over a ramp r, a matte m becomes
m + c(d + grow, ramp) - c(d, 1): exactly m without grow and feather, continuous in both, monotone in grow.
Around soft edges, which have no single contour, every level is moved by `grow` and the ramp widened by `feather`.
A share is taken at the middle of the covered part of its pixel, d + (1 - S)/2 over a length S (the sum of coverages):
so choking moves a rim inward against the sky just as against a neighbour.
"""

import math

import numpy as np
from numpy.typing import NDArray

from ..kernels import ready
from ..kernels.distance import signed_distance
from ..kernels.moving import moved
from ..kernels.soft_edges import follow_soft_edges
from ..kernels.soft_edges import reach as soft_reach
from ..picture import Edge, Picture, Window
from ..plan.steps import Step, content_key
from .base import Refine

Plane = NDArray[np.float32]
TURNED, TO_ONE = np.array([-1, -1, 1], np.float32), np.array([1, 1, 0], np.float32)
RIM = 4  # pixels beyond a matte's border, and what it is moved by, that know of it
SHIFT = {"in": -0.5, "both": 0.0, "out": 0.5}


def levels(m: Plane, black: float, white: float, gamma: float) -> Plane:
    """((m - black) / (white - black))^(1/gamma), limited to 0..1; white below black turns the matte over."""
    if (black, white, gamma) == (0.0, 1.0, 1.0):
        return m
    span = white - black
    scaled = np.clip((m - black) / (span if span != 0 else 1e-6), 0, 1)
    result: Plane = (scaled ** (1 / gamma)).astype(np.float32)
    return result


def refine_planes(planes: Plane, refine: Refine, origin: tuple[int, int] = (0, 0)) -> Plane:
    """Coverage, share and sum `float32[h, w, 3]` refined; the refinement's numbers are plain and in these pixels.

    `origin` is the place of the first pixel in the frame: what is filtered on a grid keeps to the frame's.
    """
    if (refine.black, refine.white, refine.gamma) != (0.0, 1.0, 1.0):
        both = levels(planes[..., :2], refine.black, refine.white, refine.gamma)
        planes = np.concatenate([both, planes[..., 2:]], axis=2)
    if refine.grow or refine.feather:
        far, by = _contour_reach(refine), _shift(refine)
        distance = signed_distance(planes, far - 2)
        planes = follow_soft_edges(planes, moved(planes, distance, far - 1, by, refine.feather), by, refine.feather, origin)
    if refine.invert:
        planes = _inverted(planes)
    return np.asarray(planes, np.float32)


def _inverted(planes: Plane) -> Plane:
    """1 - coverage, 1 - share, and the sum as it is; by whole rows, which NumPy does many times faster than by pixels."""
    height, width = planes.shape[:2]
    rows = ready(planes).reshape(height, 3 * width) * np.tile(TURNED, width)
    rows += np.tile(TO_ONE, width)
    return rows.reshape(height, width, 3)


def _shift(refine: Refine) -> float:
    return refine.grow + SHIFT[refine.feather_side] * refine.feather


def _contour_reach(refine: Refine) -> int:
    return math.ceil(abs(refine.grow) + refine.feather) + 4


def reach(refine: Refine) -> int:
    """Pixels around a pixel that can change its refined value."""
    if not (refine.grow or refine.feather):
        return 0
    return max(_contour_reach(refine), soft_reach(_shift(refine), refine.feather))


def outside(edge: Edge, refine: Refine) -> float:
    """What an endless 0 or 1 around a matte becomes."""
    plain = np.full((1, 1), 1.0 if edge == "one" else 0.0, np.float32)
    value = float(levels(plain, refine.black, refine.white, refine.gamma)[0, 0])
    return 1 - value if refine.invert else value


def inverted_edge(edge: Edge) -> Edge:
    """What stands outside an inverted matte."""
    turned: dict[Edge, Edge] = {"empty": "one", "one": "empty", "extend": "extend"}
    return turned[edge]


def refined(step: Step, refine: Refine, display: Window) -> Step:
    """The step with refinements at this frame; nothing is added for neutral ones."""
    if refine == Refine():
        return step
    around = reach(refine)
    edge, domain = step.edge, step.domain
    if edge != "extend":
        beyond = outside(edge, refine)
        edge = "empty" if beyond == 0 else "one" if beyond == 1 else "extend"
        domain = domain.grown(around)
        if beyond:
            # one pixel more, so that what goes on beyond the border is what stands outside
            domain = domain.union(display).grown(0 if beyond == 1 else 1)

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        near = window.grown(around)
        if step.edge != "extend":  # nothing changes any more where the same stands all around
            near = near.intersect(step.domain.grown(math.ceil(abs(_shift(refine))) + RIM)).union(window)
        planes = refine_planes(given[0].crop(near).pixels, refine, (near.x0, near.y0))
        return Picture(np.ascontiguousarray(Picture(planes, near).crop(window).pixels), window, edge)

    return Step(
        content_key("refine 2", refine, (step,)), "refined matte", domain, 3, (step,),
        lambda window: (window.grown(around),), run, edge, step.where,
    )  # fmt: skip
