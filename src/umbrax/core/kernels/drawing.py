"""Planes of light that are drawn row by row from less than their pixels: by themselves, or onto a picture."""

from abc import ABC, abstractmethod

import numpy as np
from numpy.typing import NDArray

from ..picture import Window
from . import blank, ready

Pixels = NDArray[np.float32]


class Drawing(ABC):
    """What a plane of light is drawn from."""

    @property
    @abstractmethod
    def nbytes(self) -> int:
        """The memory that it holds."""

    @property
    def channels(self) -> int:
        return 3

    @abstractmethod
    def _draw(self, part: Window, amount: np.float32, below: Pixels, top: int, left: int, out: Pixels) -> None:
        """The light on `part` into `out` where that has its channels; where that is RGBA `amount` of it on `below`, in which the part begins
        at the row `top` and the column `left`."""

    def drawn(self, window: Window) -> Pixels:
        """The light on a window."""
        out = blank(window.height, window.width, self.channels)
        self._draw(window, np.float32(1), out, 0, 0, out)
        return out

    def drawn_onto(self, below: Pixels, window: Window, part: Window, amount: float) -> Pixels:
        """RGBA on a window plus `amount` of the light on a part of that; alpha stays."""
        out = blank(*below.shape)
        self._draw(part, np.float32(amount), ready(below), part.y0 - window.y0, part.x0 - window.x0, out)
        return out
