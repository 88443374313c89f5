"""The ACES 2.0 view of a display of 100 nits with BT.709 primaries, as OpenColorIO's built-in configuration has it."""

import threading
from functools import cache
from typing import Any

import numpy as np
import PyOpenColorIO as ocio
from numpy.typing import NDArray

from ..colour import PRIMARIES, WORKING, primaries_matrix
from ..kernels.cube import lit, spaced, to_codes, to_light

CONFIG = "cg-config-v5.0.0_aces-v2.1_ocio-v2.6"  # by its name: what is the default moves on
LIGHT, DISPLAY, VIEW = "Linear Rec.709 (sRGB)", "sRGB - Display", "ACES 2.0 - SDR 100 nits (Rec.709)"
POINTS = 65  # of the tables, along each side
Floats = NDArray[np.float32]
_making = threading.Lock()


@cache
def _processor(inverse: bool) -> Any:
    config = ocio.Config.CreateFromBuiltinConfig(CONFIG)
    way = ocio.TRANSFORM_DIR_INVERSE if inverse else ocio.TRANSFORM_DIR_FORWARD
    return config.getProcessor(ocio.DisplayViewTransform(LIGHT, DISPLAY, VIEW, direction=way)).getDefaultCPUProcessor()


def displayed(light: Floats) -> Floats:
    """Codes 0..1 of light `[..., 3]`, by OpenColorIO itself: half a second for a million pixels."""
    return _applied(light, inverse=False)


def _applied(values: Floats, inverse: bool) -> Floats:
    out = np.array(np.nan_to_num(values, posinf=3e38, neginf=0.0), np.float32, order="C")
    if out.size:
        _processor(inverse).applyRGB(out.reshape(-1, 3))
    return out


def looking(pixels: Floats, exposure: float = 0.0) -> NDArray[np.uint8]:
    """`uint8[h, w, 3]` of light `[h, w, 1, 3 or 4]`, by a table over its logarithm in AP1, whose primaries hold all that is seen."""
    return to_codes(pixels, 2.0**exposure, _turn(PRIMARIES["lin_ap1"]), _table(inverse=False))


def light_of(codes: Floats) -> Floats:
    """The light `[h, w, c]` that shows as codes 0..1; of grey, the light of that grey. White is as bright as 128."""
    if codes.shape[2] == 3:
        return to_light(codes, _table(inverse=True), _turn(PRIMARIES[WORKING], PRIMARIES["lin_ap1"]))
    planes = [light_of(np.repeat(codes[..., c : c + 1], 3, axis=2))[..., :1] for c in range(codes.shape[2])]
    return np.concatenate(planes, axis=2)


def _turn(wanted: Any, given: Any = PRIMARIES[WORKING]) -> Floats:
    matrix = primaries_matrix(given, wanted)
    assert matrix is not None
    return matrix


def _cube(side: NDArray[np.float64]) -> Floats:
    """All triples of values along a side, `[n, n, n, 3]`."""
    return np.stack(np.meshgrid(side, side, side, indexing="ij"), axis=3).astype(np.float32)


def _table(inverse: bool) -> Floats:
    """Codes of spaced light, or spaced light of codes; made once, whoever asks first."""
    with _making:
        return _made(inverse)


@cache
def _made(inverse: bool) -> Floats:
    places = np.linspace(0, 1, POINTS)
    if not inverse:
        light = _cube(lit(places)) @ _turn(PRIMARIES[WORKING], PRIMARIES["lin_ap1"]).T
        return np.ascontiguousarray(np.clip(displayed(light), 0, 1))
    light = _applied(_cube(places), inverse=True) @ _turn(PRIMARIES["lin_ap1"]).T
    return np.ascontiguousarray(spaced(light.astype(np.float64)), np.float32)
