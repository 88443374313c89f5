"""Outline: a line round an alpha or a matte, drawn on from where it starts to where it ends."""

import math
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BeforeValidator, Field

from ..contours.drawing import Pen, begun, drawn, spans
from ..contours.hiding import bridged, own_edges, parts
from ..contours.lines import SMOOTH, Line, lines_round
from ..document.parameters import MatteReference, choice, colour, number
from ..document.placing import both
from ..document.timing import Animated, Colour, Number, Point
from ..kernels.joining import laid
from ..kernels.lit import lit_window, once_of_plane
from ..picture import Picture, Window
from ..plan.steps import Step
from ..repair.depth import depth_on
from .base import ALPHA, TREATMENTS, USUAL_TOLERANCE, WHOLE, Around, AtTouch, ThroughParams, Treatment, Wanted

Plane = NDArray[np.float32]


Stretch = Annotated[float, Field(ge=0, le=1e5)]
Dash = Annotated[tuple[Stretch, Stretch], BeforeValidator(both), Animated()]


class OutlineParams(ThroughParams):
    """The line where a coverage is `level`, of an even width; from `start` to `end` of its length are there.

    Closed goes round what is seen; open leaves out what is the edge of something nearer; bridged goes on behind that. The last two
    want a depth.
    """

    kind: Literal["outline"]
    of: Literal["alpha"] | MatteReference = Field("alpha", title="Of", description="the card's alpha, or a matte")
    width: Number = number(3.0, "Width", unit="px", low=0, high=500, soft=(0, 20), step=0.25)
    colour: Colour = colour((1.0, 1.0, 1.0), "Colour")
    side: Literal["inside", "centre", "outside"] = choice("centre", "Side")
    start: Number = number(0.0, "Start", low=0, high=1, step=0.005, formula="of the length, where the line starts")
    end: Number = number(1.0, "End", low=0, high=1, step=0.005, formula="of the length, where it ends")
    from_: Point | None = Field(
        None,
        alias="from",
        title="From",
        json_schema_extra={"widget": "place", "without": "on top"},
        description="the place next to which it starts; on top without one",
    )
    direction: Literal["clockwise", "counter_clockwise"] = choice("clockwise", "Direction")
    form: Literal["closed", "open", "bridged"] = choice("closed", "Form", "round what is seen, its own edge only, or on behind what hides it")
    pieces: Literal["together", "in_turn"] = choice("together", "Pieces", "drawn at the same time, or one after the other")
    softness: Number = number(0.0, "Softness", low=0, high=1, formula="of half the width over which it fades")
    dash: Dash = Field(
        (0.0, 0.0),
        title="Dash",
        json_schema_extra={"widget": "dash", "unit": "px", "soft": [0, 60], "step": 1, "formula": "length of a dash, and of the gap"},
    )
    end_width: Number = number(1.0, "Width at the end", low=0, high=10, soft=(0, 2), formula="as part of that at the start")
    end_opacity: Number = number(1.0, "Opacity at the end", low=0, high=1, formula="as part of that at the start")
    level: Number = number(0.5, "Level", low=0.01, high=0.99, soft=(0.01, 0.99), formula="of the coverage along which it goes")
    smallest: Number = number(
        8.0, "Smallest", unit="px", low=0, high=10000, soft=(0, 200), step=1, formula="length from which a piece is drawn"
    )
    smooth: Number = number(SMOOTH, "Smooth", unit="px", low=0, high=100, soft=(0, 10), step=0.25, formula="sigma along the line")
    depth: str = Field("depth", min_length=1, title="Depth", description="the pass, by name or kind, that tells what is nearer")


def apply(params: OutlineParams, own: Picture, window: Window, scale: int, *, shape: Picture, depth: Picture | None = None) -> Picture:
    """The picture with the line over it."""
    lines = _lines(params, shape, depth)
    pen = Pen(params.width, params.side, params.softness, params.dash, params.end_width, params.end_opacity)
    cover = drawn(lines, spans(lines, params.start, params.end, params.pieces == "in_turn"), pen, window, scale)
    corner = cover.window.x0 - window.x0, cover.window.y0 - window.y0
    colour = np.array([*params.colour, 1.0], np.float32)
    return Picture(laid(own.crop(window).pixels, cover.pixels[..., 0], corner, colour), window, own.edge)


def _lines(params: OutlineParams, shape: Picture, depth: Picture | None) -> list[Line]:
    """The lines to draw, in full-size pixels of the frame, in the direction they are drawn in; the longest first.

    Those round a shape are kept with it: while it is drawn on, or its pen is played with, it stays what it is.
    """
    goes_on = math.ceil(params.width * 2) + 2 if shape.edge != "empty" else 0
    seen = lit_window(shape.pixels, shape.window).grown(max(goes_on, 1)).intersect(shape.window.grown(goes_on))
    if seen.empty:
        return []
    found_by = (seen, goes_on, params.level, params.smallest, params.smooth)
    found = once_of_plane(shape.pixels, "lines round", found_by, lambda: _round(params, shape, seen, goes_on))
    if depth is not None:
        return _placed(params, _parted(params, found, depth_on(depth, seen)), seen)
    placed_by = (*found_by, params.direction, params.from_)
    return once_of_plane(shape.pixels, "outline", placed_by, lambda: _placed(params, found, seen))


def _round(params: OutlineParams, shape: Picture, seen: Window, goes_on: int) -> list[Line]:
    """The lines round what is seen of a shape, in pixels from the corner of that."""
    found = lines_round(np.ascontiguousarray(shape.crop(seen).pixels[..., 0]), params.level, params.smallest, params.smooth)
    if not goes_on:
        return found
    held = shape.window.grown(goes_on - 1)  # what the frame cuts off is no edge
    return [part for line in found for part in parts(line, _inside(line, held, seen))]


def _parted(params: OutlineParams, lines: list[Line], z: Plane) -> list[Line]:
    """What of the lines is no edge of something nearer, in pieces, or going on behind that."""
    edges = [edge for line in lines for edge in own_edges(line, z)]
    return [line for line in (bridged(edges, z) if params.form == "bridged" else edges) if line.length >= params.smallest]


def _placed(params: OutlineParams, lines: list[Line], seen: Window) -> list[Line]:
    """Lines where they lie in the frame, each from where and in the direction that it is drawn in."""
    corner = np.array([seen.x0, seen.y0])
    placed = [Line(line.points + corner, line.closed) for line in sorted(lines, key=lambda line: -line.length)]
    turned = [line.turned_back() for line in placed] if params.direction == "counter_clockwise" else placed
    return [begun(line, params.from_) for line in turned]


def _inside(line: Line, held: Window, seen: Window) -> NDArray[np.bool_]:
    x, y = line.points.T
    return np.asarray((x > held.x0 - seen.x0) & (y > held.y0 - seen.y0) & (x < held.x1 - seen.x0) & (y < held.y1 - seen.y0))


def _looks(params: OutlineParams, around: Around) -> dict[str, Step]:
    full = around.at_full_size()
    shape = full.alpha() if params.of == ALPHA else full.matte(params.of)
    return {"shape": shape, **({} if params.form == "closed" else {"depth": full.depth(params.depth)})}


def _needs(params: OutlineParams, window: Window, scale: int) -> dict[str, Wanted]:
    return {"shape": WHOLE, "depth": WHOLE}


TREATMENTS.register(
    Treatment(
        "outline",
        "Outline",
        "spatial",
        OutlineParams,
        1,
        apply,
        lambda params: params.width == 0 or params.end <= params.start,
        lambda params, scale: 0,
        USUAL_TOLERANCE,
        looks=_looks,
        needs=_needs,
        matte_key="of",
        whole=True,
        fills_frame=True,
        blurs=False,
        touch=AtTouch("line", "l", 0, {"width": 3.0}, place="from"),
        summary="a line round it, drawn on",
    )
)
