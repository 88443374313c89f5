"""A card held behind what lies below it.

A hold-out alone leaks what is behind at shared edges. With S the picture so far, F the occluder's own light in it, associated, m
the alpha of that and B the card with alpha b: out = F + (S - F)(1 - o b) + o (1 - m) B, o its opacity.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..kernels import blank, joining, ready
from ..picture import Picture
from .steps import Step, pointwise


@dataclass(frozen=True)
class Occluder:
    """A card as it is joined, without its opacity; how much of it each matte means; and what lies in front of it so far, with opacities."""

    picture: Step
    opacity: float
    weights: tuple[Step, ...]
    in_front: tuple[tuple[Step, float], ...]


def occluding(occluders: Sequence[Occluder], where: Any) -> Step:
    """The light that occluders have in the picture so far, RGBA: of each what its mattes mean, as far as nothing covers it."""
    inputs: list[Step] = []
    for one in occluders:
        inputs += [one.picture, *one.weights, *(step for step, _ in one.in_front)]
    told = [[one.opacity, len(one.weights), [opacity for _, opacity in one.in_front]] for one in occluders]

    def compute(given: tuple[Picture, ...]) -> Any:
        total: Any = None
        rest = list(given)
        for one in occluders:
            light = rest.pop(0).pixels
            share = np.minimum(sum(rest.pop(0).pixels for _ in one.weights), np.float32(1)) * np.float32(one.opacity)
            for _, opacity in one.in_front:
                share = share * (1 - np.float32(opacity) * rest.pop(0).pixels[..., 3:])
            part = blank(*light.shape)
            joining.scale_by(ready(light), ready(share), part)
            total = part if total is None else total + part
        return total

    return pointwise("occluder 1", told, inputs, compute, channels=4, where=where)


def tucked(below: Picture, top: Picture, occluder: Picture, opacity: float) -> Any:
    """The formula above on pictures of one window."""
    out = blank(*below.pixels.shape)
    joining.tuck(ready(below.pixels), ready(top.pixels), ready(occluder.pixels), np.float32(opacity), out)
    return out
