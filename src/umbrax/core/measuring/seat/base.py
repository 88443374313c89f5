"""What a question of the seat check looks at, and what it tells."""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...colour import LUMA_BT709, Weights
from ...mattes.membership import straight
from .noise import Noise, noise_of
from .pixels import Mask, Plane

SOLID = 0.98  # alpha from which nothing shines through
BRIGHTEST = 1e5


@dataclass(frozen=True)
class Remedy:
    """A treatment that makes the element as what is behind it: its kind and settings, and what a button says."""

    title: str
    treatment: dict[str, Any]


@dataclass(frozen=True)
class Answer:
    """One thing measured of the element and of what is behind it, in `unit`. `sits` is None where it cannot be told."""

    kind: str
    title: str
    sits: bool | None
    message: str
    own: tuple[float, ...] = ()
    behind: tuple[float, ...] = ()
    unit: str = ""
    remedy: Remedy | None = None


@dataclass
class Side:
    """The element, or what is behind it: RGBA `float32[h, w, 4]`, associated, of the whole frame."""

    pixels: Plane
    weights: Weights = LUMA_BT709  # of luma

    @cached_property
    def alpha(self) -> Plane:
        return self.pixels[..., 3]

    @cached_property
    def solid(self) -> Mask:
        return self.alpha >= SOLID

    @cached_property
    def light(self) -> Plane:
        """Colour without alpha, `[h, w, 3]`; finite, and no brighter than anything that is measured needs."""
        found = np.nan_to_num(straight(self.pixels[..., :3], self.alpha[..., None]), nan=0.0, posinf=0.0, neginf=0.0)
        return np.clip(found, -BRIGHTEST, BRIGHTEST)

    @cached_property
    def luma(self) -> Plane:
        return self.light @ np.array(self.weights, np.float32)

    @cached_property
    def noise(self) -> Noise | None:
        """What of it is grain; None where too little of it tells."""
        return noise_of(self.light, self.luma, self.solid)


@dataclass
class Seated:
    """An element on what is behind it, and the kinds of its treatments that are on."""

    own: Side
    behind: Side
    treatments: frozenset[str] = field(default_factory=frozenset)


Question = Callable[[Seated], Answer]


def three(values: NDArray[Any]) -> tuple[float, ...]:
    return tuple(float(one) for one in values)


def untold(kind: str, title: str, why: str) -> Answer:
    return Answer(kind, title, None, why)
