"""What a card is shown on that is looked at by itself: its edges and what shows through it are seen on grey and on checks."""

from typing import Literal

import numpy as np

from umbrax.core.picture import Picture, Window

Ground = Literal["black", "grey", "checks"]
GREY = 0.18
CHECKS = (0.09, 0.17)
SQUARE = 16  # full-size pixels


def on_ground(picture: Picture, ground: Ground, scale: int) -> Picture:
    """A card's picture over grey or checks, which stand still in the frame; as it is over black."""
    if ground == "black" or picture.channels != 4:
        return picture
    pixels = picture.pixels.copy()
    pixels[..., :3] += (1 - pixels[..., 3:]) * (GREY if ground == "grey" else _checks(picture.window, scale))
    pixels[..., 3] = 1
    return Picture(pixels, picture.window)


def _checks(window: Window, scale: int) -> np.ndarray:
    x = np.arange(window.x0, window.x1) * scale // SQUARE
    y = np.arange(window.y0, window.y1) * scale // SQUARE
    return np.where((x[None, :] + y[:, None]) % 2 == 0, *(np.float32(value) for value in CHECKS))[..., None]
