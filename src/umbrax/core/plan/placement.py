"""Where a card stands: from the pixels of its picture to those of the frame."""

import math
from dataclasses import dataclass
from typing import Literal

from ..picture import Window

Filter = Literal["bilinear", "cubic", "lanczos", "nearest"]
FLAT = 1e-6  # an area this much smaller is nothing


@dataclass(frozen=True)
class Placement:
    """x' = a x + b y + c, y' = d x + e y + f, in pixels with their centres at +0.5."""

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 0.0
    e: float = 1.0
    f: float = 0.0
    filter: Filter = "cubic"

    @property
    def still(self) -> bool:
        """Whether everything stays where it is."""
        return (self.a, self.b, self.c, self.d, self.e, self.f) == (1.0, 0.0, 0.0, 0.0, 1.0, 0.0)

    @property
    def flat(self) -> bool:
        """Whether nothing is left of a picture."""
        return abs(self.a * self.e - self.b * self.d) < FLAT

    def __matmul__(self, inner: "Placement") -> "Placement":
        """What places as `inner` does and then as this one; the filter is the inner one's."""
        return Placement(
            self.a * inner.a + self.b * inner.d, self.a * inner.b + self.b * inner.e, self.a * inner.c + self.b * inner.f + self.c,
            self.d * inner.a + self.e * inner.d, self.d * inner.b + self.e * inner.e, self.d * inner.c + self.e * inner.f + self.f,
            inner.filter,
        )  # fmt: skip

    def inverse(self) -> "Placement":
        """The way back; of a flat one there is none."""
        det = self.a * self.e - self.b * self.d
        a, b, d, e = (self.e / det, -self.b / det, -self.d / det, self.a / det)
        return Placement(a, b, -(a * self.c + b * self.f), d, e, -(d * self.c + e * self.f), self.filter)

    def rounded(self) -> "Placement":
        """Without the rounding errors of the arithmetic that led to it."""
        a, b, c, d, e, f = (round(v, 9) + 0.0 for v in (self.a, self.b, self.c, self.d, self.e, self.f))
        return Placement(a, b, c, d, e, f, self.filter)

    def at(self, x: float, y: float) -> tuple[float, float]:
        """Where a point comes to lie."""
        return self.a * x + self.b * y + self.c, self.d * x + self.e * y + self.f

    def between(self, own: int, frame: int) -> "Placement":
        """The same from a picture at a scale of 1/own to a frame at 1/frame."""
        k = own / frame
        return Placement(self.a * k, self.b * k, self.c / frame, self.d * k, self.e * k, self.f / frame, self.filter)

    @property
    def shrinks(self) -> bool:
        """Whether a picture covers less of the frame than of itself."""
        return abs(self.a * self.e - self.b * self.d) < 1 - 1e-9

    @property
    def zoom(self) -> float:
        """By how much the most enlarged direction is enlarged (the larger singular value)."""
        total, det = self.a**2 + self.b**2 + self.d**2 + self.e**2, self.a * self.e - self.b * self.d
        return math.sqrt((total + math.sqrt(max(total * total - 4 * det * det, 0))) / 2)

    def box(self, window: Window, around: float = 0.0) -> Window:
        """The smallest window of whole pixels that holds another one's picture and `around` it."""
        if window.empty:
            return window
        corners = [self.at(x, y) for x in (window.x0, window.x1) for y in (window.y0, window.y1)]
        xs, ys = [x for x, _ in corners], [y for _, y in corners]
        slack = 1e-6  # what lies on a border to within rounding is not beyond it
        return Window(
            math.floor(min(xs) - around + slack), math.floor(min(ys) - around + slack),
            math.ceil(max(xs) + around - slack), math.ceil(max(ys) + around - slack),
        )  # fmt: skip

    def fills(self, domain: Window, display: Window) -> bool:
        """Whether a picture on a domain covers the whole display when it is placed."""
        back = self.inverse()
        corners = [back.at(x, y) for x in (display.x0, display.x1) for y in (display.y0, display.y1)]
        return all(domain.x0 <= x <= domain.x1 and domain.y0 <= y <= domain.y1 for x, y in corners)


HERE = Placement()
EVERYWHERE = Window(-(1 << 20), -(1 << 20), 1 << 20, 1 << 20)  # as far as a designed picture goes on that is placed


@dataclass(frozen=True)
class Space:
    """Pixels in which a matte is wanted: the card that uses it, and where in the frame those pixels stand."""

    user: str | None
    stands: Placement
