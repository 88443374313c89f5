"""Sharpen: what a picture has more than its surroundings is added to it again (unsharp masking, common practice)."""

from typing import Literal

from ..document.parameters import number
from ..document.timing import Number
from ..kernels.blur import reach
from ..kernels.finishing import sharpened
from ..picture import Picture, Window
from .base import TREATMENTS, USUAL_TOLERANCE, ThroughParams, Treatment, finer_for
from .soften import softened


class SharpenParams(ThroughParams):
    """Detail finer than the size, made stronger; an edge against nothing is no detail."""

    kind: Literal["sharpen"]
    size: Number = number(1.5, "Size", unit="px", low=0, high=200, soft=(0, 20), step=0.1, formula="sigma of the surroundings")
    strength: Number = number(
        0.5, "Strength", low=0, high=20, soft=(0, 3), formula="c + strength (c - mean), mean = blur(c) / blur(alpha); none below 0"
    )


def apply(params: SharpenParams, own: Picture, window: Window, scale: int) -> Picture:
    """Colours move away from the mean of what is around them, weighed by alpha, so that no rim is taken for detail; alpha stays."""
    given = own.crop(window).pixels
    around = softened(own, window, params.size / scale, params.size / scale).pixels
    return Picture(sharpened(given, around, params.strength), window, own.edge)


TREATMENTS.register(
    Treatment(
        "sharpen",
        "Sharpen",
        "spatial",
        SharpenParams,
        1,
        apply,
        lambda params: params.size == 0 or params.strength == 0,
        lambda params, scale: reach(params.size / scale),
        USUAL_TOLERANCE,
        made_at=lambda params, scale: finer_for(params.size, scale),
        grows=False,
        summary="fine detail made stronger",
    )
)
