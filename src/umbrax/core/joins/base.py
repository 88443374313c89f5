"""What every join declares, and the registry that finds them.

Adding one: write its rule in the file of its family beside this one and register it there.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..errors import UmbraxError
from ..kernels import joining
from ..picture import Edge, Picture, Window
from ..registry import Registry

Kernel = Callable[..., None]


@dataclass(frozen=True)
class Join:
    """`value` and `alpha` are its rules (`kernels.joining.pair_kernel`), `title` is what the page shows.

    `edge_follows_top` where an endless card makes the result endless.
    `keeps_nothing`: on nothing the card comes out as it is. `lays`: a picture can be laid on a card by it as well.
    """

    kind: str
    title: str
    value: joining.Rule
    alpha: joining.Rule
    formula: str
    edge_follows_top: bool = True
    keeps_nothing: bool = True
    lays: bool = False
    aliases: tuple[str, ...] = ()
    kernel: Kernel = field(init=False, repr=False)
    laying: Kernel | None = field(init=False, repr=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "kernel", joining.pair_kernel(self.value, self.alpha))
        object.__setattr__(self, "laying", joining.laying_kernel(self.value) if self.lays else None)

    def edge(self, top: Edge, below: Edge) -> Edge:
        """What stands outside the joined picture."""
        if below == "extend" or (top == "extend" and self.edge_follows_top):
            return "extend"
        return below if below != "one" else "empty"


JOINS: Registry[Join] = Registry("join")


def join(kind: str, top: Picture, below: Picture, window: Window, opacity: float = 1.0) -> Picture:
    """Join two RGBA pictures on a window; at opacity 0 the picture below comes back bit for bit."""
    chosen = JOINS.get(kind)
    edge = chosen.edge(top.edge, below.edge)
    backdrop = below.crop(window)
    if opacity == 0:
        return Picture(backdrop.pixels, window, edge)
    return Picture(joining.joined(chosen.kernel, top.crop(window).pixels, backdrop.pixels, opacity), window, edge)


def laid(kind: str, top: Any, below: Any, amount: float) -> Any:
    """RGBA laid on another of one shape inside that one's alpha, which stays as it is. An amount above 1 is a gain of its light."""
    kernel = JOINS.get(kind).laying
    if kernel is None:
        raise UmbraxError("bad-join", f"nothing is laid on a card by {kind}; use {', '.join(one.kind for one in JOINS if one.lays)}")
    if amount > 1:
        top = np.concatenate([top[..., :3] * np.float32(amount), np.minimum(top[..., 3:] * np.float32(amount), 1)], axis=2)
    return joining.joined(kernel, top, below, min(amount, 1.0))
