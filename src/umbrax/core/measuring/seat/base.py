"""What a question of the seat check looks at, and what it tells."""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...colour import LUMA_BT709, srgb_from_linear
from ...kernels.blur import gaussian
from ...mattes.membership import straight

Plane = NDArray[np.float32]
Mask = NDArray[np.bool_]
SOLID = 0.98  # alpha from which nothing shines through
CODES = 255.0  # of a display
BRIGHTEST = 1e5
LEAST_NEAR = 1e-3  # part of the pixels near by that a mean is taken of


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
        return self.light @ np.array(LUMA_BT709, np.float32)


@dataclass
class Seated:
    """An element on what is behind it, and the kinds of its treatments that are on."""

    own: Side
    behind: Side
    treatments: frozenset[str] = field(default_factory=frozenset)


Question = Callable[[Seated], Answer]


def codes(light: NDArray[Any]) -> NDArray[np.float64]:
    """Light as a display shows it, 0..255 (IEC 61966-2-1); brighter goes on."""
    return np.asarray(srgb_from_linear(np.asarray(light, np.float64)) * CODES, np.float64)


def spread(values: Plane, where: Mask, size: float) -> Plane:
    """A Gaussian mean, `float32[h, w]` or `[h, w, c]`, of the values where a mask is set alone; 0 where there are none near."""
    weight = where.astype(np.float32)[..., None]
    planes = values.reshape(*where.shape, -1)
    height, width = where.shape
    both = np.concatenate([planes * weight, weight], axis=2)
    summed = gaussian(both, size, size, (0, 0), (0, 0, width, height), False)
    around = summed[..., -1:]
    mean = np.divide(summed[..., :-1], around, out=np.zeros_like(planes), where=around > LEAST_NEAR)
    return mean.reshape(values.shape)


def in_blocks(values: NDArray[Any], size: int) -> NDArray[Any]:
    """`[rows, columns, size * size, ...]` of a picture cut into whole blocks from its upper left."""
    rows, columns = values.shape[0] // size, values.shape[1] // size
    cut = values[: rows * size, : columns * size].reshape(rows, size, columns, size, *values.shape[2:])
    return cut.swapaxes(1, 2).reshape(rows, columns, size * size, *values.shape[2:])


def three(values: NDArray[Any]) -> tuple[float, ...]:
    return tuple(float(one) for one in values)


def untold(kind: str, title: str, why: str) -> Answer:
    return Answer(kind, title, None, why)
