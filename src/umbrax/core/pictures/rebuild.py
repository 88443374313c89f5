"""Rebuild: the beauty put together from its light passes, each with its own gain and tint."""

from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..document.parameters import Parameters, colour, number
from ..document.timing import Colour, Number
from ..errors import UmbraxError
from ..kernels.joining import add_scaled
from ..picture import Picture
from ..plan.reader import LIGHTS, FrameInfo
from ..plan.steps import Planner, Step, pointwise
from .base import PICTURES, PictureKind, PictureParams, alpha_of


class Light(Parameters):
    """How much of one light pass goes into the sum."""

    gain: Number = number(1.0, "Gain", low=0, high=1000, soft=(0, 4), formula="sum of gain x tint x pass")
    tint: Colour = colour((1.0, 1.0, 1.0), "Tint")
    enabled: bool = True


class RebuildPicture(PictureParams):
    """The sum of light passes by name or kind; without `lights`, all the source has. Alpha is the beauty's.

    `rest` adds what all light passes together leave of the beauty, so that the sum of all is the beauty exactly.
    """

    kind: Literal["rebuild"]
    source: str
    lights: dict[str, Light] = Field(default_factory=dict)
    rest: Light | None = None


def light_passes(info: FrameInfo) -> list[str]:
    """The light passes of a source, in the file's order."""
    return [p.name for p in info.passes.values() if p.kind in LIGHTS and p.view is None]


def _build(planner: Planner, params: RebuildPicture, scale: int, join: str) -> Step:
    info = planner.source(params.source)
    lights = params.lights or {name: Light() for name in light_passes(info)}
    if not lights:
        raise UmbraxError("no-lights", f"source {params.source!r} has no light passes to rebuild from; use its beauty instead")
    used = [(planner.read(params.source, info.find(name).name, scale, shown=True), light) for name, light in lights.items() if light.enabled]
    rest = params.rest if params.rest is not None and params.rest.enabled and info.has("beauty") else None
    if rest is not None:
        used = _with_rest(planner, params.source, scale, used, rest)
    alpha = alpha_of(planner, params.source, scale)
    gains = [np.array(light.tint, np.float32) * np.float32(light.gain) for _, light in used]
    inputs = [step for step, _ in used] + ([alpha] if alpha is not None else [])

    def compute(given: tuple[Picture, ...]) -> Any:
        shape = given[0].pixels.shape[:2]
        out = np.zeros((*shape, 4), np.float32)
        out[..., 3:] = given[-1].pixels if alpha is not None else 1
        for picture, gain in zip(given, gains, strict=False):
            add_scaled(out, picture.pixels, gain)
        return out

    if not inputs:
        raise UmbraxError("no-lights", "every light of this rebuild is switched off; switch one on or switch the card off")
    return pointwise("rebuild 1", [gain.tolist() for gain in gains], inputs, compute, channels=4, where=planner.where)


def _with_rest(planner: Planner, source: str, scale: int, used: list[tuple[Step, Light]], rest: Light) -> list[tuple[Step, Light]]:
    """The lights and, last, the beauty less all light passes of the source."""
    info = planner.source(source)
    steps = [planner.read(source, info.find("beauty").name, scale)]
    steps += [planner.read(source, name, scale) for name in light_passes(info)]

    def compute(given: tuple[Picture, ...]) -> Any:
        out = np.array(given[0].pixels[..., :3])
        for picture in given[1:]:
            out -= picture.pixels[..., :3]
        return out

    return [*used, (pointwise("rest 1", None, steps, compute, channels=3, where=planner.where), rest)]


PICTURES.register(PictureKind("rebuild", "Rebuild", RebuildPicture, _build, lambda params: (params.source,)))
