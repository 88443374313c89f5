"""Deliberately faulty files for the check-up, each made from a good frame by one thing that goes wrong in practice."""

from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from .scene import Scene

Channels = dict[str, NDArray[Any]]
LIGHTS = ("diffuse", "specular", "reflection", "emission", "ambient")


def _without(channels: Channels, *layers: str) -> Channels:
    return {name: plane for name, plane in channels.items() if not name.startswith(layers)}


def no_alpha(channels: Channels) -> Channels:
    return {name: plane for name, plane in channels.items() if name not in ("specular.A", "emission.A")}


def light_missing(channels: Channels) -> Channels:
    """The ambient light is in the beauty and in no pass."""
    return _without(channels, "ambient.")


def empty_shadow(channels: Channels) -> Channels:
    return channels | {"shadow.Y": np.ones_like(channels["shadow.Y"])}


def inverted_shadow(channels: Channels) -> Channels:
    return channels | {"shadow.Y": (1 - channels["shadow.Y"].astype(np.float32)).astype(np.float16)}


def backdrop(channels: Channels) -> Channels:
    """A grey wall behind everything, in the beauty and its alpha."""
    alpha = channels["A"].astype(np.float32)
    wall = np.array([0.21, 0.20, 0.23], np.float32)
    new = {letter: (channels[letter].astype(np.float32) + (1 - alpha) * wall[i]).astype(np.float16) for i, letter in enumerate("RGB")}
    return channels | new | {"A": np.ones_like(channels["A"])}


def filtered_ids(channels: Channels) -> Channels:
    """The frame was resized once with a filter: IDs between two objects are numbers that nothing has."""
    new = {}
    for name, plane in channels.items():
        if name.startswith(("object_ids", "material_ids")):
            new[name] = cv2.GaussianBlur(np.ascontiguousarray(plane), (0, 0), 0.6)
    return channels | new


def smoothed_index(channels: Channels) -> Channels:
    soft = cv2.GaussianBlur(channels["object_index.Y"].astype(np.float32), (0, 0), 0.8)
    return channels | {"object_index.Y": soft.astype(np.float16)}


def bad_pixels(channels: Channels) -> Channels:
    """NaN, infinity, a negative and fireflies."""
    diffuse, specular = channels["diffuse.R"].copy(), channels["specular.G"].copy()
    height, width = diffuse.shape
    diffuse[height // 2, width // 3], diffuse[height // 2 + 9, width // 3] = np.nan, np.inf
    diffuse[height // 2 + 20, width // 3 : width // 3 + 3] = -0.5
    for number in range(5):
        specular[height // 2 - 14 + 7 * number, width // 3 + 11 * number] = 900
    return channels | {"diffuse.R": diffuse, "specular.G": specular}


def unassociated(channels: Channels) -> Channels:
    """Colours divided by their alpha, as some writers leave them."""
    alpha = channels["A"].astype(np.float32)
    share = np.where(alpha > 0, alpha, 1)
    new = {letter: (channels[letter].astype(np.float32) / share).astype(np.float16) for letter in "RGB"}
    return channels | new


def clipped_depth(channels: Channels) -> Channels:
    """Depth as 0..1 from near to far, flat behind 15 units, smoothed at the rims."""
    depth = np.where(np.isfinite(channels["depth.Z"]), channels["depth.Z"], 1e3)
    flat = np.clip((depth - 8) / 7, 0, 1).astype(np.float32)
    return channels | {"depth.Z": cv2.GaussianBlur(flat, (0, 0), 0.7)}


def ray_depth(channels: Channels) -> Channels:
    """Depth measured along each ray instead of along the axis."""
    depth = channels["depth.Z"]
    height, width = depth.shape
    focal = width / 2 / np.tan(np.radians(Scene.view_angle_deg / 2))
    x, y = np.arange(width) + 0.5 - width / 2, np.arange(height) + 0.5 - height / 2
    return channels | {"depth.Z": (depth * np.sqrt(1 + (x[None, :] ** 2 + y[:, None] ** 2) / focal**2)).astype(np.float32)}


def leaking_mattes(channels: Channels) -> Channels:
    """The sky is left in the first matte, and the second overlaps it."""
    red = channels["rgb_matte.R"].astype(np.float32)
    alpha = channels["A"].astype(np.float32)
    return channels | {
        "rgb_matte.R": np.maximum(red, 0.35 * (1 - alpha)).astype(np.float16),
        "rgb_matte.G": np.maximum(channels["rgb_matte.G"].astype(np.float32), red * 0.5).astype(np.float16),
    }


# what the file is called, what is done to the good frame, and which finding that must give
FAULTS: tuple[tuple[str, Callable[[Channels], Channels], str], ...] = (
    ("no_alpha", no_alpha, "no-alpha"),
    ("light_missing", light_missing, "sum-residue"),
    ("empty_shadow", empty_shadow, "constant-pass"),
    ("inverted_shadow", inverted_shadow, "shadow-polarity"),
    ("backdrop", backdrop, "baked-backdrop"),
    ("filtered_ids", filtered_ids, "ids-damaged"),
    ("smoothed_index", smoothed_index, "index-smoothed"),
    ("bad_pixels", bad_pixels, "bad-pixels"),
    ("unassociated", unassociated, "association"),
    ("clipped_depth", clipped_depth, "depth-meaning"),
    ("ray_depth", ray_depth, "depth-meaning"),
    ("leaking_mattes", leaking_mattes, "matte-leak"),
)
