"""Mattes by colour: what is near a picked colour."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.parameters import colour, number
from ..document.timing import Colour, Number
from ..picture import Picture
from ..plan.steps import Planner, Step, pointwise
from .base import MATTES, MatteKind, MatteParams
from .membership import edge_of, light_of, planes_of_membership, ramped

Plane = NDArray[np.float32]


class KeyMatte(MatteParams):
    """What is within `tolerance` of a colour, falling off over `softness` more."""

    kind: Literal["key"]
    source: str
    pass_: str = Field(alias="pass", min_length=1)
    colour: Colour = colour((0.18, 0.18, 0.18), "Colour", formula="distance of the cube roots of linear R, G, B")
    tolerance: Number = number(0.1, "Tolerance", low=0, soft=(0, 1), formula="1 up to here")
    softness: Number = number(0.1, "Softness", low=0, soft=(0, 1), formula="0 from tolerance + softness on")


def distance(pixels: Plane, wanted: tuple[float, float, float]) -> Plane:
    """How far colours `float32[h, w, 3]` lie from one, `float32[h, w, 1]`: Euclidean between cube roots of linear light.

    The cube root follows how lightness is seen (CIE 15, L*); black and white are the square root of 3 apart.
    """
    apart = np.cbrt(pixels) - np.cbrt(np.array(wanted, np.float32))
    return np.asarray(np.sqrt((apart**2).sum(axis=2, keepdims=True)), np.float32)


def _planes(planner: Planner, params: KeyMatte, matte_id: str) -> Step:
    info = planner.source(params.source)
    found = info.find(params.pass_)
    own = planner.read(params.source, found.name, 1)
    told = (params.colour, params.tolerance, params.softness)

    def compute(given: tuple[Picture, ...]) -> Plane:
        light = light_of(given[0].pixels, found.has_alpha)
        light = light[..., :3] if light.shape[2] >= 3 else np.repeat(light[..., :1], 3, axis=2)
        return ramped(-distance(light, params.colour), -(params.tolerance + params.softness), -params.tolerance)

    member = pointwise("key 2", told, [own], compute, channels=1, edge=edge_of(found, info), domain=own.domain, where=planner.where)
    return planes_of_membership(planner, params.source, member)


MATTES.register(MatteKind("key", "Colour", KeyMatte, _planes, lambda _: (), lambda params: (params.source,)))
