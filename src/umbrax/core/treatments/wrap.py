"""Light wrap: light of what lies behind an element comes round its edge."""

import math
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..colour import LUMA_BT709, Weights
from ..document.joining import LightJoin
from ..document.parameters import number
from ..document.timing import Colour, Number
from ..kernels.blur import reach
from ..kernels.distance import signed_distance
from ..kernels.limiting import limited, on_rim, rim_inside
from ..picture import Picture, Window
from .base import TREATMENTS, USUAL_TOLERANCE, AtTouch, LimitedParams, Treatment, alpha_in, finer_for
from .laid_light import in_own_grade, known, own_saturation, own_tint
from .soften import softened

Plane = NDArray[np.float32]
NEAR = 2  # pixels within which something solid makes a rim one


class WrapParams(LimitedParams):
    """W = blur(B (1 - a)) x edge, laid inside the element's alpha; B is the picture so far behind it, limited.

    Edge falls from 1 at the contour a = 0.5 to 0 at `width` inside; what is see-through all around, as glass, is not wrapped.
    """

    kind: Literal["wrap"]
    amount: Number = number(1.0, "Amount", low=0, high=100, soft=(0, 2), formula="W x amount is laid on")
    width: Number = number(15.0, "Width", unit="px", low=0, high=1000, soft=(0, 60), step=0.5, formula="edge = 1 - distance inside / width")
    size: Number = number(15.0, "Size", unit="px", low=0, high=1000, soft=(0, 60), step=0.5, formula="sigma of the blur of what is behind")
    join: LightJoin = Field("screen", title="Join")
    limit: Number = number(4.0, "Limit", low=0, high=1e6, soft=(0.5, 20), formula="max RGB of what is behind is at most limit")
    saturation: Number = own_saturation()
    tint: Colour = own_tint()


def apply(
    params: WrapParams, own: Picture, window: Window, scale: int, *, display: Window, below: Picture, luma: Weights = LUMA_BT709
) -> Picture:
    """The light to lay on, RGBA; its alpha is how bright it is, so that nothing is laid over black."""
    sigma, width = params.size / scale, params.width / scale
    alpha = alpha_in(own, display, scale)
    # beyond all that is known nothing changes any more: how far a blur reaches need not be made
    known = below.window if below.edge == "empty" else below.window.union(own.window)
    lit = window.grown(reach(sigma)).intersect(known)
    behind = limited(below.crop(lit).pixels, params.limit, 1 - alpha.crop(lit).pixels[..., 0], channels=4)
    light = softened(Picture(behind, lit, below.edge), window, sigma, sigma).pixels
    near = window.grown(_rim(params, scale))
    edge = Picture(edge_of(alpha.crop(near).pixels[..., 0], width)[..., None], near).crop(window).pixels[..., 0]
    return Picture(on_rim(in_own_grade(light, params.saturation, params.tint, luma), edge, by_brightness=True), window)


def edge_of(alpha: Plane, width: float) -> Plane:
    """1 at the contour of what is solid, 0 at `width` inside it; weighed by how opaque it gets within a few pixels."""
    solid = cv2.dilate(np.ascontiguousarray(alpha), np.ones((2 * NEAR + 1, 2 * NEAR + 1), np.uint8))
    return rim_inside(signed_distance(alpha, width), np.asarray(solid), width)


def _rim(params: WrapParams, scale: int) -> int:
    """How far from a pixel the edge is looked for that it lies within `width` of."""
    return math.ceil(params.width / scale) + 4


def _reach(params: WrapParams, scale: int) -> int:
    return max(reach(params.size / scale), _rim(params, scale))


def _looks(params: Any, around: Any) -> dict[str, Any]:
    return {"below": around.below()}


TREATMENTS.register(
    Treatment(
        "wrap",
        "Light wrap",
        "surround",
        WrapParams,
        2,
        apply,
        lambda params: params.width == 0 or params.limit == 0,
        _reach,
        USUAL_TOLERANCE,
        looks=_looks,
        knows=known,
        elements_only=True,
        lays=lambda params: params.join,
        made_at=lambda params, scale: finer_for(min(params.size, params.width), scale),
        touch=AtTouch("light", "w", 5, {"width": 15.0, "size": 15.0}, words="Wrap this edge"),
        summary="light from behind comes round the edge",
    )
)
