"""A card before its join, and what is laid on it, under it, or added to it there."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..errors import Where
from ..joins import laid
from ..kernels import blank, joining, ready
from ..picture import Picture
from .steps import Step, pointwise


@dataclass(frozen=True)
class Layer:
    """What is laid on a card's own picture where it meets the picture so far: inside its alpha by a join; without a join it is light
    without alpha, added. `behind` it lies under the card, over the picture so far."""

    picture: Step
    amount: float
    join: str | None
    behind: bool = False


@dataclass(frozen=True)
class Made:
    """A card before its join: its own picture and what is laid on it."""

    own: Step
    layers: tuple[Layer, ...] = ()


def told(layers: tuple[Layer, ...]) -> list[tuple[str | None, float, bool]]:
    """What of layers goes into a content key besides their pictures."""
    return [(layer.join, layer.amount, layer.behind) for layer in layers]


def with_behind(
    below: Picture, layers: tuple[Layer, ...], pictures: tuple[Picture, ...], onto: Callable[[Picture, Picture, float], Picture]
) -> Picture:  # fmt: skip
    """The picture so far with what lies under a card on it: `onto(top, below, amount)`."""
    for layer, picture in zip(layers, pictures, strict=True):
        if layer.behind:
            below = onto(picture, below, layer.amount)
    return below


def with_laid(top: Picture, layers: tuple[Layer, ...], pictures: tuple[Picture, ...]) -> Picture:
    """What is laid on a card inside its alpha."""
    for layer, picture in zip(layers, pictures, strict=True):
        if layer.join is not None and not layer.behind:
            top = Picture(laid(layer.join, picture.pixels, top.pixels, layer.amount), top.window, top.edge)
    return top


def with_light(pixels: Any, layers: tuple[Layer, ...], pictures: tuple[Picture, ...], opacity: float) -> Any:
    """Light without alpha is added after the join."""
    for layer, picture in zip(layers, pictures, strict=True):
        if layer.join is None:
            out = blank(*pixels.shape)
            joining.add_light(ready(pixels), ready(picture.pixels), np.float32(layer.amount * opacity), out)
            pixels = out
    return pixels


def joined_layers(made: Made, where: Where) -> Step:
    """A card's picture with what is laid on it, without what lies under it and its light that has no alpha."""
    on_it = tuple(layer for layer in made.layers if layer.join is not None and not layer.behind)
    if not on_it:
        return made.own
    return pointwise(
        "laid 1", told(on_it), [made.own, *(layer.picture for layer in on_it)],
        lambda given: with_laid(given[0], on_it, given[1:]).pixels, channels=4, edge=made.own.edge, domain=made.own.domain, where=where,
    )  # fmt: skip
