"""The plate: a valley at dusk with haze, sensor grain and the paved terrace of the station, in the stand-in's camera."""

import numpy as np
from numpy.typing import NDArray

from .frames import camera
from .scene import Scene

Plane = NDArray[np.float64]


def _noise(x: Plane, seed: int, octaves: int = 5) -> Plane:
    """Smooth one-dimensional value noise, about -1 to 1."""
    rng = np.random.default_rng(seed)
    total = np.zeros_like(x)
    for octave in range(octaves):
        knots = rng.uniform(-1, 1, 4096)
        at = x * 2**octave + 1000
        low = np.floor(at).astype(int)
        t = at - low
        t = t * t * (3 - 2 * t)
        total += (knots[low % 4096] * (1 - t) + knots[(low + 1) % 4096] * t) / 2**octave
    return total / 1.6


def _sky(across: Plane, up: Plane) -> Plane:
    """Warm at the horizon, violet above, with the last light to the left."""
    t = np.clip(up / 0.42, 0, 1)[..., None] ** 0.75
    low, middle, high = np.array([0.60, 0.30, 0.17]), np.array([0.24, 0.17, 0.21]), np.array([0.055, 0.075, 0.15])
    colour = np.where(t < 0.45, low + (middle - low) * t / 0.45, middle + (high - middle) * (t - 0.45) / 0.55)
    glow = np.exp(-((across + 0.62) ** 2) / 0.10 - np.clip(up, -0.05, 1) ** 2 / 0.02)[..., None]
    band = np.exp(-((up - 0.20 - 0.02 * _noise(across * 2.5, 31)) ** 2) / 0.0016)[..., None] * 0.35
    band *= np.clip(0.4 + 0.6 * _noise(across * 4 + up * 9, 37), 0, 1)[..., None]
    lit: NDArray[np.float64] = colour + glow * np.array([0.55, 0.27, 0.08]) + band * np.array([0.22, 0.11, 0.09])
    return lit


def valley(scene: Scene, width: int, height: int, seed: int = 7) -> NDArray[np.float32]:
    """Scene-linear BT.709 light `float32[h, w, 3]`."""
    eye, right, up, forward, size, _ = camera(scene, width, height)
    y, x = np.mgrid[:height, :width] + 0.5
    u, v = x / width * 2 - 1, 1 - y / height * 2
    d = forward + u[..., None] * size[0] * right + v[..., None] * size[1] * up
    d /= np.linalg.norm(d, axis=2, keepdims=True)
    across, above = d[..., 0] / -d[..., 2], d[..., 1]
    picture = _sky(across, above)
    haze = np.array([0.46, 0.27, 0.20])
    for number, (crest, rough, depth) in enumerate(((0.055, 0.050, 0.80), (0.022, 0.040, 0.56), (-0.018, 0.030, 0.30))):
        ridge = crest + rough * _noise(across * (2.2 + number) + 7 * number, 11 + number)
        cover = np.clip((ridge - above) * height * 0.55 + 0.5, 0, 1)[..., None]
        down = np.clip((ridge - above) / 0.12, 0, 1)[..., None]
        stone = np.array([0.050, 0.048, 0.070]) * (1 - 0.4 * down)
        colour = haze * depth * (0.75 + 0.45 * down) + stone * (1 - depth)
        picture = picture * (1 - cover) + colour * cover
    picture = _with_terrace(picture, scene, eye, d, height)
    rng = np.random.default_rng(seed)
    grain = rng.normal(0, 1, (height, width, 3)) * 0.5 + rng.normal(0, 1, (height, width, 1)) * 0.5
    return np.maximum(picture + grain * np.sqrt(np.maximum(picture, 0)) * 0.012, 0).astype(np.float32)


def _with_terrace(picture: Plane, scene: Scene, eye: Plane, d: Plane, height: int) -> Plane:
    """Paving on y = 0 with joints that fade as they grow thin, a little wet, and a kerb at its far edge."""
    t = np.where(d[..., 1] < -1e-4, -eye[1] / np.minimum(d[..., 1], -1e-4), np.inf)
    with np.errstate(invalid="ignore"):
        gx, gz = eye[0] + t * d[..., 0], eye[2] + t * d[..., 2]
    x0, x1, z0, z1 = scene.terrace
    inside = np.isfinite(t) & (gx >= x0) & (gx <= x1) & (gz >= z0) & (gz <= z1)
    gx, gz = np.where(inside, gx, 0), np.where(inside, gz, 0)
    row = np.floor(gz / 0.9)
    shifted = gx / 1.3 + 0.5 * (row % 2)
    pixel = np.where(inside, t, 1) / height * 0.9
    joint_x = np.abs(shifted - np.floor(shifted) - 0.5)
    joint_z = np.abs(gz / 0.9 - np.floor(gz / 0.9) - 0.5)
    foreshortened = pixel * np.where(inside, t, 1) / eye[1]
    line = np.maximum(np.clip((joint_x - 0.482) / (0.018 + pixel), 0, 1), np.clip((joint_z - 0.475) / (0.025 + foreshortened), 0, 1))
    slab = np.random.default_rng(3).uniform(0.84, 1.10, 65536)[((np.floor(shifted) * 92837 + row * 689287).astype(int)) % 65536]
    away = np.clip((np.where(inside, t, 1) - 8) / 22, 0, 1)[..., None]
    wet = np.clip(-d[..., 1:2] * 1.4, 0, 1)
    stone = np.array([0.205, 0.165, 0.150]) * (slab * (1 - 0.55 * line))[..., None]
    stone = stone * (1.05 - 0.25 * away) + np.array([0.16, 0.095, 0.075]) * (1 - wet) ** 3
    kerb = np.clip((gz - z0) / 0.35, 0, 1)[..., None]
    stone = np.where(kerb < 1, stone * 0.62, stone)
    return np.where(inside[..., None], stone, picture)
