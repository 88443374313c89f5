"""Where rays meet primitives, and which way these face there.

Local shapes: unit sphere; cylinder of radius 1 over 0 <= y <= 1; box -1..1; cone of radius 1 at y = 0 with its tip at
y = 1; plane y = 0; disc of radius 1 on y = 0; torus about y of radius 1 whose tube has the radius `TUBE`.
"""

from typing import Any

import numpy as np

from umbrax.core.kernels.vectors import choose

from .packets import (
    BOX_AT,
    CLIP,
    DX,
    DY,
    DZ,
    EPSILON,
    FAR,
    INVERSE,
    NEAR,
    NOTHING,
    OX,
    OY,
    OZ,
    SAMPLES,
    SHAPE,
    WHO,
    any_meets,
    jit,
)  # fmt: skip

SPHERE, CYLINDER, BOX, CONE, PLANE, DISC, TORUS = range(7)
TUBE = 0.05
STEPS = 40  # towards a torus


@jit
def _inverse(things: Any, i: Any) -> Any:
    """The three rows that take the world to a thing's own space."""
    return (
        (things[i, INVERSE], things[i, INVERSE + 1], things[i, INVERSE + 2], things[i, INVERSE + 3]),
        (things[i, INVERSE + 4], things[i, INVERSE + 5], things[i, INVERSE + 6], things[i, INVERSE + 7]),
        (things[i, INVERSE + 8], things[i, INVERSE + 9], things[i, INVERSE + 10], things[i, INVERSE + 11]),
    )


@jit
def _clip(things: Any, i: Any) -> Any:
    return things[i, CLIP], things[i, CLIP + 1], things[i, CLIP + 2], things[i, CLIP + 3], things[i, CLIP + 4], things[i, CLIP + 5]


@jit
def local(things: Any, i: Any, x: Any, y: Any, z: Any) -> Any:
    """A place of the world in a thing's own space."""
    (m00, m01, m02, m03), (m10, m11, m12, m13), (m20, m21, m22, m23) = _inverse(things, i)
    return m00 * x + m01 * y + m02 * z + m03, m10 * x + m11 * y + m12 * z + m13, m20 * x + m21 * y + m22 * z + m23


@jit
def normal(things: Any, i: Any, x: Any, y: Any, z: Any) -> Any:
    """Which way a thing faces at a place of its surface; of any length, inward or outward."""
    a, b, c = _facing(np.int64(things[i, SHAPE]), *local(things, i, x, y, z))
    (m00, m01, m02, _), (m10, m11, m12, _), (m20, m21, m22, _) = _inverse(things, i)
    return m00 * a + m10 * b + m20 * c, m01 * a + m11 * b + m21 * c, m02 * a + m12 * b + m22 * c


@jit
def _round(rays: Any, things: Any, i: Any, shape: Any) -> None:
    """Sphere, cylinder and cone: the nearer root of a quadric that is inside the clip, and flat ends."""
    (m00, m01, m02, m03), (m10, m11, m12, m13), (m20, m21, m22, m23) = _inverse(things, i)
    x0, x1, y0, y1, z0, z1 = _clip(things, i)
    ball, tip = 1.0 if shape == SPHERE else 0.0, 1.0 if shape == CONE else 0.0
    lower, upper = (y0, y1) if shape == SPHERE else (max(y0, 0.0), min(y1, 1.0))
    bottom, top = y0 <= 0.0, y1 >= 1.0 and shape == CYLINDER
    who = np.float64(i)
    for s in range(SAMPLES):
        o0, o1, o2, d0, d1, d2 = rays[OX + s], rays[OY + s], rays[OZ + s], rays[DX + s], rays[DY + s], rays[DZ + s]
        ox, oy, oz = m00 * o0 + m01 * o1 + m02 * o2 + m03, m10 * o0 + m11 * o1 + m12 * o2 + m13, m20 * o0 + m21 * o1 + m22 * o2 + m23
        dx, dy, dz = m00 * d0 + m01 * d1 + m02 * d2, m10 * d0 + m11 * d1 + m12 * d2, m20 * d0 + m21 * d1 + m22 * d2
        # x^2 + z^2 + ball y^2 - 1, and for the cone x^2 + z^2 - (1 - y)^2
        down, along = tip * (1 - oy), ball - tip
        a = dx * dx + dz * dz + along * dy * dy
        b = ox * dx + oz * dz + ball * oy * dy + down * dy
        c = ox * ox + oz * oz + ball * oy * oy - tip * down * (1 - oy) + (tip - 1)
        square = b * b - a * c
        root, one = np.sqrt(max(square, 0.0)), 1 / choose(a == 0, FAR, a)
        t, other = (-b - root) * one, (-b + root) * one
        t, other = min(t, other), max(t, other)
        x, y, z = ox + t * dx, oy + t * dy, oz + t * dz
        kept = (square >= 0) & (t > EPSILON) & (x >= x0) & (x <= x1) & (y >= lower) & (y <= upper) & (z >= z0) & (z <= z1)
        x, y, z = ox + other * dx, oy + other * dy, oz + other * dz
        behind = (square >= 0) & (other > EPSILON) & (x >= x0) & (x <= x1) & (y >= lower) & (y <= upper) & (z >= z0) & (z <= z1)
        t = choose(kept, t, choose(behind, other, FAR))
        if shape != SPHERE:
            one = 1 / choose(dy == 0, 1 / FAR, dy)
            end = -oy * one
            x, z = ox + end * dx, oz + end * dz
            on = bottom & (end > EPSILON) & (x * x + z * z <= 1) & (x >= x0) & (x <= x1) & (z >= z0) & (z <= z1)
            t = min(t, choose(on, end, FAR))
            end = (1 - oy) * one
            x, z = ox + end * dx, oz + end * dz
            on = top & (end > EPSILON) & (x * x + z * z <= 1) & (x >= x0) & (x <= x1) & (z >= z0) & (z <= z1)
            t = min(t, choose(on, end, FAR))
        nearer = t < rays[NEAR + s]
        rays[WHO + s] = choose(nearer, who, rays[WHO + s])
        rays[NEAR + s] = choose(nearer, t, rays[NEAR + s])


@jit
def _box(rays: Any, things: Any, i: Any) -> None:
    (m00, m01, m02, m03), (m10, m11, m12, m13), (m20, m21, m22, m23) = _inverse(things, i)
    who = np.float64(i)
    for s in range(SAMPLES):
        o0, o1, o2, d0, d1, d2 = rays[OX + s], rays[OY + s], rays[OZ + s], rays[DX + s], rays[DY + s], rays[DZ + s]
        ox, oy, oz = m00 * o0 + m01 * o1 + m02 * o2 + m03, m10 * o0 + m11 * o1 + m12 * o2 + m13, m20 * o0 + m21 * o1 + m22 * o2 + m23
        dx, dy, dz = m00 * d0 + m01 * d1 + m02 * d2, m10 * d0 + m11 * d1 + m12 * d2, m20 * d0 + m21 * d1 + m22 * d2
        qx, qy, qz = 1 / choose(dx == 0, 1 / FAR, dx), 1 / choose(dy == 0, 1 / FAR, dy), 1 / choose(dz == 0, 1 / FAR, dz)
        a, b = (-1 - ox) * qx, (1 - ox) * qx
        low, high = min(a, b), max(a, b)
        a, b = (-1 - oy) * qy, (1 - oy) * qy
        low, high = max(low, min(a, b)), min(high, max(a, b))
        a, b = (-1 - oz) * qz, (1 - oz) * qz
        low, high = max(low, min(a, b)), min(high, max(a, b))
        nearer = (low <= high) & (low > EPSILON) & (low < rays[NEAR + s])
        rays[WHO + s] = choose(nearer, who, rays[WHO + s])
        rays[NEAR + s] = choose(nearer, low, rays[NEAR + s])


@jit
def _flat(rays: Any, things: Any, i: Any, radius: Any) -> None:
    """Plane and disc."""
    (m00, m01, m02, m03), (m10, m11, m12, m13), (m20, m21, m22, m23) = _inverse(things, i)
    x0, x1, _, _, z0, z1 = _clip(things, i)
    limit = radius * radius
    who = np.float64(i)
    for s in range(SAMPLES):
        o0, o1, o2, d0, d1, d2 = rays[OX + s], rays[OY + s], rays[OZ + s], rays[DX + s], rays[DY + s], rays[DZ + s]
        ox, oy, oz = m00 * o0 + m01 * o1 + m02 * o2 + m03, m10 * o0 + m11 * o1 + m12 * o2 + m13, m20 * o0 + m21 * o1 + m22 * o2 + m23
        dx, dy, dz = m00 * d0 + m01 * d1 + m02 * d2, m10 * d0 + m11 * d1 + m12 * d2, m20 * d0 + m21 * d1 + m22 * d2
        t = -oy / choose(dy == 0, 1 / FAR, dy)
        x, z = ox + t * dx, oz + t * dz
        nearer = (t > EPSILON) & (t < rays[NEAR + s]) & (x * x + z * z <= limit) & (x >= x0) & (x <= x1) & (z >= z0) & (z <= z1)
        rays[WHO + s] = choose(nearer, who, rays[WHO + s])
        rays[NEAR + s] = choose(nearer, t, rays[NEAR + s])


@jit
def _torus(rays: Any, things: Any, i: Any) -> None:
    """Walks along the ray by the distance to the surface, from where it enters the ball around the torus."""
    (m00, m01, m02, m03), (m10, m11, m12, m13), (m20, m21, m22, m23) = _inverse(things, i)
    who = np.float64(i)
    for s in range(SAMPLES):
        o0, o1, o2, d0, d1, d2 = rays[OX + s], rays[OY + s], rays[OZ + s], rays[DX + s], rays[DY + s], rays[DZ + s]
        ox, oy, oz = m00 * o0 + m01 * o1 + m02 * o2 + m03, m10 * o0 + m11 * o1 + m12 * o2 + m13, m20 * o0 + m21 * o1 + m22 * o2 + m23
        dx, dy, dz = m00 * d0 + m01 * d1 + m02 * d2, m10 * d0 + m11 * d1 + m12 * d2, m20 * d0 + m21 * d1 + m22 * d2
        # within the slab |y| <= TUBE only: most of the ball is empty
        q = 1 / choose(dy == 0, 1 / FAR, dy)
        t0, t1 = (-TUBE - oy) * q, (TUBE - oy) * q
        start, end = min(t0, t1), max(t0, t1)
        a, b = dx * dx + dy * dy + dz * dz, ox * dx + oy * dy + oz * dz
        c = ox * ox + oy * oy + oz * oz - (1 + TUBE) * (1 + TUBE)
        square, one = b * b - a * c, 1 / a
        root = np.sqrt(max(square, 0.0))
        t, end = max(max(start, (-b - root) * one), EPSILON), min(end, (-b + root) * one)
        pace, gap = np.sqrt(one), 0.0
        for _ in range(STEPS):
            x, y, z = ox + t * dx, oy + t * dy, oz + t * dz
            around = np.sqrt(x * x + z * z) - 1
            gap = np.sqrt(around * around + y * y) - TUBE
            t += gap * pace
        nearer = (square >= 0) & (t > EPSILON) & (t <= end + 1e-9) & (gap < 1e-3 * TUBE) & (t < rays[NEAR + s])
        rays[WHO + s] = choose(nearer, who, rays[WHO + s])
        rays[NEAR + s] = choose(nearer, t, rays[NEAR + s])


@jit
def meet(rays: Any, things: Any, i: Any) -> None:
    """Note where a thing is hit before anything else."""
    shape = np.int64(things[i, SHAPE])
    if shape == SPHERE:
        _round(rays, things, i, SPHERE)
    elif shape == CYLINDER:
        _round(rays, things, i, CYLINDER)
    elif shape == CONE:
        _round(rays, things, i, CONE)
    elif shape == BOX:
        _box(rays, things, i)
    elif shape == TORUS:
        _torus(rays, things, i)
    else:
        _flat(rays, things, i, 1.0 if shape == DISC else FAR)


@jit
def meet_everything(rays: Any, things: Any, groups: Any) -> None:
    """The nearest hits among all things; a packet that starts with `NEAR` at the lamp asks only what is between."""
    for s in range(SAMPLES):
        rays[WHO + s] = NOTHING
    for g in range(groups.shape[0]):
        if any_meets(rays, groups, g, 0):
            for i in range(np.int64(groups[g, 6]), np.int64(groups[g, 7])):
                if any_meets(rays, things, i, BOX_AT):
                    meet(rays, things, i)


@jit
def _facing(shape: Any, x: Any, y: Any, z: Any) -> Any:
    """The local normal, of any length, at a place of a shape's surface."""
    if shape == SPHERE:
        return x, y, z
    if shape == BOX:
        ax, ay, az = abs(x), abs(y), abs(z)
        if ax >= ay and ax >= az:
            return x, 0.0, 0.0
        if ay >= az:
            return 0.0, y, 0.0
        return 0.0, 0.0, z
    if shape == TORUS:
        around = np.sqrt(x * x + z * z)
        share = (around - 1) / around
        return x * share, y, z * share
    if shape == CYLINDER:
        if min(abs(y), abs(1 - y)) < abs(x * x + z * z - 1):
            return 0.0, 1.0, 0.0
        return x, 0.0, z
    if shape == CONE and abs(y) >= abs(np.sqrt(x * x + z * z) - (1 - y)):
        return x, 1 - y, z
    return 0.0, 1.0, 0.0
