"""Frames that were written, read back."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from umbrax.core.colour import linear_from_srgb
from umbrax.core.kernels.mixing import mixed

from .decoding import decode
from .files import inspect
from .primaries import to_working


def finished_light(path: Path) -> NDArray[np.float32]:
    """A written frame of the picture as light multiplied by its alpha, `float32[h, w, 4]`, or of a matte, `float32[h, w, 1]`.

    EXR is read as it is, in whatever primaries it was written; a picture in PNG, TIFF or JPEG back through the sRGB view.
    """
    info = inspect(path)
    _, planes = next(decode(info))
    pixels = np.stack([plane.astype(np.float32) for plane in planes], axis=2)
    if not np.issubdtype(planes[0].dtype, np.integer):
        matrix = to_working("auto", info)
        return pixels if matrix is None or len(planes) < 3 else mixed(pixels, matrix)
    codes = pixels / np.float32(np.iinfo(planes[0].dtype).max)
    if len(planes) == 1:
        return codes
    alpha = codes[..., 3:] if len(planes) > 3 else np.ones_like(codes[..., :1])
    return np.concatenate([linear_from_srgb(codes[..., :3]) * alpha, alpha], axis=2)
