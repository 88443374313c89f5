"""Cast shadow: an element's alpha, moved or laid down, softened and laid over what lies behind it."""

import math
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.parameters import colour, number
from ..document.timing import Colour, Number, Point
from ..kernels.blur import reach
from ..kernels.lit import lit_part
from ..kernels.shearing import sheared
from ..kernels.tinting import tinted
from ..picture import Picture, Window
from ..plan.placed import resampled
from ..plan.placement import Placement
from .base import ANYWHERE, TREATMENTS, USUAL_TOLERANCE, AtTouch, LimitedParams, Treatment, finer_for
from .soften import reach_by_rows, softened, softened_by_rows

FLAT = 1e-3  # of its height is left: it is seen from the side


class CastParams(LimitedParams):
    """density x blur(alpha, sigma = softness x the way it fell), moved by the distance at the angle; under the element, over all behind it.

    Laid down, what stands h above the foot falls length x h from there, at the angle, as in the light of something large and far away. Nothing
    cuts it off. On a wall all of the alpha is in it: its sum is density times that of the element's.
    """

    kind: Literal["cast"]
    amount: Number = number(1.0, "Amount", low=0, high=1, formula="of the shadow where it is laid")
    angle: Number = number(
        -50.0, "Angle", unit="°", low=-36000, high=36000, soft=(-180, 180), step=1, formula="where it falls, counter-clockwise"
    )
    distance: Number = number(24.0, "Distance", unit="px", low=0, high=4000, soft=(0, 200), step=0.5, formula="from the element")
    lay_down: Number = number(
        0.0, "Lay down", low=0, high=1, formula="0 on a wall behind, 1 on the ground: (1 - l) distance + l length h, of which (1 - l) h stand"
    )
    length: Number = number(1.0, "Length", low=0, high=100, soft=(0, 4), formula="laid down: of what is h above the foot, over h")
    foot: Point | None = Field(
        None,
        title="Foot",
        json_schema_extra={"widget": "place", "without": "its lowest place"},
        description="laid down: where it stands on the ground; its lowest place without one",
    )
    softness: Number = number(0.3, "Softness", low=0, high=10, soft=(0, 1), formula="sigma / way: the farther, the softer")
    density: Number = number(0.6, "Density", low=0, high=1, formula="alpha of the shadow where the element is opaque")
    colour: Colour = colour((0.0, 0.0, 0.0), "Colour")


@dataclass(frozen=True)
class _Fall:
    """How a shadow falls, in pixels of a scale: what stands at (x, y), h above the foot, comes to (x + right + aside h, foot + down - tall h).
    The way that it falls is `far` + `farther` h."""

    foot: float
    right: float
    down: float
    aside: float
    tall: float
    far: float
    farther: float

    def box(self, own: Window) -> Window:
        """Where the shadow of something in a window lies."""
        heights = [self.foot - y for y in (own.y0, own.y1)]
        sides = [x + self.right + self.aside * h for h in heights for x in (own.x0, own.x1)]
        rows = [self.foot + self.down - self.tall * h for h in heights]
        return Window(math.floor(min(sides)), math.floor(min(rows)), math.ceil(max(sides)), math.ceil(max(rows))).grown(1)

    def ways(self, rows: NDArray[Any], own: Window) -> NDArray[np.float64]:
        """How far what is seen in rows has fallen; beyond the shadow of what stands in a window, as far as its end."""
        height = np.clip((self.foot + self.down - rows) / self.tall, self.foot - own.y1, self.foot - own.y0)
        return np.asarray(self.far + self.farther * np.abs(height))

    def shadow(self, alpha: Picture, window: Window) -> Picture:
        """Of an alpha on a window, without softness."""
        step = 1 / self.tall  # y = foot - (foot + down - Y) / tall, x = X - right - aside (foot - y)
        rows = (self.foot - step * (self.foot + self.down), step)
        return sheared(alpha, window, rows, (-self.right - self.aside * self.foot, self.aside))


def apply(params: CastParams, own: Picture, window: Window, scale: int) -> Picture:
    """The shadow alone, RGBA."""
    alpha = Picture(np.ascontiguousarray(np.clip(own.pixels[..., 3:], 0, 1)), own.window)
    shadow = _standing(params, alpha, window, scale) if params.lay_down == 0 else _laid_down(params, alpha, window, scale)
    if shadow is None:
        return Picture(np.zeros((window.height, window.width, 4), np.float32), window)
    return Picture(tinted(shadow, [*(params.density * one for one in params.colour), params.density]), window)


def _standing(params: CastParams, alpha: Picture, window: Window, scale: int) -> NDArray[np.float32] | None:
    sigma, (across, down) = _sigma(params, scale), _moved(params, scale)
    way = Placement(c=across, f=down, filter="bilinear")
    near = window.grown(reach(sigma)).intersect(way.box(alpha.window, 1))  # far from the element there is nothing to blur
    if near.empty:
        return None
    return softened(Picture(resampled(alpha, way, near), near), window, sigma, sigma).pixels


def _laid_down(params: CastParams, alpha: Picture, window: Window, scale: int) -> NDArray[np.float32] | None:
    alpha = lit_part(alpha)
    if alpha.window.empty or window.empty:
        return None
    fall = _fall(params, _lowest(alpha) if params.foot is None else params.foot[1] / scale, scale)
    if abs(fall.tall) < FLAT:
        return None
    sigmas = params.softness * fall.ways(np.arange(window.y0, window.y1) + 0.5, alpha.window)
    near = window.grown(reach_by_rows(float(sigmas.max()))).intersect(fall.box(alpha.window))
    return None if near.empty else softened_by_rows(fall.shadow(_above(alpha, fall.foot, params.lay_down), near), window, sigmas)


def _fall(params: CastParams, foot: float, scale: int) -> _Fall:
    (across, down), laid = _moved(params, scale), params.lay_down
    angle = math.radians(params.angle)
    way = laid * params.length
    stands, tall = 1 - laid, 1 - laid + way * math.sin(angle)
    return _Fall(foot, stands * across, stands * down, way * math.cos(angle), tall, stands * params.distance / scale, way)


def _above(alpha: Picture, foot: float, laid: float) -> Picture:
    """An alpha without as much of what lies below the foot as it is laid down: on the ground that would fall towards the light."""
    above = np.clip(foot - np.arange(alpha.window.y0, alpha.window.y1), 0, 1)
    share = (1 - laid * (1 - above)).astype(np.float32)
    return alpha if share[-1] == 1 else Picture(alpha.pixels * share[:, None, None], alpha.window)


def _lowest(alpha: Picture) -> float:
    """Where the lowest of an alpha ends, to a part of a pixel."""
    rows = np.append(alpha.pixels.max(axis=(1, 2)) / alpha.pixels.max(), 0)
    last = int(np.flatnonzero(rows >= 0.5)[-1])
    return float(alpha.window.y0 + last + rows[last] + rows[last + 1])


def _sigma(params: CastParams, scale: int) -> float:
    return params.softness * params.distance / scale


def _moved(params: CastParams, scale: int) -> tuple[float, float]:
    """To the right and down, in pixels of the scale."""
    angle = math.radians(params.angle)
    return params.distance * math.cos(angle) / scale, -params.distance * math.sin(angle) / scale


def _reach(params: CastParams, scale: int) -> int:
    return math.ceil(params.distance / scale) + reach(_sigma(params, scale)) + 2 if params.lay_down == 0 else ANYWHERE


def _falls(params: CastParams, own: Window, scale: int) -> Window:
    """Where the shadow of something in a window may fall."""
    if params.lay_down == 0 or own.empty:
        return own.grown(_reach(params, scale))
    feet = [own.y0, own.y1] if params.foot is None else [params.foot[1] / scale]
    falls = [_fall(params, foot, scale) for foot in feet]
    boxes = [fall.box(own) for fall in falls]
    whole = boxes[0].union(boxes[-1])
    farthest = max(fall.far + fall.farther * abs(fall.foot - y) for fall in falls for y in (own.y0, own.y1))
    return whole.grown(reach_by_rows(params.softness * farthest))


def _made_at(params: CastParams, scale: int) -> int:
    """Near its element most of a shadow is hidden by that: how much is told from finer pixels. Laid down it is near at the foot alone."""
    return max(1, scale // 2) if params.lay_down else finer_for(params.distance * min(params.softness or 0.5, 0.5), scale)


TREATMENTS.register(
    Treatment(
        "cast",
        "Cast shadow",
        "surround",
        CastParams,
        1,
        apply,
        lambda params: params.density == 0,
        _reach,
        USUAL_TOLERANCE,
        falls=_falls,
        elements_only=True,
        behind=True,
        made_at=_made_at,
        touch=AtTouch("place", "c", 0, {"distance": 24.0}, words="Cast a shadow"),
        summary="its alpha, moved or laid down and softened, falls on what lies behind",
    )
)
