"""How a picture of a surface is tiled, scaled and turned about the frame's corner."""

from pydantic import Field

from .parameters import Parameters, number
from .timing import Number, Point


class Tiling(Parameters):
    """Which picture, and how it lies; it goes on for ever."""

    pass_: str | None = Field(None, alias="pass", title="Pass")
    scale: Number = number(1.0, "Scale", low=0.01, high=100, soft=(0.1, 4), step=0.01)
    turn: Number = number(0.0, "Turn", unit="°", low=-3600, high=3600, soft=(-180, 180), step=1, formula="counter-clockwise")
    move: Point = Field((0.0, 0.0), title="Move", json_schema_extra={"widget": "way", "unit": "px", "soft": [-500, 500], "step": 1})
