"""How a card meets the picture so far.

Adding one: write its kernel in `kernels/joining.py` and register it here.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from .kernels import joining
from .picture import Edge, Picture, Window
from .registry import Registry


@dataclass(frozen=True)
class Join:
    """`kernel` computes it; `title` is what the page shows; `edge_follows_top` where an endless card makes the result endless."""

    kind: str
    title: str
    kernel: Any
    formula: str
    edge_follows_top: bool = True
    aliases: tuple[str, ...] = ()
    outside: str = "nothing is limited"

    def edge(self, top: Edge, below: Edge) -> Edge:
        """What stands outside the joined picture."""
        if below == "extend" or (top == "extend" and self.edge_follows_top):
            return "extend"
        return below if below != "one" else "empty"


JOINS: Registry[Join] = Registry("join")
OVER = JOINS.register(Join("over", "over", joining.over, "o A + (1 - o a) B"))
JOINS.register(Join("under", "under", joining.under, "B + (1 - b) o A"))
JOINS.register(
    Join(
        "plus",
        "add",
        joining.plus,
        "o A + B",
        aliases=("add",),
        outside="alpha is limited to 1, or to what it was if above",
    )
)
JOINS.register(Join("multiply", "multiply", joining.multiply, "A B + (1 - a) B + (1 - b) A"))
JOINS.register(Join("screen", "screen", joining.screen, "A + B - A B", outside="where a value is above 1 the larger one is kept"))

PairKernel = Callable[..., None]


def join(kind: str, top: Picture, below: Picture, window: Window, opacity: float = 1.0) -> Picture:
    """Join two RGBA pictures on a window; at opacity 0 the picture below comes back bit for bit."""
    chosen = JOINS.get(kind)
    edge = chosen.edge(top.edge, below.edge)
    backdrop = below.crop(window)
    if opacity == 0:
        return Picture(backdrop.pixels, window, edge)
    return Picture(joining.joined(chosen.kernel, top.crop(window).pixels, backdrop.pixels, opacity), window, edge)
