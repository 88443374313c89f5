"""A card before its join, and what is laid on it, under it, or added to it there."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..errors import Where
from ..joins import laid
from ..kernels import blank, joining, ready
from ..mattes.membership import straight
from ..picture import Picture, union_of
from ..treatments.drawn_light import DrawnLight
from .read import reduced_step
from .steps import Step, pointwise
from .treatments import weighed


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

    @property
    def on_it(self) -> tuple[Layer, ...]:
        """What lies on it, or behind it, with an alpha: all but its light."""
        return tuple(layer for layer in self.layers if layer.join is not None)


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


def beside_alpha(layer: Step, alpha: Step, opacity: float, n: int) -> Step:
    """What lies behind an alpha of some opacity, at 1/n: its mean over what of each pixel is seen, and not over what is hidden."""
    if n == 1 or opacity == 0:
        return reduced_step(layer, n, "area")

    def seen(given: tuple[Picture, ...]) -> Any:
        return np.float32(1) - np.float32(opacity) * np.clip(given[0].pixels, 0, 1)

    return inside_alpha(layer, pointwise("beside 1", opacity, [alpha], seen, channels=1, domain=layer.domain, where=layer.where), n)


def inside_alpha(layer: Step, alpha: Step, n: int) -> Step:
    """What is laid inside of an alpha, at 1/n: its mean over what of each pixel the alpha covers, and not over what lies beside that."""
    if n == 1:
        return layer
    seen, covered = (reduced_step(step, n, "area") for step in (weighed(layer, alpha, layer.where), alpha))
    return pointwise(
        "inside 1", None, [seen, covered], lambda given: straight(given[0].pixels, given[1].pixels), channels=layer.channels, where=layer.where,
    )  # fmt: skip


def with_light(joined: Step, made: Made, opacity: float, where: Where) -> Step:
    """The picture so far with the card in it, and its light without alpha added to that: a step of its own, so that changed light does
    not join the card again."""
    lights = tuple(layer for layer in made.layers if layer.join is None)
    if not lights:
        return joined

    def compute(given: tuple[Picture, ...]) -> Any:
        pixels = given[0].pixels
        for layer, picture in zip(lights, given[1:], strict=True):
            pixels = _lit(pixels, picture, layer.amount * opacity)
        return pixels

    # where light ends and the picture goes on, that goes on without it
    beyond = 1 if joined.edge == "extend" else 0
    domain = union_of([joined.domain, *(layer.picture.domain.grown(beyond) for layer in lights if not layer.picture.domain.empty)])
    return pointwise(
        "light 1", [opacity, told(lights)], [joined, *(layer.picture for layer in lights)], compute, channels=4, edge=joined.edge,
        domain=domain, where=where,
    )  # fmt: skip


def _lit(below: Any, light: Picture, amount: float) -> Any:
    """RGBA plus light without alpha on the same window."""
    if isinstance(light, DrawnLight):
        return light.onto(below, amount)
    out = blank(*below.shape)
    joining.add_light(ready(below), ready(light.pixels), np.float32(amount), out)
    return out


def joined_layers(made: Made, where: Where) -> Step:
    """A card's picture with what is laid on it, without what lies under it and its light that has no alpha."""
    on_it = tuple(layer for layer in made.on_it if not layer.behind)
    if not on_it:
        return made.own
    return pointwise(
        "laid 1", told(on_it), [made.own, *(layer.picture for layer in on_it)],
        lambda given: with_laid(given[0], on_it, given[1:]).pixels, channels=4, edge=made.own.edge, domain=made.own.domain, where=where,
    )  # fmt: skip
