"""Mattes by depth: everything from near to far, with soft ends outward."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.parameters import number
from ..document.timing import Number
from ..picture import Picture
from ..pictures.data_values import is_nothing
from ..plan.steps import Planner, Step, pointwise
from .base import MATTES, MatteKind, MatteParams
from .membership import edge_of, planes_of_membership, ramped

Plane = NDArray[np.float32]


class DepthMatte(MatteParams):
    """What lies between near and far in the pass's own units; the soft ends lie outside of them."""

    kind: Literal["depth"]
    source: str
    pass_: str = Field("depth", alias="pass", min_length=1)
    near: Number = number(0.0, "Near", soft=(0, 100), step=0.1, formula="1 from near to far")
    far: Number = number(100.0, "Far", soft=(0, 100), step=0.1)
    soft_near: Number = number(0.0, "Soft near", low=0, soft=(0, 20), step=0.1, formula="falls to 0 over so much before near")
    soft_far: Number = number(0.0, "Soft far", low=0, soft=(0, 20), step=0.1, formula="falls to 0 over so much behind far")


def between(depth: Plane, near: float, far: float, soft_near: float, soft_far: float) -> Plane:
    """1 from near to far, straight ramps outside, 0 where nothing stands (infinite, NaN, or from 1e9 on)."""
    after = np.where(depth >= near, np.float32(1), ramped(depth, near - soft_near, near)) if soft_near > 0 else (depth >= near)
    before = np.where(depth <= far, np.float32(1), ramped(depth, far + soft_far, far)) if soft_far > 0 else (depth <= far)
    return np.asarray(np.where(is_nothing(depth), 0, np.minimum(after, before)), np.float32)


def _planes(planner: Planner, params: DepthMatte, matte_id: str) -> Step:
    info = planner.source(params.source)
    found = info.find(params.pass_)
    own = planner.read(params.source, found.name, 1)
    ends = (params.near, params.far, params.soft_near, params.soft_far)

    def compute(given: tuple[Picture, ...]) -> Plane:
        return between(given[0].pixels[..., :1], *ends)

    member = pointwise("depth matte 1", ends, [own], compute, channels=1, edge=edge_of(found, info), domain=own.domain, where=planner.where)
    return planes_of_membership(planner, params.source, member)


MATTES.register(MatteKind("depth", "Depth", DepthMatte, _planes, lambda _: (), lambda params: (params.source,)))
