"""Small movies as other programs write them, by PyAV."""

from pathlib import Path
from typing import Any

import av
import numpy as np

SIZE = (64, 48)
COUNT = 20


def picture(number: int, size: tuple[int, int] = SIZE) -> np.ndarray:
    """Flat enough for any codec; a bar walks with the frame number."""
    pixels = np.zeros((size[1], size[0], 3), np.uint8)
    pixels[:] = (number * 10, 100, 250 - number * 8)
    pixels[:, number * 2 : number * 2 + 8] = 230
    return pixels


def write_movie(
    path: Path, codec: str = "ffv1", layout: str = "bgr0", *, bits: int = 8, rate: Any = 24, size: tuple[int, int] = SIZE, **options: str
) -> Path:
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream(codec, rate=rate)
        stream.width, stream.height, stream.pix_fmt, stream.options = *size, layout, options
        for number in range(COUNT):
            pixels = picture(number, size)
            frame = av.VideoFrame.from_ndarray(pixels.astype(np.uint16) * 257 if bits == 16 else pixels, "rgb48le" if bits == 16 else "rgb24")
            container.mux(stream.encode(frame))
        container.mux(stream.encode())
    return path
