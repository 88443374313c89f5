"""Spikes: arms of light from what is bright, as the blades of a lens or the struts of a telescope draw them.

Along an arm light falls off as falloff^(d / length), d the distance: at `length` the part `falloff` of what it begins with is left.
All arms of a point together hold its light. Longer waves are spread further (Fraunhofer diffraction: M. Born and E. Wolf, Principles
of Optics, 8.5), by `spread` as much as they are.
"""

import math
from typing import Literal

import numpy as np
from pydantic import Field

from ..document.parameters import number
from ..document.timing import Number
from ..kernels.arms import Arms, arms
from ..kernels.points import points_once
from ..picture import Picture, Window, nothing
from .base import ANYWHERE, TREATMENTS, USUAL_TOLERANCE, AtTouch, SpreadParams, Treatment, finer_for
from .drawn_light import light_from

WAVES = (610.0, 550.0, 465.0)  # nm, of the primaries' dominant wavelengths, rounded
FAINT = 1e-4  # of its beginning: farther out no room is made for an arm


class SpikesParams(SpreadParams):
    """Arms of light, free to go past the matte, the element and the frame."""

    kind: Literal["spikes"]
    arms: int = Field(6, ge=1, le=24, title="Arms", json_schema_extra={"soft": [2, 12], "step": 1})
    angle: Number = number(
        90.0, "Angle", unit="°", low=-3600, high=3600, soft=(0, 180), step=0.5, formula="of the first arm, counter-clockwise from the right"
    )
    length: Number = number(
        120.0, "Length", unit="px", low=1, high=8000, soft=(5, 600), step=1, formula="where `fall-off` of an arm's light is left"
    )
    falloff: Number = number(0.1, "Fall-off", low=0.001, high=0.9, soft=(0.01, 0.5), formula="falloff^(d / length)")
    spread: Number = number(
        0.0, "Colour spread", low=0, high=4, soft=(0, 1), formula="length x (wavelength / 550 nm)^spread: red 610, blue 465 nm"
    )


def apply(params: SpikesParams, own: Picture, window: Window, scale: int) -> Picture:
    """The arms of a plane of light on a window; outside the plane is darkness."""
    points = points_once(own)
    if not points.light.size or window.empty:
        return nothing(window, 3)
    lengths = [params.length / scale * (wave / WAVES[1]) ** params.spread for wave in WAVES]
    keep = np.array([params.falloff ** (1 / length) for length in lengths], np.float32)
    both = params.arms % 2 == 0
    angles = [params.angle + 360 * arm / params.arms for arm in range(params.arms // 2 if both else params.arms)]
    made = arms(points, angles, both, keep, 1 / params.arms, window)
    return light_from(made, window) if isinstance(made, Arms) else Picture(made, window)


def extent(params: SpikesParams, scale: int) -> int:
    longest: float = params.length * (WAVES[0] / WAVES[1]) ** params.spread
    return math.ceil(min(longest * math.log(FAINT) / math.log(params.falloff), 16000) / scale)


TREATMENTS.register(
    Treatment(
        "spikes",
        "Spikes",
        "light",
        SpikesParams,
        1,
        apply,
        lambda params: False,
        lambda params, scale: ANYWHERE,
        USUAL_TOLERANCE,
        extent=extent,
        made_at=lambda params, scale: finer_for(params.length / 4, scale),
        matte_key="feed",
        touch=AtTouch("light", "k", 3, {"threshold": 0.0, "length": 90.0, "amount": 2.0}),
        summary="arms of light from what is bright",
    )
)
