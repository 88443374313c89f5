"""Levels: what is black and white in the picture, and what they become."""

from typing import Annotated, Any, Literal

from pydantic import BeforeValidator

from ..document.parameters import by_channel
from ..document.timing import Animated, Level
from ..kernels.colouring import level_rows, straight_level_rows
from .base import ThroughParams
from .by_colour import by_rows, colour_treatment

ONES, ZEROS = (1.0,) * 3, (0.0,) * 3


def _three(value: Any) -> Any:
    return (value,) * 3 if isinstance(value, int | float) and not isinstance(value, bool) else value


Three = Annotated[tuple[Level, Level, Level], BeforeValidator(_three), Animated()]


class LevelsParams(ThroughParams):
    """y = ((x - black) / (white - black))^(1 / gamma) (out white - out black) + out black, in scene-linear light, for each channel."""

    kind: Literal["levels"]
    black: Three = by_channel(ZEROS, "Black", formula="becomes out black", soft=(-0.2, 1))
    white: Three = by_channel(ONES, "White", formula="becomes out white", soft=(0, 4))
    gamma: Three = by_channel(ONES, "Gamma", formula="x^(1 / gamma); negatives stay", soft=(0.2, 4))
    out_black: Three = by_channel(ZEROS, "Out black", soft=(0, 1))
    out_white: Three = by_channel(ONES, "Out white", soft=(0, 2))


def settings(params: LevelsParams) -> list[float]:
    per = [1 / (w - b if abs(w - b) > 1e-6 else 1e-6) for b, w in zip(params.black, params.white, strict=True)]
    powers = [1 / max(g, 0.01) for g in params.gamma]
    span = [w - b for b, w in zip(params.out_black, params.out_white, strict=True)]
    return [*params.black, *per, *powers, *span, *params.out_black]


def neutral(params: LevelsParams) -> bool:
    ends = (params.black, params.white, params.out_black, params.out_white)
    return params.gamma == ONES and ends == (ZEROS, ONES, ZEROS, ONES)


colour_treatment(
    "levels",
    "Levels",
    LevelsParams,
    by_rows(lambda params: straight_level_rows if params.gamma == ONES else level_rows, settings),
    neutral,
    "black, white and gamma, and what they become",
)
