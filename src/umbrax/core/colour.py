"""Transfer functions, primaries, luma weights and the view.

Work is done in scene-linear light, with BT.709 primaries or, by choice, those of ACEScg.
"""

from functools import cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from .kernels import view
from .kernels.mixing import mixed

# Recommendation ITU-R BT.709-6, item 3.2: luma from linear R, G, B
LUMA_BT709 = (0.2126, 0.7152, 0.0722)

# red, green, blue and white in CIE 1931 x, y
Chromaticities = tuple[float, float, float, float, float, float, float, float]
D65, ACES_WHITE = (0.3127, 0.3290), (0.32168, 0.33767)
PRIMARIES: dict[str, Chromaticities] = {
    "lin_rec709": (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, *D65),  # Recommendation ITU-R BT.709-6, items 1.3 and 1.4
    "lin_ap1": (0.713, 0.293, 0.165, 0.830, 0.128, 0.044, *ACES_WHITE),  # Academy S-2014-004
    "lin_ap0": (0.7347, 0.2653, 0.0, 1.0, 0.0001, -0.077, *ACES_WHITE),  # SMPTE ST 2065-1:2012
    "lin_rec2020": (0.708, 0.292, 0.170, 0.797, 0.131, 0.046, *D65),  # Recommendation ITU-R BT.2020-2, table 3
    "lin_p3d65": (0.680, 0.320, 0.265, 0.690, 0.150, 0.060, *D65),  # SMPTE EG 432-1:2010
}
Working = Literal["lin_rec709", "lin_ap1"]
WORKING: Working = "lin_rec709"
Weights = tuple[float, float, float]
SAME = 5e-4  # chromaticities that are no farther apart than this are the same, written with fewer digits
# cone responses of the linear Bradford transform, ICC.1:2010, annex E
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])

FILM_BLACK, FILM_WHITE = 95, 685  # codes of 10 bits

Floats = NDArray[np.floating]


def srgb_from_linear(light: Floats) -> Floats:
    """sRGB code values 0..1 from linear light (IEC 61966-2-1:1999, 5.2); odd about 0 outside 0..1."""
    x = np.abs(light)
    with np.errstate(invalid="ignore"):
        encoded = np.where(x <= 0.0031308, 12.92 * x, 1.055 * np.power(x, 1 / 2.4) - 0.055)
    return np.copysign(encoded, light).astype(light.dtype, copy=False)


def linear_from_srgb(code: Floats) -> Floats:
    """Linear light from sRGB code values 0..1 (IEC 61966-2-1:1999, 5.2); odd about 0 outside 0..1."""
    x = np.abs(code)
    light = np.where(x <= 0.04045, x / 12.92, np.power((x + 0.055) / 1.055, 2.4))
    return np.copysign(light, code).astype(code.dtype, copy=False)


def linear_from_film_log(code: Floats) -> Floats:
    """Linear light from logarithmic codes 0..1 of scanned film: printing density, as SMPTE ST 268 (DPX) names it.

    0.002 of density a code of 10 bits, white 685, black 95, negative gamma 0.6 (common practice for such files): white is 1,
    black 0, and what lies above white goes on to 13.5.
    """
    relative = 10 ** ((np.asarray(code, np.float64) * 1023 - FILM_WHITE) * 0.002 / 0.6)
    black = 10 ** ((FILM_BLACK - FILM_WHITE) * 0.002 / 0.6)
    return np.asarray((relative - black) / (1 - black), code.dtype)


# Recommendation ITU-R BT.2100-2, table 4; BT.2408-7, 2.1: a white of paper, 203 cd/m^2, is 1 here
PQ_M1, PQ_M2, PQ_C1, PQ_C2, PQ_C3 = 2610 / 16384, 2523 / 4096 * 128, 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
PQ_PEAK, PAPER = 10_000.0, 203.0
# Recommendation ITU-R BT.2100-2, table 5; BT.2408-7, 2.1: paper is at 75 % of the signal
HLG_A = 0.17883277
HLG_B, HLG_C = 1 - 4 * HLG_A, 0.5 - HLG_A * float(np.log(4 * HLG_A))
HLG_PAPER = (float(np.exp((0.75 - HLG_C) / HLG_A)) + HLG_B) / 12


def linear_from_pq(code: Floats) -> Floats:
    """Light from codes 0..1 of the perceptual quantizer (BT.2100); paper of 203 cd/m^2 is 1, the brightest 49.3."""
    root = np.power(np.clip(np.asarray(code, np.float64), 0, 1), 1 / PQ_M2)
    light = np.power(np.maximum(root - PQ_C1, 0) / (PQ_C2 - PQ_C3 * root), 1 / PQ_M1)
    return np.asarray(light * (PQ_PEAK / PAPER), code.dtype)


def linear_from_hlg(code: Floats) -> Floats:
    """Light of the scene from codes 0..1 of hybrid log-gamma (BT.2100); paper is 1, the brightest 3.77."""
    x = np.clip(np.asarray(code, np.float64), 0, 1)
    light = np.where(x <= 0.5, x * x / 3, (np.exp((x - HLG_C) / HLG_A) + HLG_B) / 12)
    return np.asarray(light / HLG_PAPER, code.dtype)


def white_of(x: float, y: float) -> NDArray[np.float64]:
    """CIE 1931 XYZ of a white by its chromaticity, its Y 1."""
    return np.array([x / y, 1.0, (1 - x - y) / y])


def adaptation(given: NDArray[np.float64], wanted: NDArray[np.float64]) -> NDArray[np.float64]:
    """What makes colours seen under one white those seen under another, both in XYZ, `float64[3, 3]`: the linear Bradford transform."""
    return np.asarray(np.linalg.inv(BRADFORD) @ np.diag((BRADFORD @ wanted) / (BRADFORD @ given)) @ BRADFORD)


def _to_xyz(of: Chromaticities) -> NDArray[np.float64]:
    """From RGB to XYZ by SMPTE RP 177-1993: the columns are the primaries, scaled so that their sum is the white."""
    columns = np.array([[x, y, 1 - x - y] for x, y in (of[0:2], of[2:4], of[4:6])]).T
    scaled: NDArray[np.float64] = columns * np.linalg.solve(columns, white_of(*of[6:8]))
    return scaled


@cache
def primaries_matrix(given: Chromaticities, wanted: Chromaticities = PRIMARIES[WORKING]) -> NDArray[np.float32] | None:
    """From linear light of some primaries to that of others, `float32[3, 3]`; whites become one another by Bradford's transform.

    None where both are the same, and where what is given is no set of primaries (OpenEXR files may hold anything).
    """
    if max(abs(a - b) for a, b in zip(given, wanted, strict=True)) <= SAME:
        return None
    red, green, blue, white = (np.array(given[i : i + 2]) for i in (0, 2, 4, 6))
    area = float((green - red)[0] * (blue - red)[1] - (green - red)[1] * (blue - red)[0])
    if not np.isfinite(given).all() or abs(area) < 1e-3 or white[1] <= 0:
        return None
    adapted = adaptation(white_of(*given[6:8]), white_of(*wanted[6:8]))
    return np.ascontiguousarray(np.linalg.inv(_to_xyz(wanted)) @ adapted @ _to_xyz(given), np.float32)


@cache
def luma_of(working: str) -> Weights:
    """What luma is of linear red, green and blue: BT.709's own weights; of other primaries the Y of each (SMPTE RP 177-1993)."""
    if working == WORKING:
        return LUMA_BT709
    red, green, blue = _to_xyz(PRIMARIES[working])[1]
    return float(red), float(green), float(blue)


def in_space(pixels: NDArray[np.float32], given: str, wanted: str) -> NDArray[np.float32]:
    """Light `float32[h, w, c]` of one space in the primaries of another; a grey, of one channel or with alpha, is the same in all."""
    matrix = primaries_matrix(PRIMARIES[given], PRIMARIES[wanted])
    return pixels if matrix is None or pixels.shape[2] < 3 else mixed(pixels, matrix)


def in_bt709(pixels: NDArray[np.float32], working: str) -> NDArray[np.float32]:
    """Worked light with BT.709 primaries, in which views take it."""
    return in_space(pixels, working, "lin_rec709")


@cache
def _srgb_table() -> NDArray[np.uint8]:
    return np.rint(srgb_from_linear(view.middle_values()) * 255).astype(np.uint8)


def looking(pixels: NDArray[np.float32], exposure: float = 0.0) -> NDArray[np.uint8]:
    """`uint8[h, w, 3]` sRGB for looking, within one code of the exact curve; exposure in stops."""
    return view.eight_bits(pixels, 2.0**exposure, _srgb_table())


def exact_codes(light: Floats, top: int) -> NDArray[np.uint16]:
    """sRGB codes 0..top of linear light by the formula itself, rounded; light is limited to 0..1 and NaN is 0."""
    limited = np.clip(np.nan_to_num(light.astype(np.float64), nan=0.0), 0.0, 1.0)
    return np.rint(srgb_from_linear(limited) * top).astype(np.uint16)
