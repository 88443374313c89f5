"""Rebuild: the beauty put together from its light passes, each with its own gain and tint."""

from collections.abc import Iterable
from dataclasses import replace
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..document.parameters import MatteRef, MatteReference, Parameters, colour, number
from ..document.timing import Colour, Number
from ..errors import UmbraxError
from ..kernels.joining import add_scaled
from ..picture import Picture
from ..plan.reader import GROUP, LIGHTS, PARTS, FrameInfo, parts_among
from ..plan.steps import Planner, Step, pointwise
from .base import PICTURES, PictureKind, PictureParams, alpha_of, ending


class Light(Parameters):
    """How much of one light pass goes into the sum."""

    gain: Number = number(1.0, "Gain", low=0, high=1000, soft=(0, 4), formula="sum of gain x tint x pass")
    tint: Colour = colour((1.0, 1.0, 1.0), "Tint")
    enabled: bool = True
    matte: MatteReference | None = Field(None, title="Matte", description="where it shines, of what it would")
    times: str | None = Field(None, title="Times", description="the pass that multiplies it, as surface colour does light without it")


class RebuildPicture(PictureParams):
    """The sum of light passes by name or kind; without `lights`, all the source has. Alpha is the beauty's.

    `rest` adds what all light passes together leave of the beauty, so that the sum of all is the beauty exactly; with a light group among
    the lights, what all groups and the other lights here leave. Lights that the source does not have (any more) are left out.
    """

    kind: Literal["rebuild"]
    source: str
    lights: dict[str, Light] = Field(default_factory=dict)
    rest: Light | None = None


def light_passes(info: FrameInfo, kinds: tuple[str, ...] = PARTS) -> list[str]:
    """The light passes of a source, in the file's order."""
    return [p.name for p in info.passes.values() if p.kind in kinds and p.view is None]


def all_lights(info: FrameInfo) -> list[str]:
    """Light passes that add up to the beauty: none that are parts of others, and its light groups only where there are no others."""
    parts = parts_of_lights(info)
    return [name for name in light_passes(info, LIGHTS) if name not in parts] or light_passes(info, (GROUP,))


def parts_of_lights(info: FrameInfo) -> set[str]:
    """Light passes that are a part of one that is there whole, as direct light of all diffuse light."""
    return parts_among([info.passes[name] for name in light_passes(info, LIGHTS)])


def beside(info: FrameInfo, lights: Iterable[str]) -> list[str]:
    """All light passes among which some lights, by name or kind, are: what these and the rest of a beauty are told apart from."""
    names = [info.find(light).name for light in lights if info.has(light)]
    if not any(info.passes[name].kind == GROUP for name in names):
        return all_lights(info)
    return list(dict.fromkeys([*light_passes(info, (GROUP,)), *names]))


def _build(planner: Planner, params: RebuildPicture, scale: int, join: str) -> Step:
    info = planner.source(params.source)
    lights = params.lights or {name: Light() for name in all_lights(info)}
    if not lights:
        raise UmbraxError("no-lights", f"source {params.source!r} has no light passes to rebuild from; use its beauty instead")
    there = {name: info.find(name) for name in lights if info.has(name)}
    used = [(planner.read(params.source, there[name].name, scale, shown=True), lights[name]) for name in there if lights[name].enabled]
    rest = params.rest if params.rest is not None and params.rest.enabled and info.has("beauty") else None
    if rest is not None:
        used.append((_less(planner, params.source, beside(info, params.lights), scale), rest))
    elif not there:
        raise UmbraxError("no-pass", f"none of its lights is in {params.source!r} any more: {', '.join(lights)}; choose others, or the beauty")
    used = [(_limited(planner, params.source, step, light, scale), light) for step, light in used]
    alpha = alpha_of(planner, params.source, scale)
    gains = [np.array(light.tint, np.float32) * np.float32(light.gain) for _, light in used]
    inputs = [step for step, _ in used] + ([alpha] if alpha is not None else [])

    def compute(given: tuple[Picture, ...]) -> Any:
        shape = given[0].pixels.shape[:2]
        out = np.zeros((*shape, 4), np.float32)
        out[..., 3:] = given[-1].pixels if alpha is not None else 1
        for picture, gain in zip(given, gains, strict=False):
            out = add_scaled(out, picture.pixels, gain)
        return out

    if not inputs:
        raise UmbraxError("no-lights", "every light of this rebuild is switched off; switch one on or switch the card off")
    domain, edge = ending(planner, [step.domain for step in inputs], alpha is not None, scale)
    told = [gain.tolist() for gain in gains]
    made = pointwise("rebuild 1", told, inputs, compute, channels=4, edge=edge, domain=domain, where=planner.where)
    return made if alpha is None else replace(made, alpha=replace(alpha, edge=edge, domain=domain))


def _limited(planner: Planner, source: str, step: Step, light: Light, scale: int) -> Step:
    """A light times the pass and the share of a matte that it is to be multiplied by."""
    if light.matte is None and light.times is None:
        return step
    factors: list[Step] = []
    if light.times is not None:
        info = planner.source(source)
        factors.append(planner.read(source, info.find(light.times).name, scale, shown=True))
    invert = light.matte is not None and light.matte.invert
    if light.matte is not None:
        factors.append(planner.matte_planes(light.matte, scale))

    def compute(given: tuple[Picture, ...]) -> Any:
        out = np.array(given[0].pixels[..., :3])
        if light.times is not None:
            out *= given[1].pixels[..., :3]
        if light.matte is not None:
            share = given[-1].pixels[..., 1:2]
            out *= 1 - share if invert else share
        return out

    told = [light.times is not None, light.matte is not None, invert]
    return pointwise("light limited 1", told, [step, *factors], compute, channels=3, domain=step.domain, where=planner.where)


def _less(planner: Planner, source: str, lights: list[str], scale: int) -> Step:
    """The beauty less some light passes as they were rendered."""
    steps = [planner.read(source, planner.source(source).find("beauty").name, scale)]
    steps += [planner.read(source, name, scale) for name in lights]

    def compute(given: tuple[Picture, ...]) -> Any:
        out = np.array(given[0].pixels[..., :3])
        for picture in given[1:]:
            out -= picture.pixels[..., :3]
        return out

    return pointwise("rest 1", None, steps, compute, channels=3, where=planner.where)


def residue(planner: Planner, params: RebuildPicture, scale: int) -> Step | None:
    """What the light passes of a rebuild that are on, as they were rendered, leave of the beauty; None where there is no beauty."""
    info = planner.source(params.source)
    if not info.has("beauty"):
        return None
    used = [name for name, light in params.lights.items() if light.enabled and info.has(name)]
    names = [info.find(name).name for name in used] if params.lights else all_lights(info)
    return _less(planner, params.source, names, scale)


def _mattes(params: RebuildPicture) -> tuple[MatteRef, ...]:
    lights = [*params.lights.values(), *([params.rest] if params.rest is not None else [])]
    return tuple(light.matte for light in lights if light.matte is not None)


PICTURES.register(PictureKind("rebuild", "Rebuild", RebuildPicture, _build, lambda params: (params.source,), mattes=_mattes))
