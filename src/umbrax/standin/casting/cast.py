"""One frame: every pixel's rays, what they meet, and the passes that come of it."""

from typing import Any

import numba
import numpy as np
from numba import prange

from umbrax.core.kernels.vectors import choose

from .packets import (
    BOX_AT,
    DX,
    DY,
    DZ,
    FAR,
    GAIN,
    GLOW,
    GROUND,
    MATERIAL,
    MOVE,
    NEAR,
    NOTHING,
    OX,
    OY,
    OZ,
    PACKET,
    SAMPLES,
    WHO,
    aim,
    any_meets,
    jit,
)  # fmt: skip
from .shading import (
    AX,
    AY,
    AZ,
    FACING,
    HALFWAY,
    HITS,
    METAL,
    NX,
    NY,
    NZ,
    SEEN,
    gloss,
    grain,
    light,
    look_at_lamp,
    mirror,
    open_sky,
    surface,
)  # fmt: skip
from .shapes import meet

MOST = 12  # different things one pixel can keep apart


@jit
def _meet_ground(rays: Any, terrace: Any) -> Any:
    """The terrace lies on y = 0 and holds out what is under it; returns how many rays met anything at all."""
    x0, x1, z0, z1 = terrace[0], terrace[1], terrace[2], terrace[3]
    met = 0.0
    for s in range(SAMPLES):
        down = rays[DY + s]
        t = choose(down < 0, -rays[OY + s] / choose(down == 0, 1.0, down), FAR)
        x, z = rays[OX + s] + t * rays[DX + s], rays[OZ + s] + t * rays[DZ + s]
        on = (t < rays[NEAR + s]) & (x >= x0) & (x <= x1) & (z >= z0) & (z <= z1)
        rays[WHO + s] = choose(on, GROUND, rays[WHO + s])
        rays[NEAR + s] = choose(on, t, rays[NEAR + s])
        met += choose(rays[WHO + s] == NOTHING, 0.0, 1.0)
    return met


@jit
def _note(seen: Any, counts: Any, thing: Any) -> None:
    for slot in range(MOST):
        if counts[slot] == 0 or seen[slot] == thing or slot == MOST - 1:
            seen[slot] = thing
            counts[slot] += 1
            break


@jit
def _add_light(total: Any, hits: Any, thrown: Any, s: Any, thing: Any, world: Any) -> None:
    """Diffuse, specular, reflection, emission and ambient of one ray, onto `total[5, 3]`."""
    m, gain, materials = np.int64(world.things[thing, MATERIAL]), world.things[thing, GAIN] / SAMPLES, world.materials
    tone = grain(world, thing, hits[AX + s], hits[AY + s], hits[AZ + s]) * gain
    lit, sky = tone * hits[FACING + s] * hits[SEEN + s], tone * open_sky(hits[NY + s])
    shine = hits[SEEN + s] * gloss(hits[HALFWAY + s], materials[m, 4]) * materials[m, 3] * 0.6 * gain
    metal, mirrored = materials[m, 5] > METAL, materials[m, 5] * gain
    for k in range(3):
        total[0, k] += materials[m, k] * world.lamp[3, k] * lit
        total[1, k] += (materials[m, k] if metal else 1.0) * world.lamp[3, k] * shine
        total[3, k] += materials[m, 6 + k] * world.things[thing, GLOW] * gain
        total[4, k] += materials[m, k] * world.lamp[4, k] * sky
        if mirrored > 0:
            total[2, k] += mirrored * (materials[m, k] * 1.6 if metal else 1.0) * thrown[k * SAMPLES + s]


@jit
def _motion(view: Any, things: Any, i: Any, x: Any, y: Any, z: Any, width: Any, height: Any, out: Any) -> None:
    """How far a place of the world is a frame later on the screen: pixels to the right, pixels down."""
    px, py, sign = 0.0, 0.0, -1.0
    for _ in range(2):
        dx, dy, dz = x - view.eye[0], y - view.eye[1], z - view.eye[2]
        away = dx * view.forward[0] + dy * view.forward[1] + dz * view.forward[2]
        px += sign * (dx * view.right[0] + dy * view.right[1] + dz * view.right[2]) / away / view.size[0]
        py -= sign * (dx * view.up[0] + dy * view.up[1] + dz * view.up[2]) / away / view.size[1]
        x, y, z = (
            things[i, MOVE] * x + things[i, MOVE + 1] * y + things[i, MOVE + 2] * z + things[i, MOVE + 3],
            things[i, MOVE + 4] * x + things[i, MOVE + 5] * y + things[i, MOVE + 6] * z + things[i, MOVE + 7],
            things[i, MOVE + 8] * x + things[i, MOVE + 9] * y + things[i, MOVE + 10] * z + things[i, MOVE + 11],
        )
        sign = 1.0
    out[0], out[1] = px * width / 2, py * height / 2


@numba.njit(cache=True, nogil=True, parallel=True, error_model="numpy", fastmath=True)
def cast(
    world: Any, view: Any, tiles: Any, tile: Any, seed: Any,
    lights: Any, alpha: Any, shadow: Any, depth: Any, normals: Any, positions: Any, motions: Any, seen: Any, counts: Any,
) -> None:  # fmt: skip
    """Fill the planes of one frame. `tiles[row, column]` lists what can be seen in a tile, ended by -1.

    Depth, position and motion are those of the nearest ray of a pixel, unfiltered; everything else is a mean.
    """
    height, width = alpha.shape
    for line in prange(height):
        y = (line * 389) % height  # far apart one after the other: the threads get the same share of sky
        rays, shadows, bounced = np.zeros(PACKET), np.zeros(PACKET), np.zeros(PACKET)
        hits, there, thrown, total = np.zeros(HITS), np.zeros(HITS), np.zeros(3 * SAMPLES), np.zeros((5, 3))
        # rows above the horizon, and all where there is no terrace, hold nothing but things
        above = view.lens[0] == 0 and view.forward[1] + (1 - (y + 1) / height * 2) * view.size[1] * view.up[1] >= 0
        bare = above or world.terrace[1] < world.terrace[0]
        for x in range(width):
            some = tiles[y // tile, x // tile]
            if bare and some[0] < 0:
                continue
            aim(rays, view, x, y, width, height, seed)
            for i in some:
                if i < 0:
                    break
                if any_meets(rays, world.things, i, BOX_AT):
                    meet(rays, world.things, i)
            if _meet_ground(rays, world.terrace) == 0:
                continue
            surface(rays, hits, world.things)
            look_at_lamp(hits, world.lamp, x, y, seed)
            light(rays, hits, shadows, world.things, world.groups)
            lit, met, nearest, near, mirrors = 0.0, 0, -1, 0.0, False
            for s in range(SAMPLES):
                who = rays[WHO + s]
                lit += 1.0 if who == NOTHING else hits[SEEN + s]
                if who >= 0:
                    met += 1
                    mirrors = mirrors or world.materials[np.int64(world.things[np.int64(who), MATERIAL]), 5] > 0
                    away = rays[DX + s] * view.forward[0] + rays[DY + s] * view.forward[1] + rays[DZ + s] * view.forward[2]
                    if nearest < 0 or rays[NEAR + s] * away < near:
                        nearest, near = s, rays[NEAR + s] * away
            shadow[y, x] = lit / SAMPLES
            if met == 0:
                continue
            if mirrors:
                mirror(rays, hits, bounced, there, shadows, world, thrown)
            total[:] = 0.0
            nx, ny, nz = 0.0, 0.0, 0.0
            for s in range(SAMPLES):
                if rays[WHO + s] >= 0:
                    thing = np.int64(rays[WHO + s])
                    _add_light(total, hits, thrown, s, thing, world)
                    _note(seen[y, x], counts[y, x], thing)
                    nx, ny, nz = nx + hits[NX + s], ny + hits[NY + s], nz + hits[NZ + s]
            for p in range(5):
                for k in range(3):
                    lights[p, y, x, k] = total[p, k]
            alpha[y, x], depth[y, x] = met / SAMPLES, near
            one = 1 / max(np.sqrt(nx * nx + ny * ny + nz * nz), 1e-6)
            normals[y, x, 0], normals[y, x, 1], normals[y, x, 2] = nx * one, ny * one, nz * one
            px, py, pz = hits[AX + nearest], hits[AY + nearest], hits[AZ + nearest]
            positions[y, x, 0], positions[y, x, 1], positions[y, x, 2] = px, py, pz
            _motion(view, world.things, np.int64(rays[WHO + nearest]), px, py, pz, width, height, motions[y, x])
