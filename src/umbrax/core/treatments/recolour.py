"""Recolour: brightness becomes colours of one's own, dark or light may become transparent."""

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from ..colour import LUMA_BT709, Weights
from ..document.timing import Level
from ..kernels.colouring import recolour_rows
from .around import of_luma
from .base import AtTouch, ThroughParams
from .by_colour import by_rows, colour_treatment

Unit = Annotated[float, Field(ge=0, le=1)]
Stop = tuple[float, tuple[Level, Level, Level], Unit]


def _rising(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    if any(later[0] <= earlier[0] for earlier, later in pairwise(stops)):
        raise ValueError("expected stops at rising places")
    return stops


class RecolourParams(ThroughParams):
    """The colour at the luma of each pixel, between stops of colour and alpha; with `keep_light` at the pixel's own luma."""

    kind: Literal["recolour"]
    stops: Annotated[tuple[Stop, ...], AfterValidator(_rising)] = Field(
        ((0.0, (0.02, 0.05, 0.06), 1.0), (0.5, (0.55, 0.42, 0.3), 1.0), (1.0, (1.0, 0.95, 0.85), 1.0)),
        title="Stops", min_length=1, max_length=32, json_schema_extra={"widget": "stops", "always": True},
    )  # fmt: skip
    keep_light: bool = Field(False, title="Keep light", description="colours at the brightness that was there")


def settings(params: RecolourParams, luma: Weights = LUMA_BT709) -> list[float]:
    # colours are mixed as associated light: a transparent stop has none
    stops = [(at, [*(value * alpha for value in colour), alpha]) for at, colour, alpha in params.stops]
    ramps: list[float] = []
    for (start, below), (end, above) in pairwise(stops):
        ramps += [start, 1 / (end - start), *(b - a for a, b in zip(below, above, strict=True))]
    return [*luma, float(params.keep_light), float(len(stops) - 1), *stops[0][1], *ramps]


colour_treatment(
    "recolour",
    "Recolour",
    RecolourParams,
    by_rows(lambda params: recolour_rows, settings),
    lambda params: False,
    "brightness becomes colours of a gradient",
    touch=AtTouch("colour", "r", 3, {}),
    knows=of_luma,
)
