"""Codes of a file as numbers, and as light."""

from collections.abc import Callable
from functools import cache, partial
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from umbrax.core.colour import linear_from_film_log, linear_from_hlg, linear_from_pq, linear_from_srgb
from umbrax.core.kernels.unpacking import unpacked
from umbrax.core.picture import Window
from umbrax.core.plan.reader import is_light
from umbrax.core.views import View, light_of

from .fastcopies import PassCopy, planes_on
from .file_info import CodeCurve, FileInfo
from .profiles import light_by

TOPS = {np.dtype(np.uint8): 255.0, np.dtype(np.uint16): 65535.0}
Curve = Callable[[Any], Any]
CURVES: dict[str, Curve] = {
    "srgb_tx": linear_from_srgb, "film_log": linear_from_film_log, "pq": linear_from_pq, "hlg": linear_from_hlg
}  # fmt: skip


@cache
def _told(curve: CodeCurve) -> Curve:
    """A curve that a file says, the same function for the same one."""
    known = CURVES.get(curve.kind)
    return known if known is not None else lambda codes: np.asarray(light_by(curve, codes), np.float32)


def curve_of(colour: str, dtype: np.dtype[Any], told: CodeCurve | None, view: View) -> Curve | None:
    """What turns a file's codes into linear light; None where they are it already. `told` is what the file says."""
    if colour == "auto":
        if dtype.kind != "u":
            return None
        if told is not None:
            return _told(told)
        colour = "srgb_tx"
    if colour == "display":
        return linear_from_srgb if view == "srgb" else partial(light_of, view=view)
    return CURVES.get(colour)


def holds_codes(file: FileInfo) -> bool:
    """Whether a file has pictures as codes that were made for a display, and of the usual kind."""
    light = [found for found in file.passes if is_light(found.kind, shown=True)]
    return file.curve is None and file.chromaticities is None and any(kind in ("u8", "u16") for found in light for kind in found.types)


def is_by_channel(curve: Curve) -> bool:
    """Whether a curve is one of each channel by itself; the inverse of a view looks at all three."""
    return not isinstance(curve, partial)


@cache
def table_of(curve: Curve, dtype: np.dtype[Any]) -> NDArray[np.float32]:
    """The light of each code of 8 or 16 bits."""
    top = np.float32(TOPS[dtype])
    return np.asarray(curve(np.arange(top + 1, dtype=np.float32) / top), np.float32)


def _decoded(codes: NDArray[Any], table: NDArray[np.float32]) -> NDArray[np.float32]:
    return np.asarray(cv2.LUT(codes, table[None])) if codes.dtype == np.uint8 else table[codes]


def as_light(pixels: NDArray[np.float32], has_alpha: bool, multiply: bool, curve: Curve | None) -> NDArray[np.float32]:
    """Linear, and associated where the file or the setting says that it is not yet.

    Codes that carry their alpha already are divided by it before they are decoded and multiplied after: the curve was laid
    on the colour, alpha on the code.
    """
    if not has_alpha:
        return pixels if curve is None else np.asarray(curve(pixels), np.float32)
    colours, alpha = pixels[..., :-1], pixels[..., -1:]
    if curve is not None:
        colours[:] = curve(colours if multiply else colours / np.where(alpha > 0, alpha, 1))
    if multiply or curve is not None:
        # light without alpha stays what it is
        np.multiply(colours, alpha, out=colours, where=multiply | (alpha > 0))
    return pixels


def as_floats(copy: PassCopy, window: Window, finite: bool, table: NDArray[np.float32] | None, colours: int) -> NDArray[np.float32]:
    """`float32[h, w, c]` on a window: halves and floats as they are, 8 and 16 bit to 0..1, larger integers as numbers.

    `finite`: NaN and infinities become 0, since one of them would spread over the frame. `table` holds the light of each code; the
    first `colours` channels are decoded by it.
    """
    if copy.dtype.kind == "f":
        place = (copy.window.y0 - window.y0, copy.window.x0 - window.x0)
        return unpacked(copy.planes, place, copy.outside, (window.height, window.width), finite)
    planes = planes_on(copy, window)
    out = np.empty((*planes.shape[1:], planes.shape[0]), np.float32)
    for channel, plane in enumerate(planes):
        if table is not None and channel < colours:
            out[..., channel] = _decoded(plane, table)
        else:
            out[..., channel] = plane
            if planes.dtype in TOPS:
                out[..., channel] /= np.float32(TOPS[planes.dtype])
    return out
