"""Pictures that are one pass of a source: any pass, and plates."""

import math
from typing import Any, Literal

import numpy as np
from pydantic import Field, model_validator

from ..document.parameters import Parameters, choice
from ..picture import Edge, Picture, Window
from ..plan.placed import placed
from ..plan.placement import Placement
from ..plan.steps import Planner, Step, pointwise
from .base import PICTURES, PictureKind, PictureParams, as_rgba

RAW_MULTIPLIERS = ("shadow", "line", "occlusion")


class PassPicture(PictureParams):
    """One pass as it is."""

    kind: Literal["pass"]
    source: str
    pass_: str = Field("beauty", alias="pass", title="Pass")
    channel: Literal["red", "green", "blue", "alpha", "luma"] | None = Field(None, title="Channel", description="one of it as grey")


class Timing(Parameters):
    """Which frame of a source is shown when: `offset + speed x` the frames since the shot began, counted in a span of its frames.

    Without a span all are counted from the shot's first frame on, and there is nothing beyond.
    """

    offset: float = Field(0.0, ge=-1e6, le=1e6, title="Offset", json_schema_extra={"unit": "frames", "soft": [-50, 50], "step": 1})
    speed: float = Field(1.0, ge=-100, le=100, title="Speed", json_schema_extra={"soft": [0, 4], "step": 0.05})
    span: tuple[int, int] | None = Field(None, description="its first and last frame, as frames of the shot")
    beyond: Literal["hold", "loop", "bounce"] = choice("hold", "Beyond", "what comes after the last frame of the span")
    reverse: bool = Field(False, title="Reverse", description="from the last to the first")

    @model_validator(mode="after")
    def _in_order(self) -> "Timing":
        if self.span is not None and self.span[1] < self.span[0]:
            raise ValueError(f"expected a span from first to last, got {self.span[0]} to {self.span[1]}")
        return self

    def frame_at(self, frame: int, first: int) -> int:
        """The frame of the shot at which the source is read.

        >>> [Timing(span=(10, 12), beyond="bounce").frame_at(frame, 1) for frame in range(1, 8)]
        [10, 11, 12, 11, 10, 11, 12]
        """
        count = math.floor(self.offset + self.speed * (frame - first) + 1e-9)
        if self.span is None:
            return first + count
        last = self.span[1] - self.span[0]
        if self.beyond == "loop":
            count %= last + 1
        elif self.beyond == "bounce" and last > 0:
            count %= 2 * last
            count = min(count, 2 * last - count)
        count = max(0, min(last, count))
        return self.span[0] + (last - count if self.reverse else count)


class PlatePicture(PictureParams):
    """A background that was filmed or photographed: it fills the frame, and its border goes on outside."""

    kind: Literal["plate"]
    source: str
    size: Literal["own", "fit", "fill", "stretch"] = choice("own", "Size", "as it is, all of it seen, all covered, or both sides fitted")
    time: Timing = Field(default_factory=Timing)


def channel_of(step: Step, channel: str, planner: Planner) -> Step:
    """One channel of RGBA as an opaque grey where the picture is; alpha as a grey of its own."""
    weights = {"red": (1.0, 0.0, 0.0), "green": (0.0, 1.0, 0.0), "blue": (0.0, 0.0, 1.0), "luma": planner.luma}

    def compute(given: tuple[Picture, ...]) -> Any:
        pixels = given[0].pixels
        if channel == "alpha":
            return np.concatenate([np.repeat(pixels[..., 3:], 3, axis=2), np.ones_like(pixels[..., 3:])], axis=2)
        grey = pixels[..., :3] @ np.array(weights[channel], np.float32)
        return np.dstack([grey, grey, grey, pixels[..., 3]])

    return pointwise("channel 1", [channel, weights.get(channel)], [step], compute, channels=4, edge=step.edge, where=planner.where)


def _pass(planner: Planner, params: PassPicture, scale: int, join: str) -> Step:
    info = planner.source(params.source).find(params.pass_)
    edge: Edge | None = "one" if info.kind in RAW_MULTIPLIERS and join == "multiply" else None
    step = as_rgba(planner, params.source, info.name, scale, edge)
    return step if params.channel is None else channel_of(step, params.channel, planner)


def _plate(planner: Planner, params: PlatePicture, scale: int, join: str) -> Step:
    info = planner.source(params.source)
    name = info.find("beauty").name if info.has("beauty") else next(iter(info.passes))
    edge: Edge | None = None if info.find(name).has_alpha else "extend"
    step = as_rgba(planner, params.source, name, scale, edge)
    if params.size == "own":
        return step
    return placed(step, sized(info.display, planner.display, params.size), scale, scale, planner.display.scaled(scale), planner.where)


def _plate_at(params: PlatePicture, frame: int, first: int) -> int:
    return frame if params.time == Timing() else params.time.frame_at(frame, first)


def sized(own: Window, frame: Window, how: str) -> Placement:
    """What puts a picture's own display window onto the frame, middle on middle."""
    across, down = frame.width / max(own.width, 1), frame.height / max(own.height, 1)
    if how != "stretch":
        across = down = min(across, down) if how == "fit" else max(across, down)
    x = (frame.x0 + frame.x1) / 2 - across * (own.x0 + own.x1) / 2
    y = (frame.y0 + frame.y1) / 2 - down * (own.y0 + own.y1) / 2
    return Placement(across, 0.0, x, 0.0, down, y).rounded()


PICTURES.register(PictureKind("pass", "Pass", PassPicture, _pass, lambda params: (params.source,)))
PICTURES.register(PictureKind("plate", "Plate", PlatePicture, _plate, lambda params: (params.source,), read_at=_plate_at))
