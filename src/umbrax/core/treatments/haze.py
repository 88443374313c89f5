"""Haze by depth: the farther away, the more of it lies between."""

from typing import Literal

from pydantic import Field

from ..document.parameters import choice, colour, number
from ..document.timing import Colour, Number
from ..kernels.finishing import hazed
from ..picture import Picture, Window
from ..plan.steps import Step
from ..repair.depth import RIM, depth_on, known_depth
from .base import TREATMENTS, USUAL_TOLERANCE, Around, AtTouch, ThroughParams, Treatment


class HazeParams(ThroughParams):
    """c + (colour - c)(1 - exp(-density z)), z the depth in the units of the scene."""

    kind: Literal["haze"]
    density: Number = number(0.02, "Density", low=0, high=100, soft=(0, 0.2), step=0.001, formula="1 - exp(-density z)")
    colour: Colour = colour((0.42, 0.47, 0.55), "Colour")
    near: Number = number(0.0, "Near", low=-1e6, high=1e6, soft=(0, 100), step=0.1, formula="z = depth - near, at least 0")
    nothing: Literal["full", "none"] = choice("full", "Nothing there", "what is done where depth says that nothing is there")
    pass_: str = Field("depth", alias="pass", title="Depth", description="the pass, by name or kind")


def apply(params: HazeParams, own: Picture, window: Window, scale: int, *, depth: Picture) -> Picture:
    given = own.crop(window).pixels
    z = known_depth(depth_on(depth, window.grown(RIM)))[RIM:-RIM, RIM:-RIM]
    nothing = float(params.nothing == "full")
    return Picture(hazed(given, z, params.density, params.near, nothing, params.colour), window, own.edge)


def _looks(params: HazeParams, around: Around) -> dict[str, Step]:
    return {"depth": around.of_pass(params.pass_)}


TREATMENTS.register(
    Treatment(
        "haze",
        "Haze",
        "colour",
        HazeParams,
        2,
        apply,
        lambda params: params.density == 0 and params.nothing == "none",
        lambda params, scale: 0,
        USUAL_TOLERANCE,
        looks=_looks,
        needs=lambda params, window, scale: {"depth": window.grown(RIM)},
        grows=False,
        elements_only=True,
        touch=AtTouch("colour", "h", 4, {"density": 0.02}),
        summary="the farther away, the more haze lies between",
    )
)
