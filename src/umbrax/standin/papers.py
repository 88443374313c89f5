"""Still pictures of the printed page: paper with fibres and a tooth, and the page's banded gradient. 8-bit codes."""

import cv2
import numpy as np
from numpy.typing import NDArray

BANDS = ((0.93, 0.86, 0.72), (0.90, 0.76, 0.60), (0.83, 0.63, 0.52), (0.68, 0.50, 0.49), (0.49, 0.41, 0.47), (0.33, 0.34, 0.44))


def paper(width: int, height: int, seed: int = 19) -> NDArray[np.uint8]:
    """Warm white paper, sRGB codes `uint8[h, w, 3]`: cloudy, with a fine tooth and short fibres."""
    random = np.random.default_rng(seed)
    sheet = np.full((height, width), 0.90, np.float32)
    for sigma, depth in ((90.0, 0.9), (14.0, 0.16), (0.7, 0.020)):
        noise = cv2.GaussianBlur(random.normal(0, 1, (height, width)).astype(np.float32), (0, 0), sigma)
        sheet += depth * noise
    fibres = np.zeros((height, width), np.float32)
    for _ in range(width * height // 2600):
        x, y, angle, length = random.uniform(0, width), random.uniform(0, height), random.uniform(0, np.pi), random.uniform(6, 26)
        end = (int(x + length * np.cos(angle)), int(y + length * np.sin(angle)))
        cv2.line(fibres, (int(x), int(y)), end, float(random.uniform(-1, 1)), 1, cv2.LINE_AA)
    sheet += 0.025 * cv2.GaussianBlur(fibres, (0, 0), 0.6)
    tint = np.array([1.0, 0.975, 0.925], np.float32)
    codes: NDArray[np.uint8] = np.rint(np.clip(sheet[..., None] * tint, 0, 1) * 255).astype(np.uint8)
    return codes


def banded_page(width: int, height: int) -> NDArray[np.uint8]:
    """Six flat bands from dawn to night with a slightly wavy border, sRGB codes `uint8[h, w, 3]`; anti-aliased."""
    y, x = np.mgrid[:height, :width] + 0.5
    at = (1 - y / height) * len(BANDS) + 0.10 * np.sin(x / width * 9.0) + 0.05 * np.sin(x / width * 23.0 + 1)
    out = np.broadcast_to(np.array(BANDS[0]), (height, width, 3)).copy()
    soft = height / len(BANDS)
    for number, colour in enumerate(BANDS[1:], start=1):
        cover = np.clip((at - number) * soft + 0.5, 0, 1)[..., None]
        out = out * (1 - cover) + np.array(colour) * cover
    codes: NDArray[np.uint8] = np.rint(out * 255).astype(np.uint8)
    return codes
