"""Tones: shadows, middle and highlights by lift, gamma and gain for each channel."""

from typing import Literal

from ..document.parameters import by_channel
from ..document.timing import Colour
from ..kernels.colouring import tone_rows
from .base import AtTouch, ThroughParams
from .by_colour import by_rows, colour_treatment

ONES, ZEROS = (1.0, 1.0, 1.0), (0.0, 0.0, 0.0)


class TonesParams(ThroughParams):
    """y = (gain (x + lift (1 - x)))^(1 / gamma) in scene-linear light; 1 times gain stays where lift moves 0."""

    kind: Literal["tones"]
    lift: Colour = by_channel(ZEROS, "Lift", formula="gain (x + lift (1 - x))", soft=(-0.2, 0.2))
    gamma: Colour = by_channel(ONES, "Gamma", formula="x^(1 / gamma); negatives stay", soft=(0.3, 3))
    gain: Colour = by_channel(ONES, "Gain", formula="gain (x + lift (1 - x))", soft=(0, 3))


def settings(params: TonesParams) -> list[float]:
    return [*params.gain, *params.lift, *(1 / max(g, 0.01) for g in params.gamma)]


def neutral(params: TonesParams) -> bool:
    return (params.lift, params.gamma, params.gain) == (ZEROS, ONES, ONES)


colour_treatment(
    "tones",
    "Tones",
    TonesParams,
    by_rows(lambda params: tone_rows, settings),
    neutral,
    "lift, gamma and gain of each channel on one plot",
    touch=AtTouch("colour", "t", 2, {"lift": [0.02, 0.02, 0.02], "gain": [1.15, 1.15, 1.15]}),
)
