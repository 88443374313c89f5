"""Where a card stands, as a document says it."""

from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, model_validator

from .parameters import Parameters, number
from .timing import Animated, Keys, Number, Point

SMALLEST, LARGEST = 1e-3, 1e3


def both(value: Any) -> Any:
    """One number for two that are alike."""
    return (value, value) if isinstance(value, int | float) and not isinstance(value, bool) else value


Scale = Annotated[tuple[float, float], BeforeValidator(both), Animated()]


class Placing(Parameters):
    """Scaled and turned about a point, then moved; everything may be keyed. A scale below 0 mirrors."""

    move: Point = Field((0.0, 0.0), title="Move", json_schema_extra={"unit": "px", "soft": [-500, 500], "step": 1, "formula": "right, down"})
    turn: Number = number(
        0.0, "Turn", unit="°", low=-36000, high=36000, soft=(-180, 180), step=0.5, formula="counter-clockwise as seen on the screen"
    )
    scale: Scale = Field((1.0, 1.0), title="Scale", json_schema_extra={"soft": [0, 4], "step": 0.01, "formula": "across, down"})
    about: Point | None = Field(None, title="About", description="the point that stays; the middle of the frame without one")
    filter: Literal["bilinear", "cubic", "lanczos"] = Field("cubic", title="Filter", description="between pixels; what shrinks is averaged")

    @model_validator(mode="after")
    def _of_some_size(self) -> "Placing":
        values = [key[1] for key in self.scale.keys] if isinstance(self.scale, Keys) else [self.scale]
        for value in values:
            if any(not SMALLEST <= abs(one) <= LARGEST for one in value):
                raise ValueError(f"expected a scale from {SMALLEST} to {LARGEST:g}, or below 0 as much, got {value[0]:g}, {value[1]:g}")
        return self
