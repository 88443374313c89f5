"""What light the hits of a packet send back: an area light with soft shadow, sky light, and one mirror bounce."""

from typing import Any

import numpy as np

from umbrax.core.kernels.vectors import choose

from .packets import (
    DX,
    DY,
    DZ,
    FAR,
    GLOW,
    GROUND,
    MATERIAL,
    NEAR,
    NOTHING,
    OX,
    OY,
    OZ,
    SAMPLES,
    SIDE,
    WHO,
    jit,
    prepare,
    random,
)  # fmt: skip
from .shapes import local, meet_everything, normal

# rows of the hits of a packet: where, which way the surface faces, which place of the lamp is looked at, how much of it
# faces the lamp and how much half way between lamp and eye, and whether the lamp is seen
AX, AY, AZ, NX, NY, NZ, LX, LY, LZ, FACING, HALFWAY, SEEN = (SAMPLES * row for row in range(12))
HITS = SAMPLES * 12
METAL = 0.2  # a material that throws back more than this is a metal: it colours what it throws back


@jit
def surface(rays: Any, hits: Any, things: Any) -> None:
    """Places and normals of unit length, turned against the rays."""
    for s in range(SAMPLES):
        who, t = rays[WHO + s], rays[NEAR + s]
        if who == NOTHING:
            continue
        ax, ay, az = rays[OX + s] + t * rays[DX + s], rays[OY + s] + t * rays[DY + s], rays[OZ + s] + t * rays[DZ + s]
        hits[AX + s], hits[AY + s], hits[AZ + s] = ax, ay, az
        if who == GROUND:
            hits[NX + s], hits[NY + s], hits[NZ + s] = 0.0, 1.0, 0.0
            continue
        nx, ny, nz = normal(things, np.int64(who), ax, ay, az)
        one = 1 / np.sqrt(nx * nx + ny * ny + nz * nz)
        if nx * rays[DX + s] + ny * rays[DY + s] + nz * rays[DZ + s] > 0:
            one = -one
        hits[NX + s], hits[NY + s], hits[NZ + s] = nx * one, ny * one, nz * one


@jit
def look_at_lamp(hits: Any, lamp: Any, x: Any, y: Any, seed: Any) -> None:
    """Each ray of a pixel looks at another cell of the lamp."""
    c0, c1, c2 = lamp[0, 0], lamp[0, 1], lamp[0, 2]
    a0, a1, a2, b0, b1, b2 = lamp[1, 0], lamp[1, 1], lamp[1, 2], lamp[2, 0], lamp[2, 1], lamp[2, 2]
    for s in range(SAMPLES):
        cell = (s * 7 + 5) % SAMPLES
        a = (cell % SIDE + random(x, y, s, 3 + seed)) / SIDE - 0.5
        b = (cell // SIDE + random(x, y, s, 4 + seed)) / SIDE - 0.5
        hits[LX + s], hits[LY + s], hits[LZ + s] = c0 + a * a0 + b * b0, c1 + a * a1 + b * b1, c2 + a * a2 + b * b2


@jit
def light(rays: Any, hits: Any, shadows: Any, things: Any, groups: Any) -> None:
    """How much the hits face the lamp, and whether they see it."""
    for s in range(SAMPLES):
        x, y, z = hits[AX + s], hits[AY + s], hits[AZ + s]
        nx, ny, nz = hits[NX + s], hits[NY + s], hits[NZ + s]
        tx, ty, tz = hits[LX + s] - x, hits[LY + s] - y, hits[LZ + s] - z
        far = np.sqrt(tx * tx + ty * ty + tz * tz)
        one = 1 / far
        tx, ty, tz = tx * one, ty * one, tz * one
        towards = tx * nx + ty * ny + tz * nz
        asked = (towards > 0) & (rays[WHO + s] != NOTHING)
        shadows[OX + s], shadows[OY + s], shadows[OZ + s] = x + 1e-3 * nx, y + 1e-3 * ny, z + 1e-3 * nz
        shadows[DX + s], shadows[DY + s], shadows[DZ + s] = tx, ty, tz
        shadows[NEAR + s] = choose(asked, far, -1.0)
        hits[FACING + s] = choose(asked, towards, 0.0)
        hx, hy, hz = tx - rays[DX + s], ty - rays[DY + s], tz - rays[DZ + s]
        hits[HALFWAY + s] = (nx * hx + ny * hy + nz * hz) / np.sqrt(hx * hx + hy * hy + hz * hz)
    prepare(shadows)
    meet_everything(shadows, things, groups)
    for s in range(SAMPLES):
        hits[SEEN + s] = choose((shadows[WHO + s] == NOTHING) & (hits[FACING + s] > 0), 1.0, 0.0)


@jit
def grain(world: Any, thing: Any, x: Any, y: Any, z: Any) -> Any:
    """What boards do to a colour: each its own tone, dark joints, a fine grain."""
    planks = world.materials[np.int64(world.things[thing, MATERIAL]), 9]
    if planks == 0:
        return 1.0
    a, b, c = local(world.things, thing, x, y, z)
    board = np.arctan2(c, a) / (2 * np.pi) * 3 * planks
    edge = abs(board - np.floor(board) - 0.5)
    tone = 0.75 + 0.5 * random(np.int64(np.floor(board)) + 500, 3, 1, 7)
    return tone * (0.35 if edge > 0.465 else 1.0) * (0.93 + 0.07 * np.sin(b * 90 + 9 * np.sin(board * 2.2)))


@jit
def gloss(halfway: Any, shine: Any) -> Any:
    """The lamp's highlight: a whole power of the half-way cosine; nothing below 1e-5."""
    left = np.int64(shine)
    if left * (1 - halfway) > 11.5:  # x^n < e^(-n (1 - x))
        return 0.0
    power, factor = 1.0, halfway
    while left > 0:
        if left & 1:
            power *= factor
        factor *= factor
        left >>= 1
    return power


@jit
def open_sky(ny: Any) -> Any:
    return 0.35 + 0.65 * (0.5 + 0.5 * ny)


@jit
def _sky(up: Any, k: Any, colour: Any) -> Any:
    """What a mirror sees where nothing stands: warm at the horizon, blue above, dark below."""
    up = max(-1.0, min(1.0, up * 1.6))
    warm = 0.95 if k == 0 else 0.55 if k == 1 else 0.36
    if up >= 0:
        return warm * (1 - up) + 1.4 * colour * up
    return warm * (0.12 + 0.88 * (1 + up) * (1 + up) * (1 + up) * (1 + up) * (1 + up) * (1 + up))


@jit
def mirror(rays: Any, hits: Any, bounced: Any, there: Any, shadows: Any, world: Any, out: Any) -> None:
    """What mirrors throw back, before their own colour and share, into `out[k * SAMPLES + s]`."""
    for s in range(SAMPLES):
        dx, dy, dz = rays[DX + s], rays[DY + s], rays[DZ + s]
        nx, ny, nz = hits[NX + s], hits[NY + s], hits[NZ + s]
        along = 2 * (dx * nx + dy * ny + dz * nz)
        bounced[DX + s], bounced[DY + s], bounced[DZ + s] = dx - along * nx, dy - along * ny, dz - along * nz
        bounced[OX + s], bounced[OY + s], bounced[OZ + s] = hits[AX + s] + 1e-3 * nx, hits[AY + s] + 1e-3 * ny, hits[AZ + s] + 1e-3 * nz
    for s in range(SAMPLES):
        who = rays[WHO + s]
        bounced[NEAR + s] = FAR if who >= 0 and world.materials[np.int64(world.things[np.int64(who), MATERIAL]), 5] > 0 else -1.0
    prepare(bounced)
    meet_everything(bounced, world.things, world.groups)
    met = 0.0
    for s in range(SAMPLES):
        met += choose(bounced[WHO + s] == NOTHING, 0.0, 1.0)
        there[SEEN + s] = there[FACING + s] = 0.0
        there[LX + s], there[LY + s], there[LZ + s] = hits[LX + s], hits[LY + s], hits[LZ + s]
    if met > 0:
        surface(bounced, there, world.things)
        light(bounced, there, shadows, world.things, world.groups)
    for s in range(SAMPLES):
        who = bounced[WHO + s]
        if who == NOTHING:
            for k in range(3):
                out[k * SAMPLES + s] = _sky(bounced[DY + s], k, world.lamp[4, k])
            continue
        thing = np.int64(who)
        tone = grain(world, thing, there[AX + s], there[AY + s], there[AZ + s])
        lit, sky, m = there[FACING + s] * there[SEEN + s], open_sky(there[NY + s]), np.int64(world.things[thing, MATERIAL])
        for k in range(3):
            out[k * SAMPLES + s] = world.materials[m, 6 + k] * world.things[thing, GLOW] + world.materials[m, k] * tone * (
                world.lamp[3, k] * lit + world.lamp[4, k] * sky
            )
