"""What every join declares, and the registry that finds them.

Adding one: write its rule in the file of its family beside this one and register it there.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final, Literal

import numpy as np

from ..errors import UmbraxError
from ..kernels import blank, pairing, ready
from ..picture import Edge, Picture, Window
from ..registry import Registry

Kernel = Callable[..., None]
BlendIn = Literal["linear", "display"]
Purpose = Literal["place", "darken", "lighten", "contrast", "compare", "colour"]
PURPOSES: Final[tuple[Purpose, ...]] = ("place", "darken", "lighten", "contrast", "compare", "colour")


@dataclass(frozen=True)
class Join:
    """`linear` and `display` are its loops (`kernels.pairing`), one for both where no colours are blended; `usual` is the one meant
    where a card does not say. `title` is what the page shows, among those for its `purpose`; `outside` what happens to light above 1
    and below 0.

    `edge_follows_top` where an endless card makes the result endless.
    `keeps_nothing`: on nothing the card comes out as it is. `lays`: a picture can be laid on a card by it as well.
    """

    kind: str
    title: str
    purpose: Purpose
    linear: Kernel
    display: Kernel | None
    formula: str
    outside: str
    usual: BlendIn = "linear"
    edge_follows_top: bool = True
    keeps_nothing: bool = True
    lays: bool = False
    aliases: tuple[str, ...] = ()

    def kernel(self, blend_in: BlendIn | None = None) -> Kernel:
        """Its loop where colours are blended in linear light or as sRGB values."""
        return self.display if self.display is not None and (blend_in or self.usual) == "display" else self.linear

    def edge(self, top: Edge, below: Edge) -> Edge:
        """What stands outside the joined picture."""
        if below == "extend" or (top == "extend" and self.edge_follows_top):
            return "extend"
        return below if below != "one" else "empty"


JOINS: Registry[Join] = Registry("join")


def join(kind: str, top: Picture, below: Picture, window: Window, opacity: float = 1.0, blend_in: BlendIn | None = None) -> Picture:
    """Join two RGBA pictures on a window; at opacity 0 the picture below comes back bit for bit."""
    chosen = JOINS.get(kind)
    edge = chosen.edge(top.edge, below.edge)
    backdrop = below.crop(window)
    if opacity == 0:
        return Picture(backdrop.pixels, window, edge)
    return Picture(joined(chosen.kernel(blend_in), top.crop(window).pixels, backdrop.pixels, opacity), window, edge)


def joined(kernel: Kernel, top: Any, below: Any, opacity: float) -> Any:
    """Run the loop of a join on two RGBA arrays of one shape."""
    out = blank(*below.shape)
    kernel(ready(top), ready(below), np.float32(opacity), out)
    return out


def laid(kind: str, top: Any, below: Any, amount: float) -> Any:
    """RGBA laid on another of one shape inside that one's alpha, which stays as it is. An amount above 1 is a gain of its light.

    The picture below counts as opaque where it is: out = B + b (joined(A, B / b) - B / b) (Porter and Duff's "atop", with a blend
    in place of over).
    """
    chosen = _laying(kind)
    top = _gained(top, amount)
    below, single, out = ready(below), opaque(below), blank(*below.shape)
    pairing.put_inside(below, single, joined(chosen.kernel(), top, single, min(amount, 1.0)), out)
    return out


def laid_as_second(kind: str, top: Any, below: Any, amount: float) -> Any:
    """RGBA laid on another as a second picture of its own that goes beyond it. By plus it is light, and the alpha below stays."""
    out = joined(_laying(kind).kernel(), _gained(top, amount), below, min(amount, 1.0))
    if kind == "plus":
        out[..., 3] = below[..., 3]
    return out


def _laying(kind: str) -> Join:
    chosen = JOINS.get(kind)
    if not chosen.lays:
        raise UmbraxError("bad-join", f"nothing is laid on a card by {kind}; use {', '.join(one.kind for one in JOINS if one.lays)}")
    return chosen


def _gained(top: Any, amount: float) -> Any:
    """Its light and its alpha times an amount above 1; alpha at most 1."""
    if amount <= 1:
        return top
    return np.concatenate([top[..., :3] * np.float32(amount), np.minimum(top[..., 3:] * np.float32(amount), 1)], axis=2)


def opaque(picture: Any) -> Any:
    """RGBA divided by its alpha, alpha 1."""
    out = blank(*picture.shape)
    pairing.alone(ready(picture), out)
    return out
