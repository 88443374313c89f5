"""What is written into the pictures of a movie to review: of which shot, which frame, and which revision."""

import numpy as np
from numpy.typing import NDArray

from umbrax.core.document.shot import Shot
from umbrax.core.document.text import read_data

from .engine import Engine, Want

LINES = 36  # of text would fill the height of a frame
LEAST = 9.0  # pixels: what is smaller is not read


def captioned(engine: Engine, pixels: NDArray[np.float32], shot: Shot, frame: int, words: str = "", scale: int = 1) -> NDArray[np.float32]:
    """Light `float32[h, w, 4]` of a frame at 1/scale with the shot's name, the frame's number and some more words at its lower left."""
    layout = shot.format
    size = max(LEAST * scale, layout.height / LINES)
    text = "  ".join(part for part in (shot.name, str(frame), words) if part)
    told = {
        "umbrax": 1, "name": "caption",
        "format": {"width": layout.width, "height": layout.height, "first": frame, "last": frame},
        "build": [{
            "id": "caption",
            "picture": {
                "kind": "text", "text": text, "font": "mono", "size": size, "at": [1.2 * size, layout.height - 2.4 * size],
                "box": {"colour": [0, 0, 0], "alpha": 0.55, "margin": 0.5 * size},
            },
        }],
    }  # fmt: skip
    over = engine.make(read_data(told), [], frame, Want(), scale=scale).picture.pixels
    result: NDArray[np.float32] = over + (1 - over[..., 3:]) * pixels
    return result
