"""Treatments -> steps: one that replaces its input, limited by a matte and its amount; one that is laid on; light that spreads."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..errors import Where
from ..joins import laid, laid_as_second, opaque
from ..kernels import blank, joining, ready
from ..kernels.lit import lit_part
from ..picture import Picture, Window, nothing
from ..treatments.base import Around, SpreadParams, ThroughParams, Treatment, TreatmentParams
from .steps import Step, content_key, pointwise

ONES = np.ones((1, 1, 1), np.float32)


def settings(params: TreatmentParams) -> dict[str, Any]:
    """What of a treatment changes its pixels: not its name, place or how much of it is mixed in, nor what feeds it."""
    shared = set(SpreadParams.model_fields) if isinstance(params, SpreadParams) else set(ThroughParams.model_fields)
    return params.model_dump(mode="json", exclude=shared)


@dataclass(frozen=True)
class Asked:
    """What a treatment gets besides its card's own picture, by the names it takes it by: steps, and plain values; and the frame."""

    display: Window
    steps: Mapping[str, Step] = field(default_factory=dict)
    values: Mapping[str, Any] = field(default_factory=dict)


def known_to(treatment: Treatment, params: TreatmentParams, around: Around) -> dict[str, Any]:
    """The plain values that a treatment gets: the frame only where it makes a difference."""
    return {**({"frame": around.frame} if treatment.uses_frame(params) else {}), **treatment.knows(params, around)}


def _known(asked: Asked) -> list[dict[str, Any]]:
    return [dict(asked.values)] if asked.values else []


def asked_of(treatment: Treatment, params: TreatmentParams, around: Around) -> Asked:
    return Asked(around.display, treatment.looks(params, around), known_to(treatment, params, around))


def treated(
    treatment: Treatment, params: TreatmentParams, own: Step, asked: Asked, weight: Step | None, scale: int, where: Where
) -> Step:  # fmt: skip
    """A card's picture after a treatment that replaces it."""
    lay = params.lay if isinstance(params, ThroughParams) else None
    if treatment.mixed and lay is None and (weight is not None or params.amount != 1):
        return _treated_at_once(treatment, params, own, asked, weight, scale, where)
    reach = treatment.reach(params, scale)
    frame, domain = asked.display.scaled(scale), own.domain
    if treatment.grows:
        # what the frame cuts off goes on by itself: all else of it ends within
        domain = domain.grown_within(frame, reach) if own.edge == "extend" else domain.grown(reach)
    if treatment.fills_frame:
        domain = domain.union(frame)
    result = applied(treatment, params, own, asked, scale, domain, own.channels, where)
    if lay is None:
        return mixed(own, result, weight, params.amount, where)
    return mixed(own, _laid(own, result, lay.join, params.amount, treatment.grows, where), weight, 1.0, where)


def _laid(own: Step, result: Step, join: str, amount: float, grows: bool, where: Where) -> Step:
    """What a treatment made, laid on its input: inside its alpha, or beyond it where the treatment goes beyond."""

    def compute(given: tuple[Picture, ...]) -> Any:
        below, top = given[0].pixels, given[1].pixels
        return laid_as_second(join, top, below, amount) if grows else laid(join, opaque(top), below, amount)

    return pointwise("laid on 1", [join, amount, grows], [own, result], compute, channels=4, edge=own.edge, where=where)


def applied(
    treatment: Treatment, params: TreatmentParams, own: Step, asked: Asked, scale: int, domain: Window, channels: int,
    where: Where, light: bool = False,
) -> Step:  # fmt: skip
    """The step of a treatment in full: what it makes of a picture, or of a plane of light, and of what else it looks at."""
    inputs = {"own": own, **asked.steps}

    def needs(window: Window) -> tuple[Window, ...]:
        wanted = {name: treatment.wanted(params, window, scale, name) for name in inputs}
        return tuple(step.domain if isinstance(wanted[name], str) else wanted[name] for name, step in inputs.items())  # type: ignore[misc]

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        picture, *others = given
        if light:  # most is dark nearly everywhere
            picture = lit_part(picture)
            if picture.window.empty:
                return nothing(window, channels)
        return treatment.apply(params, picture, window, scale, **asked.values, **dict(zip(asked.steps, others, strict=True)))

    lonely = not asked.steps and treatment.reach(params, scale) == 0
    told = [settings(params), scale, *_known(asked)]
    return Step(
        content_key(f"{treatment.kind} {treatment.version}", told, tuple(inputs.values())), treatment.kind,
        domain, channels, tuple(inputs.values()), needs, run, own.edge if channels == own.channels else "empty", where, lonely,
        whole=treatment.whole,
    )  # fmt: skip


def _treated_at_once(
    treatment: Treatment, params: TreatmentParams, own: Step, asked: Asked, weight: Step | None, scale: int, where: Where
) -> Step:  # fmt: skip
    """A pointwise treatment and its mix in one step: what is not kept in between need not be written."""
    apply = treatment.mixed
    assert apply is not None

    def compute(given: tuple[Picture, ...]) -> Any:
        return apply(params, given[0], given[1] if weight is not None else None, given[0].window, scale, **asked.values).pixels

    told = [settings(params), params.amount, scale, *_known(asked)]
    return pointwise(
        f"{treatment.kind} {treatment.version} mixed", told,
        [own] if weight is None else [own, weight], compute, channels=own.channels, edge=own.edge, domain=own.domain,
        where=where, counted_as=treatment.kind,
    )  # fmt: skip


def mixed(own: Step, result: Step, weight: Step | None, amount: float, where: Where) -> Step:
    """input + (treated - input) clamp(amount x weight)."""
    if weight is None and amount == 1:
        return result
    inputs = [own, result] + ([weight] if weight is not None else [])

    def compute(given: tuple[Picture, ...]) -> Any:
        below, top = given[0].pixels, given[1].pixels
        w = given[2].pixels if weight is not None else np.broadcast_to(ONES, (*below.shape[:2], 1))
        out = blank(*below.shape)
        joining.mix(ready(below), ready(top), ready(w), np.float32(amount), out)
        return out

    return pointwise("mix 1", amount, inputs, compute, channels=own.channels, edge=result.edge,
                     domain=own.domain.union(result.domain), where=where)  # fmt: skip


def spread(treatment: Treatment, params: TreatmentParams, light: Step, asked: Asked, scale: int, where: Where) -> Step:
    """That light, spread at a scale."""
    far = treatment.extent(params, scale) if treatment.extent else treatment.reach(params, scale)
    return applied(treatment, params, light, asked, scale, light.domain.grown(far), 3, where, light=True)


def weighed(picture: Step, weight: Step, where: Where) -> Step:
    """A picture times a matte, alpha included."""
    return pointwise(
        "cut 1", None, [picture, weight], lambda given: weighed_pixels(given[0], given[1]), channels=picture.channels,
        domain=picture.domain, where=where,
    )  # fmt: skip


def dimmed(picture: Step, gain: float) -> Step:
    """A picture times a number, alpha included."""
    if gain == 1:
        return picture
    return pointwise(
        "dimmed 1", gain, [picture], lambda given: given[0].pixels * np.float32(gain), channels=picture.channels, edge=picture.edge,
        domain=picture.domain,
    )  # fmt: skip


def weighed_pixels(picture: Picture, weight: Picture) -> Any:
    out = blank(*picture.pixels.shape)
    joining.scale_by(ready(picture.pixels), ready(weight.pixels), out)
    return out
