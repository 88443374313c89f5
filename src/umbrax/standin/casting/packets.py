"""Packets of rays, and which things a packet can meet at all."""

from typing import Any, NamedTuple

import numba
import numpy as np
from numpy.typing import NDArray

from umbrax.core.kernels.vectors import choose

SIDE = 4  # samples a pixel: SIDE x SIDE
SAMPLES = SIDE * SIDE
FAR = 1e30
EPSILON = 1e-4  # hits nearer than this are the surface the ray starts from
NOTHING, GROUND = -1.0, -2.0  # who was met, where it is no thing

# rows of a packet: where the rays start, where they go (unit length), one over that, how far the nearest hit is, whose it is
OX, OY, OZ, DX, DY, DZ, QX, QY, QZ, NEAR, WHO = (SAMPLES * row for row in range(11))
PACKET = SAMPLES * 11


# columns of the table of things: the shape, world to local and to where a place is a frame later (3 x 4), the part of
# local space that is there and the box in the world (low, high by axis), the material, and gains on its light and on what it emits
SHAPE, INVERSE, MOVE, CLIP, BOX_AT, MATERIAL, GAIN, GLOW, COLUMNS = 0, 1, 13, 25, 31, 37, 38, 39, 40


class World(NamedTuple):
    """A scene as few arrays, for each costs at every call. Directions are not normalised in a thing's own space, so
    distances are those of the world."""

    things: NDArray[np.float64]  # [thing, COLUMNS]
    groups: NDArray[np.float64]  # [group, 8]: box, first thing and the one after the last
    materials: NDArray[np.float64]  # [material, 10]: albedo, specular, shine, mirror, emission, planks
    lamp: NDArray[np.float64]  # [5, 3]: where it is, its two sides, its light, the light of the sky
    terrace: NDArray[np.float64]  # low, high in x and in z


class View(NamedTuple):
    """A camera: where it stands, its axes, and the tangents of half its angles across and down; its lens: radius, and how far away
    along the axis it is sharp. Through a lens of radius 0 every ray goes through the eye."""

    eye: NDArray[np.float64]
    right: NDArray[np.float64]
    up: NDArray[np.float64]
    forward: NDArray[np.float64]
    size: NDArray[np.float64]
    lens: NDArray[np.float64]


def jit(function: Any) -> Any:
    """A compiled piece that makes no arrays, so that those it is given need not be counted at every call."""
    compiler: Any = numba.njit
    return compiler(nogil=True, error_model="numpy", fastmath=True, _nrt=False)(function)


@jit
def random(x: Any, y: Any, sample: Any, salt: Any) -> Any:
    """A number in 0..1 from where it is used: an integer hash with shifts and odd multipliers."""
    h = np.uint32(x) * np.uint32(0x8DA6B343) + np.uint32(y) * np.uint32(0xD8163841)
    h = np.uint32(h + np.uint32(sample) * np.uint32(0xCB1AB31F) + np.uint32(salt) * np.uint32(0x165667B1))
    h = np.uint32(h ^ (h >> np.uint32(15)))
    h = np.uint32(h * np.uint32(0x2C1B3C6D))
    h = np.uint32(h ^ (h >> np.uint32(12)))
    h = np.uint32(h * np.uint32(0x297A2D39))
    h = np.uint32(h ^ (h >> np.uint32(15)))
    return np.float64(h) / 4294967296.0


@jit
def aim(rays: Any, view: Any, x: Any, y: Any, width: Any, height: Any, seed: Any) -> None:
    """Rays from the eye through the pixel, one in each cell of its grid; from all over the lens where it has one."""
    f0, f1, f2 = view.forward[0], view.forward[1], view.forward[2]
    r0, r1, r2 = view.right[0] * view.size[0], view.right[1] * view.size[0], view.right[2] * view.size[0]
    u0, u1, u2 = view.up[0] * view.size[1], view.up[1] * view.size[1], view.up[2] * view.size[1]
    e0, e1, e2 = view.eye[0], view.eye[1], view.eye[2]
    for s in range(SAMPLES):
        u = (x + (s % SIDE + random(x, y, s, 1)) / SIDE) / width * 2 - 1
        v = 1 - (y + (s // SIDE + random(x, y, s, 2)) / SIDE) / height * 2
        d0, d1, d2 = f0 + u * r0 + v * u0, f1 + u * r1 + v * u1, f2 + u * r2 + v * u2
        one = 1 / np.sqrt(d0 * d0 + d1 * d1 + d2 * d2)
        rays[OX + s], rays[OY + s], rays[OZ + s] = e0, e1, e2
        rays[DX + s], rays[DY + s], rays[DZ + s] = d0 * one, d1 * one, d2 * one
        rays[NEAR + s], rays[WHO + s] = FAR, NOTHING
    if view.lens[0] > 0:
        _through_lens(rays, view, x, y, seed)
    prepare(rays)


@jit
def _through_lens(rays: Any, view: Any, x: Any, y: Any, seed: Any) -> None:
    """Rays from all over the lens towards where those through its middle meet the plane that is sharp.

    Each comes from a cell of the lens of its own, whichever cell of the pixel it goes through.
    """
    first = np.int64(random(x, y, seed, 5) * SAMPLES)
    for s in range(SAMPLES):
        cell = (s * 7 + first) % SAMPLES
        radius = view.lens[0] * np.sqrt((cell // SIDE + random(x, y, s, 6 + 8 * seed)) / SIDE)
        angle = 2 * np.pi * (cell % SIDE + random(x, y, s, 7 + 8 * seed)) / SIDE
        a, b = radius * np.cos(angle), radius * np.sin(angle)
        d0, d1, d2 = rays[DX + s], rays[DY + s], rays[DZ + s]
        far = view.lens[1] / (d0 * view.forward[0] + d1 * view.forward[1] + d2 * view.forward[2])
        o0 = a * view.right[0] + b * view.up[0]
        o1 = a * view.right[1] + b * view.up[1]
        o2 = a * view.right[2] + b * view.up[2]
        d0, d1, d2 = d0 * far - o0, d1 * far - o1, d2 * far - o2
        one = 1 / np.sqrt(d0 * d0 + d1 * d1 + d2 * d2)
        rays[OX + s], rays[OY + s], rays[OZ + s] = rays[OX + s] + o0, rays[OY + s] + o1, rays[OZ + s] + o2
        rays[DX + s], rays[DY + s], rays[DZ + s] = d0 * one, d1 * one, d2 * one


@jit
def prepare(rays: Any) -> None:
    """Fill in one over the directions."""
    for s in range(SAMPLES):
        dx, dy, dz = rays[DX + s], rays[DY + s], rays[DZ + s]
        rays[QX + s] = choose(dx == 0, FAR, 1 / dx)
        rays[QY + s] = choose(dy == 0, FAR, 1 / dy)
        rays[QZ + s] = choose(dz == 0, FAR, 1 / dz)


@jit
def any_meets(rays: Any, boxes: Any, i: Any, at: Any) -> Any:
    """Whether a ray meets the box in columns `at` to `at + 5` before its nearest hit (slabs)."""
    x0, y0, z0, x1, y1, z1 = boxes[i, at], boxes[i, at + 1], boxes[i, at + 2], boxes[i, at + 3], boxes[i, at + 4], boxes[i, at + 5]
    met = 0.0
    for s in range(SAMPLES):
        a, b = (x0 - rays[OX + s]) * rays[QX + s], (x1 - rays[OX + s]) * rays[QX + s]
        low, high = max(0.0, min(a, b)), min(rays[NEAR + s], max(a, b))
        a, b = (y0 - rays[OY + s]) * rays[QY + s], (y1 - rays[OY + s]) * rays[QY + s]
        low, high = max(low, min(a, b)), min(high, max(a, b))
        a, b = (z0 - rays[OZ + s]) * rays[QZ + s], (z1 - rays[OZ + s]) * rays[QZ + s]
        low, high = max(low, min(a, b)), min(high, max(a, b))
        met += choose(low <= high, 1.0, 0.0)
    return met > 0
