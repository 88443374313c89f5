"""Writing frames: EXR half or float, linear and associated; PNG, TIFF and JPEG un-associated, then through the view.

A file is written under a temporary name, flushed, and renamed: it is complete or not there.
"""

import contextlib
import os
import re
import shutil
import uuid
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Literal

import numpy as np
import OpenImageIO as oiio
from numpy.typing import NDArray

from umbrax.core.colour import PRIMARIES, WORKING, Working, in_bt709, in_space
from umbrax.core.errors import UmbraxError, Where
from umbrax.core.kernels.packing import halves
from umbrax.core.views import View, exact_codes

from .disk import disk_full, is_full

PixelType = Literal["half", "float", "8", "16"]
Space = Literal["lin_rec709", "lin_ap1"]
SPACES: tuple[Space, ...] = ("lin_rec709", "lin_ap1")
TYPES: dict[str, tuple[PixelType, ...]] = {
    ".exr": ("half", "float"), ".png": ("8", "16"), ".tif": ("8", "16"), ".tiff": ("8", "16"), ".jpg": ("8",), ".jpeg": ("8",),
}  # fmt: skip
CHANNELS = ("R", "G", "B", "A")
EIGHT_BIT_STEP = 1 / 255


def holds_light(path: Path) -> bool:
    """Whether a written file holds light as it is; all others hold what the view makes of it."""
    return path.suffix.lower() == ".exr"


def holds_alpha(path: Path) -> bool:
    """Whether a file of this ending has a place for transparency, or for a fourth matte."""
    return path.suffix.lower() not in (".jpg", ".jpeg")


def pixel_type(path: Path, wanted: str | None) -> PixelType:
    """The pixel type for a file's ending: the first it can hold unless another was asked for."""
    allowed = TYPES.get(path.suffix.lower())
    if allowed is None:
        raise UmbraxError("bad-ending", f"cannot write {path.suffix or 'a file without an ending'!r}; use one of {', '.join(TYPES)}")
    if wanted is None:
        return allowed[0]
    if wanted not in allowed:
        raise UmbraxError("bad-type", f"{path.suffix} cannot hold {wanted!r}; use {' or '.join(allowed)}")
    return wanted


def check_space(path: Path, space: str) -> Space:
    """The primaries that a file is written in; only EXR has others than those of the view."""
    for known in SPACES:
        if known == space and (known == WORKING or holds_light(path)):
            return known
    if space in SPACES:
        raise UmbraxError("bad-space", f"{path.suffix} gets the sRGB view and has no place for {space!r}; leave it out, or write EXR")
    raise UmbraxError("bad-space", f"cannot write colours as {space!r}; use {' or '.join(SPACES)}")


def write_picture(
    path: Path, pixels: NDArray[np.float32], kind: PixelType, *, raise_alpha: bool = True, space: Space = "lin_rec709", view: View = "srgb",
    attributes: dict[str, Any] | None = None, working: Working = WORKING,
) -> bool:  # fmt: skip
    """Write RGBA light `float32[h, w, 4]` of the primaries `working`, or a matte `float32[h, w, 1]` as channel Y. EXR gets the primaries of
    `space`, and says so; all else what it looks like.

    Formats that are not multiplied by alpha hold no light without it, such as glow outside of an element: with `raise_alpha`
    alpha is at least as large as the light is bright. True where that changed alpha, or light was lost without it.
    """
    if pixels.shape[2] == 1:
        write_mattes(path, pixels, ("Y",), kind, attributes=attributes)
    elif holds_light(path):
        colours = in_space(pixels, working, space)
        told = {"oiio:ColorSpace": space, "chromaticities": PRIMARIES[space]}
        _write_channels(path, _floats(colours, kind), CHANNELS, kind, told | (attributes or {}))
    elif not holds_alpha(path):
        light = in_bt709(pixels, working)
        _write_channels(path, exact_codes(light[..., :3], _top(kind), view).astype(_dtype(kind)), CHANNELS[:3], kind, attributes)
    else:
        codes, glows = unassociated_codes(in_bt709(pixels, working), kind, raise_alpha, view)
        _write_channels(path, codes, CHANNELS, kind, attributes)
        return glows
    return False


def raised_alpha(pixels: NDArray[np.float32]) -> NDArray[np.float32]:
    """The larger of alpha and the brightest channel, 0..1, `float32[h, w, 1]`: over black the light is what it was."""
    brightest = np.nan_to_num(pixels[..., :3]).max(axis=2, keepdims=True)
    raised: NDArray[np.float32] = np.clip(np.maximum(np.nan_to_num(pixels[..., 3:]), brightest), 0, 1)
    return raised


def write_mattes(
    path: Path, pixels: NDArray[np.float32], names: tuple[str, ...], kind: PixelType, *, attributes: dict[str, Any] | None = None
) -> None:
    """Write mattes `float32[h, w, n]` as channels of these names, as they are: no view, and none divided by another."""
    if holds_light(path):
        _write_channels(path, _floats(pixels, kind), names, kind, attributes)
        return
    top = _top(kind)
    codes = np.rint(np.clip(np.nan_to_num(pixels), 0, 1) * top).astype(_dtype(kind))
    _write_channels(path, codes, names, kind, attributes)


def _top(kind: PixelType) -> int:
    return 255 if kind == "8" else 65535


def _dtype(kind: PixelType) -> Any:
    return np.uint8 if kind == "8" else np.uint16


def _floats(pixels: NDArray[np.float32], kind: PixelType) -> NDArray[Any]:
    return halves(pixels) if kind == "half" else pixels.astype(np.float32)


def _write_channels(path: Path, data: NDArray[Any], names: tuple[str, ...], kind: PixelType, attributes: dict[str, Any] | None) -> None:
    spec = oiio.ImageSpec(
        data.shape[1],
        data.shape[0],
        data.shape[2],
        {"half": "half", "float": "float", "8": "uint8", "16": "uint16"}[kind],
    )
    spec.channelnames = names
    if holds_light(path):
        spec.attribute("compression", "zip")
    else:
        spec.attribute("oiio:UnassociatedAlpha", 1)
        spec.attribute("CompressionQuality", 95)
        spec.attribute("jpeg:subsampling", "4:4:4")  # colours, and mattes in their places, as fine as brightness
    for name, value in (attributes or {}).items():
        if isinstance(value, tuple):
            spec.attribute(name, f"float[{len(value)}]", value)
        else:
            spec.attribute(name, value)
    _write(path, spec, np.ascontiguousarray(data))


def unassociated_codes(pixels: NDArray[np.float32], kind: PixelType, raise_alpha: bool, view: View = "srgb") -> tuple[NDArray[Any], bool]:
    """Light `float32[h, w, 4]` divided by its alpha and through the view, and the alpha as it is or raised, as whole numbers.

    With whether light without alpha was there, which raised the alpha or is lost.
    """
    alpha, raised = np.clip(np.nan_to_num(pixels[..., 3:]), 0, 1), raised_alpha(pixels)
    kept, top = raised if raise_alpha else alpha, _top(kind)
    light = np.where(kept > 0, pixels[..., :3] / np.where(kept > 0, kept, 1), 0)
    codes = np.concatenate([exact_codes(light, top, view), np.rint(kept * top)], axis=2).astype(_dtype(kind))
    return codes, bool((raised - alpha > EIGHT_BIT_STEP).any())


def _unfinished(path: Path) -> Path:
    """What a file is called until it is whole."""
    return path.with_name(f".{path.stem}.{uuid.uuid4().hex[:8]}{path.suffix}")


def is_unfinished(path: Path) -> bool:
    return re.fullmatch(r"\..+\.[0-9a-f]{8}\.\w+", path.name) is not None


def at_stage(name: str) -> None:
    """Called at each stage of writing a file; tests take its place to see what an end at that very moment leaves."""


@contextlib.contextmanager
def written_whole(path: Path) -> Iterator[Path]:
    """The name to write a file under until it is whole; then it is flushed and called `path`. Of one that fails nothing is left."""
    where = Where(file=str(path))
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise UmbraxError("cannot-write", f"cannot make the folder for {path.name!r}: {error.strerror}", where=where) from None
    temporary = _unfinished(path)
    try:
        at_stage("begun")
        yield temporary
        at_stage("written")
        with open(temporary, "rb") as written:
            os.fsync(written.fileno())
        at_stage("flushed")
        os.replace(temporary, path)
        at_stage("named")
    except OSError as error:
        if is_full(error):
            raise disk_full(repr(path.name)).at(where) from error
        raise
    finally:
        temporary.unlink(missing_ok=True)


def not_written(path: Path, reason: str, size: int) -> UmbraxError:
    """Why a file of about `size` bytes could not be written, as a library tells it or as the disk shows."""
    where = Where(file=str(path))
    if shutil.disk_usage(path.parent).free < size:
        return disk_full(repr(path.name)).at(where)
    told = " ".join(reason.split())[:200] or "unknown reason"
    return UmbraxError("cannot-write", f"cannot write {path.name!r}: {told}; check the folder and the disk", where=where)


def _write(path: Path, spec: Any, data: NDArray[Any]) -> None:
    with written_whole(path) as temporary:
        out = oiio.ImageOutput.create(str(temporary))
        opened = out is not None and out.open(str(temporary), spec)
        at_stage("opened")
        if out is None or not opened or not out.write_image(data) or not out.close():
            raise not_written(path, out.geterror() if out else oiio.geterror(), data.nbytes)
