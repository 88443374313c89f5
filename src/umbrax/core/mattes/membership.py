"""From values of a pass to the three planes of a matte.

A pixel at a rim holds light of an element and of what is behind it. What is asked of the element alone (its colour, its
depth, its number) is a membership: how much of what covers the pixel belongs; coverage is that times alpha. A matte that
was rendered is a coverage already, and its share is found by dividing.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..picture import Edge, Picture
from ..pictures.base import alpha_of
from ..plan.reader import FrameInfo, PassInfo
from ..plan.steps import Planner, Step, pointwise

Plane = NDArray[np.float32]


def ramped(values: Plane, black: float, white: float) -> Plane:
    """(v - black) / (white - black), limited to 0..1; white below black turns it over, equal ends make a step. NaN is 0."""
    span = white - black
    if span == 0:
        return np.asarray(np.nan_to_num(values, nan=-np.inf) >= white, np.float32)
    with np.errstate(invalid="ignore", over="ignore"):
        scaled = (values - np.float32(black)) / np.float32(span)
    return np.asarray(np.clip(np.nan_to_num(scaled, nan=0.0, posinf=1.0, neginf=0.0), 0, 1), np.float32)


def straight(colour: Plane, alpha: Plane) -> Plane:
    """Associated colour `float32[h, w, c]` without its alpha `float32[h, w, 1]`; as it is where alpha is 0."""
    return np.asarray(colour / np.where(alpha > 0, alpha, 1), np.float32)


def light_of(pixels: Plane, has_alpha: bool) -> Plane:
    """The colours of a pass `float32[h, w, c]` by themselves: without the alpha at their end, and without its part in them."""
    return straight(pixels[..., :-1], pixels[..., -1:]) if has_alpha else pixels


def planes_of_membership(planner: Planner, source: str, member: Step) -> Step:
    """Coverage = membership x alpha, share = membership, sum = alpha."""
    alpha = alpha_of(planner, source, 1)

    def compute(given: tuple[Picture, ...]) -> Plane:
        m = given[0].pixels
        a = np.clip(given[1].pixels, 0, 1) if alpha is not None else np.ones_like(m)
        return np.concatenate([m * a, np.where(a > 0, m, 0), a], axis=2).astype(np.float32, copy=False)

    return _three("membership 1", member, alpha, compute, planner)


def planes_of_coverage(planner: Planner, source: str, covered: Step) -> Step:
    """Coverage as it is, share = coverage / alpha, sum = alpha."""
    alpha = alpha_of(planner, source, 1)

    def compute(given: tuple[Picture, ...]) -> Plane:
        m = given[0].pixels
        a = np.clip(given[1].pixels, 0, 1) if alpha is not None else np.ones_like(m)
        with np.errstate(divide="ignore", invalid="ignore"):
            share = np.where(a > 0, np.minimum(m / a, 1), m)
        return np.concatenate([m, share, a], axis=2).astype(np.float32, copy=False)

    return _three("coverage 1", covered, alpha, compute, planner)


def _three(what: str, own: Step, alpha: Step | None, compute: Callable[[tuple[Picture, ...]], Plane], planner: Planner) -> Step:
    inputs = [own] if alpha is None else [own, alpha]
    return pointwise(what, None, inputs, compute, channels=3, edge=own.edge, domain=own.domain, where=planner.where)


def edge_of(found: PassInfo, info: FrameInfo) -> Edge:
    """A pass that fills the frame goes on outside: what the frame cuts off is no edge to choke or feather."""
    return "extend" if found.window.contains(info.display) else "empty"
