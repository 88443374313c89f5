"""Scopes: how often each value occurs, where across the picture, and in what colours.

Values are counted as a display shows them (sRGB, IEC 61966-2-1), from 0 to 1; what lies outside counts at the ends, as it is clipped.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..colour import PRIMARIES, WORKING, Working, primaries_matrix, srgb_from_linear

Pixels = NDArray[np.float32]
Counts = NDArray[np.float32]
# linear BT.709 to CIE 1931 XYZ with white D65 (Recommendation ITU-R BT.709-6, item 1.3 and 1.4; SMPTE RP 177 gives the derivation)
XYZ_FROM_BT709 = np.array([[0.4123908, 0.3575843, 0.1804808], [0.2126390, 0.7151687, 0.0721923], [0.0193308, 0.1191948, 0.9505322]])
CHROMA = (0.8, 0.9)  # x and y from 0 to these
DARK = 1e-4  # X + Y + Z from which a colour is told


@dataclass(frozen=True)
class Scopes:
    """Counts of visible pixels, or of what a matte holds of each.

    `histogram` [3, bins], `waveform` [3, bins from 0 up, columns], `chroma` [bins of y up, bins of x]; `mean` linear light without
    alpha, `below` and `above` the shares of values that are clipped.
    """

    histogram: Counts
    waveform: Counts
    chroma: Counts
    mean: tuple[float, float, float]
    below: float
    above: float


def scopes(
    pixels: Pixels, weight: Pixels | None = None, bins: int = 128, columns: int = 128, chroma: int = 96, working: Working = WORKING
) -> Scopes:
    """Of RGBA `float32[h, w, 4]`; `weight` is a matte `[h, w, 1]`. Colours count as seen: by their alpha."""
    height, width = pixels.shape[:2]
    alpha = np.clip(pixels[..., 3], 0, 1)
    w = (alpha if weight is None else alpha * weight[..., 0]).ravel().astype(np.float64)
    light = pixels[..., :3].reshape(-1, 3).astype(np.float64) / np.maximum(alpha.reshape(-1, 1), 1e-6)
    shown = srgb_from_linear(light)
    step = np.clip((shown * bins).astype(np.int64), 0, bins - 1)
    column = np.tile(np.arange(width) * columns // max(width, 1), height)
    histogram = np.stack([np.bincount(step[:, c], w, bins) for c in range(3)])
    waveform = np.stack([np.bincount(step[:, c] * columns + column, w, bins * columns).reshape(bins, columns) for c in range(3)])
    total = max(float(w.sum()), 1e-12)
    mean = (light * w[:, None]).sum(axis=0) / total
    return Scopes(
        histogram.astype(np.float32), waveform.astype(np.float32), chromaticity(light, w, chroma, working),
        (float(mean[0]), float(mean[1]), float(mean[2])),
        float((w[:, None] * (shown < 0)).sum() / 3 / total), float((w[:, None] * (shown > 1)).sum() / 3 / total),
    )  # fmt: skip


def chromaticity(light: NDArray[np.float64], weight: NDArray[np.float64], bins: int, working: Working = WORKING) -> Counts:
    """How often each CIE 1931 x, y occurs among linear colours `[n, 3]`, `[bins, bins]`; what is nearly black has none."""
    matrix = primaries_matrix(PRIMARIES[working])
    xyz = np.maximum(light if matrix is None else light @ matrix.T, 0) @ XYZ_FROM_BT709.T
    total = xyz.sum(axis=1)
    told = total > DARK
    x, y = (np.clip(xyz[told, c] / total[told] / CHROMA[c] * bins, 0, bins - 1).astype(np.int64) for c in (0, 1))
    return np.bincount(y * bins + x, weight[told], bins * bins).reshape(bins, bins).astype(np.float32)
