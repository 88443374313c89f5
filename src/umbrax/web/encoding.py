"""Pictures for looking (JPEG) and exact ones (PNG), with a channel, an exposure, or a range for data."""

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from umbrax.core.colour import LUMA_BT709, exact_codes, looking
from umbrax.core.picture import Picture

Channel = Literal["colour", "red", "green", "blue", "alpha", "luma"]


def as_eight_bits(
    picture: Picture, channel: str, exposure: float, *, data: bool = False, raw: bool = False, exact: bool = False
) -> NDArray[np.uint8]:
    """`uint8[h, w, 3]`. Mattes and alpha are shown as they are; data are stretched over their finite range."""
    pixels = picture.pixels
    if channel == "alpha" and pixels.shape[2] == 4:
        return _grey(pixels[..., 3])
    if raw:
        return _grey(pixels[..., 0])
    if data:
        return _ranged(pixels)
    if channel in ("red", "green", "blue") and pixels.shape[2] >= 3:
        pixels = pixels[..., ("red", "green", "blue").index(channel)][..., None]
    elif channel == "luma" and pixels.shape[2] >= 3:
        pixels = (pixels[..., :3] @ np.array(LUMA_BT709, np.float32))[..., None]
    if exact:
        light = pixels[..., :3] if pixels.shape[2] >= 3 else np.repeat(pixels[..., :1], 3, axis=2)
        return exact_codes(light * np.float32(2**exposure), 255).astype(np.uint8)
    return looking(np.ascontiguousarray(pixels), exposure)


def _grey(plane: NDArray[np.float32]) -> NDArray[np.uint8]:
    codes = np.rint(np.clip(np.nan_to_num(plane), 0, 1) * 255).astype(np.uint8)
    return np.repeat(codes[..., None], 3, axis=2)


def _ranged(pixels: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Each channel from its lowest to its highest finite value; one-sided data start at 0."""
    colours = pixels[..., :3]
    finite = np.isfinite(colours)
    if not finite.any():
        return np.zeros((*colours.shape[:2], 3), np.uint8)
    low, high = float(colours[finite].min()), float(colours[finite].max())
    if low < 0:
        high = max(high, -low)
        low = -high
    span = high - low or 1.0
    filled = np.where(finite, colours, high)
    return np.rint(np.clip((filled - low) / span, 0, 1) * 255).astype(np.uint8)


def jpeg(codes: NDArray[np.uint8], quality: int = 90) -> bytes:
    ok, data = cv2.imencode(".jpg", codes[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality])
    assert ok
    return bytes(data)


def png(codes: NDArray[np.uint8]) -> bytes:
    """Lossless; four channels keep their alpha."""
    order = [2, 1, 0, 3] if codes.shape[2] == 4 else [2, 1, 0]
    ok, data = cv2.imencode(".png", np.ascontiguousarray(codes[..., order]), [cv2.IMWRITE_PNG_COMPRESSION, 1])
    assert ok
    return bytes(data)
