"""How mattes are shown so that they can be judged: as a tint, as a cut, by their edges, by what leaks, and as a sum."""

import numpy as np
from numpy.typing import NDArray

from umbrax.core.mattes.trust import Mask, holes_of, with_rim
from umbrax.core.picture import Picture, Window

Plane = NDArray[np.float32]
LILAC = np.array([0.462, 0.332, 0.871], np.float32)
CORAL = np.array([0.823, 0.159, 0.125], np.float32)
AMBER = np.array([0.768, 0.451, 0.102], np.float32)
INSIDE = np.float32(0.05)  # how bright the solid inside is where only edges are shown


def tinted(picture: Picture, matte: Plane) -> Picture:
    """The picture with lilac over what the matte `float32[h, w, 1]` covers."""
    pixels = picture.pixels.copy()
    luma = pixels[..., :3].mean(axis=2, keepdims=True)
    pixels[..., :3] += (LILAC * (0.25 + luma) - pixels[..., :3]) * matte * np.float32(0.65)
    return Picture(pixels, picture.window)


def cut(picture: Picture, matte: Plane) -> Picture:
    return Picture(picture.pixels * matte, picture.window)


def edges(m: Plane, window: Window) -> Picture:
    """Where a matte `float32[h, w]` is neither 0 nor 1, its value; the solid inside is nearly dark."""
    rim = (m > 0) & (m < 1)
    return _opaque(np.where(rim, m, np.where(m >= 1, INSIDE, 0))[..., None] * np.where(rim[..., None], LILAC, 1), window)


def leaking(m: Plane, part: Mask | None, window: Window) -> Picture:
    """The part under a point lilac, what the matte `float32[h, w]` covers outside of it coral, holes in the part amber."""
    own = np.zeros(m.shape, np.bool_) if part is None else with_rim(m, part)
    light = m[..., None] * np.where(own[..., None], LILAC, CORAL)
    if part is not None:
        light = np.where(holes_of(part)[..., None], m[..., None] * LILAC + (1 - m[..., None]) * AMBER, light)
    return _opaque(light, window)


def summed(total: Plane, wanted: Plane, window: Window) -> Picture:
    """Grey where mattes together cover once, amber where more than that, coral where less; both by how much."""
    over, under = np.maximum(total - wanted, 0)[..., None], np.maximum(wanted - total, 0)[..., None]
    grey = np.minimum(total, wanted)[..., None] * np.float32(0.16)
    return _opaque(grey * np.maximum(1 - over, 0) + AMBER * np.minimum(over, 1) + CORAL * np.minimum(under, 1), window)


def _opaque(light: Plane, window: Window) -> Picture:
    return Picture(np.concatenate([light, np.ones_like(light[..., :1])], axis=2).astype(np.float32), window)
