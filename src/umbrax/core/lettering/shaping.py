"""Lines of text as closed outlines: shaped by HarfBuzz, with kerning and ligatures, curves in straight pieces."""

import threading
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import uharfbuzz as hb
from numpy.typing import NDArray

Points = NDArray[np.float64]
PIECES = 8  # of a curve
_shaping = threading.Lock()


@dataclass(frozen=True)
class Line:
    """Outlines of a line in units of its size: x from its left end, y down from its baseline; how far it reaches."""

    outlines: tuple[Points, ...]
    width: float


@dataclass(frozen=True)
class Face:
    """How far letters of a typeface reach above and below the baseline, in units of the size."""

    above: float
    below: float


class _Pen:
    """Collects outlines as a font draws them."""

    def __init__(self, x: float, y: float):
        self.x, self.y = x, y
        self.outlines: list[list[tuple[float, float]]] = []

    def moveTo(self, p: tuple[float, float]) -> None:
        self.outlines.append([p])

    def lineTo(self, p: tuple[float, float]) -> None:
        self.outlines[-1].append(p)

    def qCurveTo(self, a: tuple[float, float], b: tuple[float, float]) -> None:
        self._curve(lambda s, p, t: s * (1 - t) ** 2 + 2 * p[0] * t * (1 - t) + p[1] * t * t, a, b)

    def curveTo(self, a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> None:
        self._curve(lambda s, p, t: s * (1 - t) ** 3 + 3 * p[0] * t * (1 - t) ** 2 + 3 * p[1] * t * t * (1 - t) + p[2] * t**3, a, b, c)

    def closePath(self) -> None:
        pass

    def endPath(self) -> None:
        pass

    def _curve(self, at: Any, *points: tuple[float, float]) -> None:
        start, through = np.array(self.outlines[-1][-1]), [np.array(p) for p in points]
        self.outlines[-1] += [tuple(at(start, through, n / PIECES)) for n in range(1, PIECES + 1)]

    def placed(self, em: float) -> list[Points]:
        start, unit = np.array([self.x, self.y]), np.array([1 / em, -1 / em])
        return [(np.array(line) + start) * unit for line in self.outlines if len(line) > 2]


@lru_cache(maxsize=8)
def _font(data: bytes) -> Any:
    return hb.Font(hb.Face(data))


def face_of(data: bytes) -> Face:
    with _shaping:
        font = _font(data)
        extents = font.get_font_extents("ltr")
        em = font.face.upem
    return Face(extents.ascender / em, -extents.descender / em)


@lru_cache(maxsize=256)
def shaped(text: str, data: bytes) -> Line:
    """One line of text in a typeface; letters that it does not have are its empty box."""
    with _shaping:
        font = _font(data)
        em, buffer = font.face.upem, hb.Buffer()
        buffer.add_str(text)
        buffer.guess_segment_properties()
        hb.shape(font, buffer)
        outlines: list[Points] = []
        x = y = 0
        for info, at in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            pen = _Pen(x + at.x_offset, y + at.y_offset)
            font.draw_glyph_with_pen(info.codepoint, pen)
            outlines += pen.placed(em)
            x, y = x + at.x_advance, y + at.y_advance
    return Line(tuple(outlines), x / em)
