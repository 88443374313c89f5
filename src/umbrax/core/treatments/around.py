"""What a treatment may ask for besides its card's own picture."""

from typing import Any, Protocol

from ..colour import LUMA_BT709, Weights
from ..document.parameters import MatteRef
from ..document.tiling import Tiling
from ..picture import Window
from ..plan.steps import Step


class Around(Protocol):
    """What a treatment may ask for besides its card's own picture, while it is planned; made only when asked.

    Everything stands where the card's picture stands then: in the picture's own pixels for colour treatments, else in the frame.
    """

    frame: int
    display: Window
    luma: Weights  # of linear red, green and blue

    def below(self) -> Step:
        """The picture so far behind the card, RGBA."""
        ...

    def shown(self) -> Step:
        """The card's own picture, RGBA, before light spreads from it; for a treat card the picture so far."""
        ...

    def at_full_size(self) -> "Around":
        """The same at full size, whatever scale is made."""
        ...

    def alpha(self) -> Step:
        """The alpha of the card's picture where it stands, before anything spatial is done to it; one channel."""
        ...

    def of_pass(self, wanted: str) -> Step:
        """A pass of the card's own source by name or kind, with its own channels."""
        ...

    def depth(self, wanted: str) -> Step:
        """The depth of the card's picture, one channel: a pass of its source by name or kind, or what the card says; of a treat card
        that of the picture so far."""
        ...

    def depth_told_apart(self, wanted: str) -> Step:
        """The same in two channels, as `plan.depth.told_apart` gives it: near and far told apart, and so for what is partly covered."""
        ...

    def turn(self) -> tuple[float, float, float, float]:
        """What the card's placing makes of steps: x' = a x + b y, y' = d x + e y, as (a, b, d, e)."""
        ...

    def tiled(self, source: str, how: Tiling) -> Step:
        """Another source's picture, again and again, RGBA."""
        ...

    def matte(self, reference: MatteRef) -> Step:
        """The coverage of a matte, one channel."""
        ...


def of_frame(params: Any, around: Around) -> dict[str, Any]:
    """What a treatment gets that knows of nothing but the frame."""
    return {"display": around.display}


def of_luma(params: Any, around: Around) -> dict[str, Any]:
    """What one gets that looks at brightness: the weights of it, where they are not BT.709's."""
    return {} if around.luma == LUMA_BT709 else {"luma": around.luma}
