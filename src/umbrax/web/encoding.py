"""Pictures for looking (JPEG) and exact ones (PNG), with a channel, an exposure, or a range for data."""

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from umbrax.core.colour import WORKING, Working, in_bt709, luma_of
from umbrax.core.picture import Picture
from umbrax.core.pictures.data_values import is_nothing, usual_span
from umbrax.core.views import View, exact_codes, looking

MARK = (234, 111, 99)  # coral
HATCH = (22, 34)  # the two greys of the hatching where a data pass holds no value
Channel = Literal["colour", "red", "green", "blue", "alpha", "luma"]


def as_eight_bits(
    picture: Picture, channel: str, exposure: float, *,
    data: bool = False, raw: bool = False, exact: bool = False, span: tuple[float, float] | None = None, view: View = "srgb",
    working: Working = WORKING,
) -> NDArray[np.uint8]:  # fmt: skip
    """`uint8[h, w, 3]`. Mattes and alpha are shown as they are; data are stretched over a span, by default their usual one. Single channels
    are those of the light that is worked with."""
    pixels = picture.pixels
    if channel == "alpha" and pixels.shape[2] == 4:
        return _grey(pixels[..., 3])
    if raw:
        return _grey(pixels[..., 0])
    if data:
        return _ranged(_channel(pixels, channel), span)
    if channel in ("red", "green", "blue") and pixels.shape[2] >= 3:
        pixels = pixels[..., ("red", "green", "blue").index(channel)][..., None]
    elif channel == "luma" and pixels.shape[2] >= 3:
        pixels = (pixels[..., :3] @ np.array(luma_of(working), np.float32))[..., None]
    else:
        pixels = in_bt709(pixels, working)
    if exact:
        light = pixels[..., :3] if pixels.shape[2] >= 3 else np.repeat(pixels[..., :1], 3, axis=2)
        return exact_codes(light * np.float32(2**exposure), 255, view).astype(np.uint8)
    return looking(np.ascontiguousarray(pixels), exposure, view)


def _grey(plane: NDArray[np.float32]) -> NDArray[np.uint8]:
    codes = np.rint(np.clip(np.nan_to_num(plane), 0, 1) * 255).astype(np.uint8)
    return np.repeat(codes[..., None], 3, axis=2)


def _channel(pixels: NDArray[np.float32], channel: str) -> NDArray[np.float32]:
    index = ("red", "green", "blue").index(channel) if channel in ("red", "green", "blue") else None
    return pixels[..., :3] if index is None or index >= pixels.shape[2] else pixels[..., index : index + 1]


def _ranged(values: NDArray[np.float32], span: tuple[float, float] | None) -> NDArray[np.uint8]:
    """Black at the low end, white at the high end; what is no value at all hatched."""
    if span is None:
        usual = usual_span(values)
        span = (usual.low, usual.high)
    low, high = span
    width = high - low or 1.0
    nothing = is_nothing(values)
    codes = np.rint(np.clip((np.where(nothing, low, values) - low) / width, 0, 1) * 255).astype(np.uint8)
    out = np.repeat(codes, 3, axis=2) if codes.shape[2] == 1 else codes
    holes = nothing.any(axis=2)
    if holes.any():
        ys, xs = np.nonzero(holes)
        out[ys, xs] = np.where((xs + ys) // 4 % 2, HATCH[0], HATCH[1])[:, None]
    return np.ascontiguousarray(out)


def marked(codes: NDArray[np.uint8], mask: NDArray[np.float32]) -> NDArray[np.uint8]:
    """A picture darkened, with places marked in one colour and made large enough to be seen."""
    wide = cv2.dilate(np.ascontiguousarray(mask), np.ones((5, 5), np.uint8))
    height, width = min(codes.shape[0], wide.shape[0]), min(codes.shape[1], wide.shape[1])
    out = (codes * 0.4).astype(np.uint8)
    places = wide[:height, :width] > 0
    part = out[:height, :width]
    part[places] = np.rint(0.3 * codes[:height, :width][places] + 0.7 * np.array(MARK)).astype(np.uint8)
    return out


def in_shape(codes: NDArray[np.uint8], pixel_aspect: float) -> NDArray[np.uint8]:
    """A picture as it looks where its pixels are so many times as wide as high."""
    if pixel_aspect == 1:
        return codes
    height, width = codes.shape[:2]
    wide = max(1, round(width * pixel_aspect))
    return np.asarray(cv2.resize(codes, (wide, height), interpolation=cv2.INTER_AREA if wide < width else cv2.INTER_LINEAR), np.uint8)


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
