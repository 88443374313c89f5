"""Text: lines of a shipped typeface, on a box, with a leader line to what a matte holds, which it follows."""

import math
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.parameters import MatteRef, MatteReference, Parameters, choice, colour, number
from ..document.timing import Colour, Number, Point
from ..kernels.outlines import filled
from ..lettering.shaping import face_of, shaped
from ..picture import Picture, Window
from ..plan.steps import Planner, Step, content_key
from .base import PICTURES, PictureKind, PictureParams

Points = NDArray[np.float64]
Rect = tuple[float, float, float, float]
ROUND = 32  # straight pieces of the leader's end


class Box(Parameters):
    """A box behind the text."""

    colour: Colour = colour((0.01, 0.012, 0.016), "Box colour")
    alpha: Number = number(0.6, "Box alpha", low=0, high=1)
    margin: Number = number(12.0, "Margin", unit="px", low=0, high=1000, soft=(0, 60), step=0.5)


class Leader(Parameters):
    """A line from the text to the middle of what a matte holds on the frame, wherever the card is placed; none where it holds nothing."""

    to: MatteReference
    width: Number = number(2.0, "Line", unit="px", low=0.1, high=200, soft=(0.5, 10), step=0.1)
    dot: Number = number(5.0, "Dot", unit="px", low=0, high=500, soft=(0, 20), step=0.5, formula="radius of its end")


class TextPicture(PictureParams):
    """Lines of text; `at` is the upper end of what they are lined up by: the left, the middle or the right of the first line."""

    kind: Literal["text"]
    text: str = Field(max_length=4000)
    font: Literal["sans", "sans_bold", "serif", "mono"] = choice("sans", "Typeface")
    size: Number = number(32.0, "Size", unit="px", low=1, high=2000, soft=(8, 160), step=0.5)
    colour: Colour = colour((0.85, 0.85, 0.85), "Colour")
    alpha: Number = number(1.0, "Alpha", low=0, high=1)
    at: Point = Field((80.0, 80.0), title="At", json_schema_extra={"widget": "place"})
    align: Literal["left", "centre", "right"] = choice("left", "Lined up")
    leading: Number = number(1.25, "Leading", low=0.2, high=10, soft=(0.8, 2), formula="from line to line, in sizes")
    box: Box | None = None
    leader: Leader | None = None


def laid_out(params: TextPicture, data: bytes) -> tuple[list[Points], Rect]:
    """The outlines of all letters in pixels of the frame, and the rectangle that the lines take."""
    face, size, (x, y) = face_of(data), params.size, params.at
    lines = [shaped(line, data) for line in params.text.split("\n")]
    part = {"left": 0.0, "centre": 0.5, "right": 1.0}[params.align]
    outlines: list[Points] = []
    for row, line in enumerate(lines):
        left, base = x - part * line.width * size, y + (face.above + row * params.leading) * size
        outlines += [points * size + (left, base) for points in line.outlines]
    wide = max(line.width for line in lines) * size
    tall = (face.above + (len(lines) - 1) * params.leading + face.below) * size
    return outlines, (x - part * wide, y, x + (1 - part) * wide, y + tall)


def _rectangle(box: Rect) -> Points:
    x0, y0, x1, y1 = box
    return np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])


def _as_one(outlines: list[Points]) -> Points:
    """Several closed outlines as one, led back by the way it came: what lies between them is gone over both ways and adds nothing."""
    there = [np.concatenate([points, points[:1]]) for points in outlines]
    back = [points[:1] for points in reversed(outlines)]
    return np.concatenate([*there, *back])


def _leader(params: Leader, block: Rect, to: tuple[float, float]) -> list[Points]:
    """The line from the nearest place on a rectangle, and the dot at its end."""
    start = np.clip(to, block[:2], block[2:])
    end = np.array(to)
    way = end - start
    if (far := float(np.hypot(*way))) < 1e-6:
        return []
    aside = np.array([-way[1], way[0]]) / far * params.width / 2
    turn = np.arange(ROUND) * 2 * math.pi / ROUND
    dot = end + params.dot * np.column_stack([np.cos(turn), np.sin(turn)])
    return [np.array([start + aside, end + aside, end - aside, start - aside]), *([dot] if params.dot > 0 else [])]


def middle_of(coverage: Picture, scale: int) -> tuple[float, float] | None:
    """The middle of what a coverage `[h, w, 1]` holds, in pixels of the frame; None where that is nothing."""
    m = coverage.pixels[..., 0].astype(np.float64)
    total = float(m.sum())
    if total <= 1e-6:
        return None
    window = coverage.window
    x = float((m.sum(axis=0) * (np.arange(window.x0, window.x1) + 0.5)).sum()) / total
    y = float((m.sum(axis=1) * (np.arange(window.y0, window.y1) + 0.5)).sum()) / total
    return x * scale, y * scale


def _build(planner: Planner, params: TextPicture, scale: int, join: str) -> Step:
    outlines, lines = laid_out(params, planner.reader.typeface(params.font))
    margin = 0.0 if params.box is None else params.box.margin
    block = (lines[0] - margin, lines[1] - margin, lines[2] + margin, lines[3] + margin)
    around = Window(*(math.floor(v) for v in block[:2]), *(math.ceil(v) for v in block[2:])).grown(math.ceil(params.size))
    inputs: tuple[Step, ...] = ()
    domain, back = around, planner.stands.inverse()
    if params.leader is not None:
        inputs = (planner.coverage(params.leader.to, scale),)
        reached = back.box(inputs[0].domain.magnified(scale))
        domain = around.union(reached.grown(math.ceil(params.leader.dot) + 1))
    domain = domain.scaled(scale)

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        pixels = np.zeros((domain.height, domain.width, 4), np.float32)

        def paint(shapes: list[Points], light: Any, alpha: float) -> None:
            if not shapes or alpha <= 0:
                return
            points = _as_one(shapes) / scale
            (left, top), (right, bottom) = np.floor(points.min(axis=0)), np.ceil(points.max(axis=0))
            at = Window(int(left), int(top), int(right), int(bottom)).intersect(domain)
            cover = filled(points - (at.x0, at.y0), at.width, at.height)[..., None] * np.float32(alpha)
            part = pixels[at.slices_in(domain)]
            part[...] = cover * np.array([*light, 1], np.float32) + (1 - cover) * part

        to = middle_of(given[0].crop(inputs[0].domain), scale) if given else None
        if params.leader is not None and to is not None:
            for shape in _leader(params.leader, block, back.at(*to)):
                paint([shape], params.colour, params.alpha)
        if params.box is not None:
            paint([_rectangle(block)], params.box.colour, params.box.alpha)
        paint(outlines, params.colour, params.alpha)
        return Picture(pixels, domain)

    told = [params.model_dump(mode="json"), scale, domain, vars(back) if inputs else None]
    return Step(
        content_key("text 2", told, inputs), "text", domain, 4, inputs, lambda _: tuple(step.domain for step in inputs), run,
        where=planner.where, whole=True,
    )  # fmt: skip


def _mattes(params: TextPicture) -> tuple[MatteRef, ...]:
    return () if params.leader is None else (params.leader.to,)


PICTURES.register(PictureKind("text", "Text", TextPicture, _build, lambda _: (), lit=False, mattes=_mattes))
