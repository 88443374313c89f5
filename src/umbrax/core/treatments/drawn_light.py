"""Light that is drawn where it is wanted.

What it is drawn from takes less room than its pixels, and drawn onto a picture it need not be written and read once more.
"""

from ..kernels.drawing import Drawing
from ..picture import Picture, Pixels, Window, nothing

PIXEL_BYTES = 12
MORE = 1.5  # times the memory of its pixels that is worth not writing them


class DrawnLight(Picture):
    """A plane of light on a window, as a picture: its pixels are made whenever they are asked for."""

    __slots__ = ("_drawing", "_part")
    _drawing: Drawing
    _part: Window

    def __init__(self, drawing: Drawing, window: Window, part: Window | None = None):
        """`part`: of the window, outside of which it is dark; all of it without one."""
        for name, value in {"window": window, "edge": "empty", "_drawing": drawing, "_part": window if part is None else part}.items():
            object.__setattr__(self, name, value)

    @property
    def pixels(self) -> Pixels:
        if self._part.empty:
            return nothing(self.window, 3).pixels
        return Picture(self._drawing.drawn(self._part), self._part).crop(self.window).pixels

    @property
    def nbytes(self) -> int:
        return self._drawing.nbytes

    @property
    def channels(self) -> int:
        return 3

    def crop(self, window: Window) -> "DrawnLight":
        return self if window == self.window else DrawnLight(self._drawing, window, self._part.intersect(window))

    def onto(self, below: Pixels, amount: float) -> Pixels:
        """RGBA on the same window plus `amount` of this light; alpha stays."""
        return below if self._part.empty else self._drawing.drawn_onto(below, self.window, self._part, amount)


def light_from(drawing: Drawing, window: Window) -> Picture:
    """A plane of light, to be drawn later where that takes little more memory, or less."""
    light = DrawnLight(drawing, window)
    return light if drawing.nbytes <= MORE * window.area * PIXEL_BYTES else Picture(light.pixels, window)
