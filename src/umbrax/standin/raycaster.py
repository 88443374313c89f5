"""The ray caster's loops: deterministic stratified samples, an area light with soft shadow, sky light, one mirror bounce.

Local shapes: unit sphere; cylinder of radius 1 over 0 <= y <= 1; box -1..1; cone of radius 1 at y = 0 with its tip at
y = 1; plane y = 0. Directions are not normalised in local space, so distances along a ray are those of the world.
"""

from typing import Any

import numba
import numpy as np
from numba import prange

SIDE = 4  # samples a pixel: SIDE x SIDE
SAMPLES = SIDE * SIDE
MOST = 12  # different things one pixel can keep apart
SHADED = 4  # hits of one thing that are shaded in a pixel; the others take their mean (visibility uses all samples)
FAR = 1e30
EPSILON = 1e-4
PATCH = 0.12  # hits this near to each other share a list of what may shade them


def _jit(function: Any) -> Any:
    return numba.njit(cache=True, nogil=True, error_model="numpy", fastmath=True)(function)


@_jit
def _random(x: Any, y: Any, sample: Any, salt: Any) -> Any:
    """A number in 0..1 from where it is used: an integer hash with shifts and odd multipliers."""
    h = np.uint32(x) * np.uint32(0x8DA6B343) + np.uint32(y) * np.uint32(0xD8163841)
    h = np.uint32(h + np.uint32(sample) * np.uint32(0xCB1AB31F) + np.uint32(salt) * np.uint32(0x165667B1))
    h = np.uint32(h ^ (h >> np.uint32(15)))
    h = np.uint32(h * np.uint32(0x2C1B3C6D))
    h = np.uint32(h ^ (h >> np.uint32(12)))
    h = np.uint32(h * np.uint32(0x297A2D39))
    h = np.uint32(h ^ (h >> np.uint32(15)))
    return np.float64(h) / 4294967296.0


@_jit
def _inside(clips: Any, i: Any, x: Any, y: Any, z: Any) -> Any:
    return clips[i, 0] <= x <= clips[i, 1] and clips[i, 2] <= y <= clips[i, 3] and clips[i, 4] <= z <= clips[i, 5]


@_jit
def _hit_thing(
    i: Any, shapes: Any, inverses: Any, clips: Any, o0: Any, o1: Any, o2: Any, d0: Any, d1: Any, d2: Any, nearest: Any, normal: Any
) -> Any:  # fmt: skip
    """Distance along the ray to a primitive, or FAR; the local normal is left in `normal[1]`."""
    shape = shapes[i]
    m00, m01, m02 = inverses[i, 0, 0], inverses[i, 0, 1], inverses[i, 0, 2]
    m10, m11, m12 = inverses[i, 1, 0], inverses[i, 1, 1], inverses[i, 1, 2]
    m20, m21, m22 = inverses[i, 2, 0], inverses[i, 2, 1], inverses[i, 2, 2]
    ox = m00 * o0 + m01 * o1 + m02 * o2 + inverses[i, 0, 3]
    oy = m10 * o0 + m11 * o1 + m12 * o2 + inverses[i, 1, 3]
    oz = m20 * o0 + m21 * o1 + m22 * o2 + inverses[i, 2, 3]
    dx, dy, dz = m00 * d0 + m01 * d1 + m02 * d2, m10 * d0 + m11 * d1 + m12 * d2, m20 * d0 + m21 * d1 + m22 * d2
    best = FAR
    if shape == 0 or shape == 1 or shape == 3:
        if shape == 0:
            a, b, c = dx * dx + dy * dy + dz * dz, ox * dx + oy * dy + oz * dz, ox * ox + oy * oy + oz * oz - 1
        elif shape == 1:
            a, b, c = dx * dx + dz * dz, ox * dx + oz * dz, ox * ox + oz * oz - 1
        else:
            a = dx * dx + dz * dz - dy * dy
            b = ox * dx + oz * dz + (1 - oy) * dy
            c = ox * ox + oz * oz - (1 - oy) * (1 - oy)
        square = b * b - a * c
        if square >= 0 and a != 0:
            root = np.sqrt(square)
            for sign in range(2):
                t = (-b - root) / a if (sign == 0) == (a > 0) else (-b + root) / a
                if t > EPSILON and t < best:
                    x, y, z = ox + t * dx, oy + t * dy, oz + t * dz
                    if (shape == 0 or 0 <= y <= 1) and _inside(clips, i, x, y, z):
                        best = t
                        normal[1, 0], normal[1, 1], normal[1, 2] = x, y, z
                        if shape == 1:
                            normal[1, 1] = 0.0
                        elif shape == 3:
                            normal[1, 1] = 1 - y
                        break
        if shape != 0 and dy != 0:
            for end in range(2):
                t = (end - oy) / dy
                x, z = ox + t * dx, oz + t * dz
                if (
                    EPSILON < t < best
                    and x * x + z * z <= (1.0 if shape == 1 or end == 0 else 0.0)
                    and _inside(clips, i, x, np.float64(end), z)
                ):
                    best = t
                    normal[1, 0], normal[1, 1], normal[1, 2] = 0.0, 2.0 * end - 1.0, 0.0
    elif shape == 2:
        low, high, axis = -FAR, FAR, 0
        for k in range(3):
            p = ox if k == 0 else oy if k == 1 else oz
            q = dx if k == 0 else dy if k == 1 else dz
            if q == 0:
                if abs(p) > 1:
                    return FAR
                continue
            t0, t1 = (-1 - p) / q, (1 - p) / q
            if t0 > t1:
                t0, t1 = t1, t0
            if t0 > low:
                low, axis = t0, k
            high = min(high, t1)
        if low <= high and low > EPSILON:
            best = low
            normal[1, 0] = normal[1, 1] = normal[1, 2] = 0.0
            q = dx if axis == 0 else dy if axis == 1 else dz
            normal[1, axis] = -1.0 if q > 0 else 1.0
    elif dy != 0:
        t = -oy / dy
        if t > EPSILON and _inside(clips, i, ox + t * dx, 0.0, oz + t * dz):
            best = t
            normal[1, 0], normal[1, 1], normal[1, 2] = 0.0, 1.0, 0.0
    return best if best < nearest else FAR


@_jit
def _inverse(value: Any) -> Any:
    return 1.0 / value if value != 0 else FAR


@_jit
def _meets(boxes: Any, i: Any, margin: Any, o0: Any, o1: Any, o2: Any, qx: Any, qy: Any, qz: Any, nearest: Any) -> Any:
    """Whether a ray (qx, qy, qz: one over its direction) meets a box, grown by a margin, before `nearest` (slabs)."""
    a, b = (boxes[i, 0] - margin - o0) * qx, (boxes[i, 3] + margin - o0) * qx
    low, high = max(0.0, min(a, b)), min(nearest, max(a, b))
    a, b = (boxes[i, 1] - margin - o1) * qy, (boxes[i, 4] + margin - o1) * qy
    low, high = max(low, min(a, b)), min(high, max(a, b))
    a, b = (boxes[i, 2] - margin - o2) * qz, (boxes[i, 5] + margin - o2) * qz
    return max(low, min(a, b)) <= min(high, max(a, b))


@_jit
def _closest(o: Any, d: Any, some: Any, boxes: Any, shapes: Any, inverses: Any, clips: Any, normal: Any) -> Any:
    """(thing, distance) of the nearest hit among some things, (-1, FAR) for none; its local normal is in `normal[0]`."""
    best, nearest = -1, FAR
    o0, o1, o2, d0, d1, d2 = o[0], o[1], o[2], d[0], d[1], d[2]
    qx, qy, qz = _inverse(d0), _inverse(d1), _inverse(d2)
    for i in some:
        if i < 0:
            break
        if _meets(boxes, i, 0.0, o0, o1, o2, qx, qy, qz, nearest):
            t = _hit_thing(i, shapes, inverses, clips, o0, o1, o2, d0, d1, d2, nearest, normal)
            if t < nearest:
                best, nearest = i, t
                normal[0, 0], normal[0, 1], normal[0, 2] = normal[1, 0], normal[1, 1], normal[1, 2]
    return best, nearest


@_jit
def _blocked(o: Any, d: Any, far: Any, some: Any, boxes: Any, shapes: Any, inverses: Any, clips: Any, normal: Any) -> Any:
    o0, o1, o2, d0, d1, d2 = o[0], o[1], o[2], d[0], d[1], d[2]
    qx, qy, qz = _inverse(d0), _inverse(d1), _inverse(d2)
    for i in some:
        if i < 0:
            break
        if (
            _meets(boxes, i, 0.0, o0, o1, o2, qx, qy, qz, far)
            and _hit_thing(i, shapes, inverses, clips, o0, o1, o2, d0, d1, d2, far, normal) < FAR
        ):
            return True
    return False


@_jit
def _light_radius(axes: Any) -> Any:
    total = 0.0
    for k in range(3):
        total += axes[0, k] ** 2 + axes[1, k] ** 2
    return np.sqrt(total) / 2


@_jit
def _reach(boxes: Any, i: Any, at: Any) -> Any:
    """How far the farthest corner of a box is from a point."""
    total = 0.0
    for k in range(3):
        total += max(abs(boxes[i, k] - at[k]), abs(boxes[i, k + 3] - at[k])) ** 2
    return np.sqrt(total)


@_jit
def _shade_margin(boxes: Any, i: Any, at: Any, spread: Any, light_radius: Any, far: Any) -> Any:
    """How much wider than a line the way from a patch to the light is where it passes a box."""
    return spread + light_radius * min(1.0, _reach(boxes, i, at) / far)


@_jit
def _may_shade(at: Any, spread: Any, light_at: Any, light_radius: Any, groups: Any, spans: Any, boxes: Any, scratch: Any, some: Any) -> None:
    """List the things that can stand between a patch of ground and any part of the light."""
    to, count = scratch[2], 0
    far = 0.0
    for k in range(3):
        to[k] = light_at[k] - at[k]
        far += to[k] ** 2
    far = np.sqrt(far)
    for k in range(3):
        to[k] /= far
    qx, qy, qz = _inverse(to[0]), _inverse(to[1]), _inverse(to[2])
    for g in range(groups.shape[0]):
        if not _meets(groups, g, _shade_margin(groups, g, at, spread, light_radius, far), at[0], at[1], at[2], qx, qy, qz, far):
            continue
        for i in range(spans[g, 0], spans[g, 1]):
            if _meets(boxes, i, _shade_margin(boxes, i, at, spread, light_radius, far), at[0], at[1], at[2], qx, qy, qz, far):
                some[count] = i
                count += 1
    if count < some.shape[0]:
        some[count] = -1


@_jit
def _ground(x: Any, y: Any, width: Any, height: Any, eye: Any, right: Any, up: Any, forward: Any, size: Any, at: Any) -> Any:
    """Where the ray through a place of the frame meets y = 0; False where it does not."""
    u, v = x / width * 2 - 1, 1 - y / height * 2
    down = forward[1] + u * size[0] * right[1] + v * size[1] * up[1]
    if down >= -1e-6:
        return False
    t = -eye[1] / down
    for k in range(3):
        at[k] = eye[k] + t * (forward[k] + u * size[0] * right[k] + v * size[1] * up[k])
    return True


@_jit
def _shading_of_pixel(
    x: Any, y: Any, width: Any, height: Any, eye: Any, right: Any, up: Any, forward: Any, size: Any, light_at: Any,
    light_radius: Any, groups: Any, spans: Any, boxes: Any, scratch: Any, some: Any,
) -> Any:  # fmt: skip
    """List the things that can shade any point of the ground seen in one pixel; all of them at the horizon.

    False where there is no ground, or nothing shades it.
    """
    centre, corner, spread = scratch[3], scratch[4], 0.0
    if not _ground(x + 0.5, y + 1.0, width, height, eye, right, up, forward, size, centre):
        some[0] = -1
        return False
    seen = _ground(x + 0.5, y + 0.5, width, height, eye, right, up, forward, size, centre)
    for place in range(4):
        if seen:
            seen = _ground(x + place % 2, y + place // 2, width, height, eye, right, up, forward, size, corner)
            spread = max(spread, np.sqrt((corner[0] - centre[0]) ** 2 + (corner[2] - centre[2]) ** 2))
    if not seen:
        for i in range(some.shape[0]):
            some[i] = i
    else:
        _may_shade(centre, spread, light_at, light_radius, groups, spans, boxes, scratch, some)
    return some[0] >= 0


@_jit
def _world_normal(inverse: Any, normal: Any, d: Any, out: Any) -> None:
    """Transposed inverse times the local normal, of unit length, turned against the ray."""
    for k in range(3):
        out[k] = inverse[0, k] * normal[0] + inverse[1, k] * normal[1] + inverse[2, k] * normal[2]
    length = np.sqrt(out[0] ** 2 + out[1] ** 2 + out[2] ** 2)
    away = out[0] * d[0] + out[1] * d[1] + out[2] * d[2] > 0
    for k in range(3):
        out[k] = -out[k] / length if away else out[k] / length


@_jit
def _sky(d: Any, colour: Any, out: Any) -> None:
    """What a mirror sees where nothing stands: warm at the horizon, blue above, dark below."""
    up = max(-1.0, min(1.0, d[1] * 1.6))
    for k in range(3):
        warm = 0.95 if k == 0 else 0.55 if k == 1 else 0.36
        out[k] = (warm * (1 - up) + 1.4 * colour[k] * up) if up >= 0 else warm * (0.12 + 0.88 * (1 + up) ** 6)


@_jit
def _shade(
    thing: Any, at: Any, n: Any, d: Any, lamp: Any, lights: Any, sky: Any, materials: Any, material_of: Any, inverses: Any,
    every: Any, boxes: Any, shapes: Any, clips: Any, scratch: Any, out: Any,
) -> Any:  # fmt: skip
    """Diffuse, specular, emission and ambient into out[0, 1, 3, 4]; returns 1 where the light is seen, else 0."""
    m = materials[material_of[thing]]
    planks = 1.0
    if m[9] > 0:
        inverse = inverses[thing]
        x = inverse[0, 0] * at[0] + inverse[0, 1] * at[1] + inverse[0, 2] * at[2] + inverse[0, 3]
        y = inverse[1, 0] * at[0] + inverse[1, 1] * at[1] + inverse[1, 2] * at[2] + inverse[1, 3]
        z = inverse[2, 0] * at[0] + inverse[2, 1] * at[1] + inverse[2, 2] * at[2] + inverse[2, 3]
        board = np.arctan2(z, x) / (2 * np.pi) * 3 * m[9]
        edge = abs(board - np.floor(board) - 0.5)
        planks = 0.75 + 0.5 * _random(np.int64(np.floor(board)) + 500, 3, 1, 7)
        planks *= (0.35 if edge > 0.465 else 1.0) * (0.93 + 0.07 * np.sin(y * 90 + 9 * np.sin(board * 2.2)))
    to = scratch[2]
    for k in range(3):
        to[k] = lamp[k] - at[k]
    distance = np.sqrt(to[0] ** 2 + to[1] ** 2 + to[2] ** 2)
    for k in range(3):
        to[k] /= distance
    facing = n[0] * to[0] + n[1] * to[1] + n[2] * to[2]
    seen = 0.0
    if facing > 0:
        start = scratch[3]
        for k in range(3):
            start[k] = at[k] + 1e-3 * n[k]
        if not _blocked(start, to, distance, every, boxes, shapes, inverses, clips, scratch[4:6]):
            seen = 1.0
    half = scratch[6]
    for k in range(3):
        half[k] = to[k] - d[k]
    length = np.sqrt(half[0] ** 2 + half[1] ** 2 + half[2] ** 2)
    gloss = 0.0
    if seen > 0 and m[3] > 0:
        towards = (n[0] * half[0] + n[1] * half[1] + n[2] * half[2]) / length
        gloss = m[3] * max(0.0, towards) ** m[4]
    open_sky = 0.35 + 0.65 * (0.5 + 0.5 * n[1])
    for k in range(3):
        tint = m[k] if m[5] > 0.2 else 1.0  # metals colour what they throw back
        out[0, k] = m[k] * planks * lights[k] * max(0.0, facing) * seen
        out[1, k] = gloss * tint * lights[k] * 0.6
        out[3, k] = m[6 + k]
        out[4, k] = m[k] * planks * sky[k] * open_sky
    return seen


@_jit
def _mirror(
    thing: Any, at: Any, n: Any, d: Any, lamp: Any, lights: Any, sky: Any, materials: Any, material_of: Any, inverses: Any,
    every: Any, groups: Any, spans: Any, boxes: Any, shapes: Any, clips: Any, some: Any, mirrored: Any, there: Any, other: Any,
    hit_normal: Any, bounce: Any, scratch: Any, out: Any,
) -> None:  # fmt: skip
    """What one mirror bounce sees, into out[2]."""
    m = materials[material_of[thing]]
    out[2, 0] = out[2, 1] = out[2, 2] = 0.0
    if m[5] == 0:
        return
    along = d[0] * n[0] + d[1] * n[1] + d[2] * n[2]
    for k in range(3):
        mirrored[k] = d[k] - 2 * along * n[k]
        there[k] = at[k] + 1e-3 * n[k]
    count = 0
    for g in range(groups.shape[0]):
        if _meets(groups, g, 0.0, there[0], there[1], there[2], _inverse(mirrored[0]), _inverse(mirrored[1]), _inverse(mirrored[2]), FAR):
            for i in range(spans[g, 0], spans[g, 1]):
                some[count] = i
                count += 1
    some[count] = -1
    second, far = _closest(there, mirrored, some, boxes, shapes, inverses, clips, hit_normal)
    if second >= 0:
        for k in range(3):
            there[k] += far * mirrored[k]
        _world_normal(inverses[second], hit_normal[0], mirrored, other)
        _shade(second, there, other, mirrored, lamp, lights, sky, materials, material_of, inverses,
               every, boxes, shapes, clips, scratch, bounce)  # fmt: skip
        for k in range(3):
            scratch[7, k] = bounce[0, k] + bounce[3, k] + bounce[4, k]
    else:
        _sky(mirrored, sky, scratch[7])
    for k in range(3):
        tint = m[k] * 1.6 if m[5] > 0.2 else 1.0  # metals colour what they throw back
        out[2, k] = m[5] * tint * scratch[7, k]


@_jit
def _reaches(eye: Any, boxes: Any) -> Any:
    reach = np.empty(boxes.shape[0])
    for i in range(boxes.shape[0]):
        reach[i] = _reach(boxes, i, eye)
    return reach


@_jit
def _seen_in_pixel(
    x: Any, y: Any, width: Any, height: Any, eye: Any, right: Any, up: Any, forward: Any, size: Any, some: Any, boxes: Any,
    reaches: Any, d: Any, seen: Any,
) -> None:  # fmt: skip
    """List those of some things whose box, grown by what a pixel covers at its far end, the pixel's middle ray meets."""
    u, v = (x + 0.5) / width * 2 - 1, 1 - (y + 0.5) / height * 2
    for k in range(3):
        d[k] = forward[k] + u * size[0] * right[k] + v * size[1] * up[k]
    qx, qy, qz = _inverse(d[0]), _inverse(d[1]), _inverse(d[2])
    wide, count = 1.5 * max(size[0] / width, size[1] / height), 0
    for i in some:
        if i < 0:
            break
        if _meets(boxes, i, reaches[i] * wide, eye[0], eye[1], eye[2], qx, qy, qz, FAR):
            seen[count] = i
            count += 1
    seen[count] = -1


@_jit
def _count(kinds: Any, counts: Any, kind: Any, more: Any) -> None:
    for slot in range(kinds.shape[0]):
        if counts[slot] == 0 or kinds[slot] == kind:
            kinds[slot] = kind
            counts[slot] += more
            break


@numba.njit(cache=True, nogil=True, parallel=True, error_model="numpy", fastmath=True)
def cast(
    eye: Any, right: Any, up: Any, forward: Any, size: Any, light_at: Any, light_axes: Any, light_colour: Any, sky_colour: Any,
    terrace: Any, every: Any, groups: Any, spans: Any, boxes: Any, tiles: Any, tile: Any, shapes: Any, inverses: Any, clips: Any,
    materials: Any, material_of: Any, object_of: Any, gains: Any, seed: Any,
    lights: Any, alpha: Any, shadow: Any, depth: Any, normals: Any, objects: Any, object_counts: Any, surfaces: Any, surface_counts: Any,
) -> None:  # fmt: skip
    """Fill the planes of one frame. `size` = (tan of half the view angle across, the same down)."""
    height, width = alpha.shape
    light_radius, reaches = _light_radius(light_axes), _reaches(eye, boxes)
    for line in prange(height):
        y = (line * 389) % height  # far apart one after the other: the threads get the same share of sky
        o, d, at, n = np.empty(3), np.empty(3), np.empty(3), np.empty(3)
        hit_normal, scratch, out, bounce = np.empty((2, 3)), np.empty((8, 3)), np.zeros((5, 3)), np.zeros((5, 3))
        lamp, mirrored, there, other = np.empty(3), np.empty(3), np.empty(3), np.empty(3)
        shading, near_hit = np.empty(boxes.shape[0], np.int64), np.empty(boxes.shape[0], np.int64)
        anchor, seen_there = np.empty(3), np.empty(boxes.shape[0] + 1, np.int64)
        some = np.empty(boxes.shape[0] + 1, np.int64)
        slot_thing, slot_hits, slot_shaded = (
            np.empty(MOST, np.int64),
            np.empty(MOST, np.int64),
            np.empty(MOST, np.int64),
        )
        slot_light, slot_lit = np.empty((MOST, 5, 3)), np.empty(MOST)
        for x in range(width):
            _seen_in_pixel(x, y, width, height, eye, right, up, forward, size, tiles[y // tile, x // tile], boxes, reaches, d, some)
            hits, lit, caught, nearest_depth, listed, slots = 0, 0.0, 0, FAR, False, 0
            if some[0] < 0:
                listed = True
                if not _shading_of_pixel(x, y, width, height, eye, right, up, forward, size, light_at, light_radius,
                                         groups, spans, boxes, scratch, shading):  # fmt: skip
                    continue
            for j in range(SAMPLES):
                s = (j * 7 + 3) % SAMPLES
                u = (x + (s % SIDE + _random(x, y, s, 1)) / SIDE) / width * 2 - 1
                v = 1 - (y + (s // SIDE + _random(x, y, s, 2)) / SIDE) / height * 2
                for k in range(3):
                    o[k] = eye[k]
                    d[k] = forward[k] + u * size[0] * right[k] + v * size[1] * up[k]
                length = np.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2)
                for k in range(3):
                    d[k] /= length
                thing, t = _closest(o, d, some, boxes, shapes, inverses, clips, hit_normal)
                ground = -o[1] / d[1] if d[1] < 0 else FAR
                on_ground = False
                if ground < t:
                    gx, gz = o[0] + ground * d[0], o[2] + ground * d[2]
                    on_ground = terrace[0] <= gx <= terrace[1] and terrace[2] <= gz <= terrace[3]
                if thing < 0 and not on_ground:
                    continue
                caught += 1
                slot = 0
                if not on_ground:
                    hits += 1
                    while slot < slots and slot_thing[slot] != thing:
                        slot += 1
                    if slot == slots:
                        if slots == MOST:
                            slot -= 1
                        else:
                            slots += 1
                            slot_thing[slot], slot_hits[slot], slot_shaded[slot], slot_lit[slot] = thing, 0, 0, 0.0
                            slot_light[slot] = 0.0
                    slot_hits[slot] += 1
                    nearest_depth = min(nearest_depth, t * (d[0] * forward[0] + d[1] * forward[1] + d[2] * forward[2]))
                    if slot_shaded[slot] == SHADED:
                        continue
                cell = (j * 11 + 5) % SAMPLES
                a = (cell % SIDE + _random(x, y, s, 3 + seed)) / SIDE - 0.5
                b = (cell // SIDE + _random(x, y, s, 4 + seed)) / SIDE - 0.5
                for k in range(3):
                    lamp[k] = light_at[k] + a * light_axes[0, k] + b * light_axes[1, k]
                if on_ground:  # the terrace holds out what lies under it
                    if not listed:
                        listed = True
                        _shading_of_pixel(x, y, width, height, eye, right, up, forward, size, light_at, light_radius,
                                          groups, spans, boxes, scratch, shading)  # fmt: skip
                    at[0], at[1], at[2] = gx, 1e-3, gz
                    far = 0.0
                    for k in range(3):
                        other[k] = lamp[k] - at[k]
                        far += other[k] ** 2
                    far = np.sqrt(far)
                    for k in range(3):
                        other[k] /= far
                    if not _blocked(at, other, far, shading, boxes, shapes, inverses, clips, scratch[4:6]):
                        lit += 1.0
                    continue
                for k in range(3):
                    at[k] = o[k] + t * d[k]
                _world_normal(inverses[thing], hit_normal[0], d, n)
                apart = 0.0
                for k in range(3):
                    apart += (at[k] - anchor[k]) ** 2
                if hits == 1 or apart > PATCH * PATCH:
                    anchor[:] = at
                    _may_shade(at, PATCH + 2e-3, light_at, light_radius, groups, spans, boxes, scratch, near_hit)
                slot_lit[slot] += _shade(thing, at, n, d, lamp, light_colour, sky_colour, materials, material_of, inverses,
                                         near_hit, boxes, shapes, clips, scratch, out)  # fmt: skip
                _mirror(thing, at, n, d, lamp, light_colour, sky_colour, materials, material_of, inverses, every, groups, spans,
                        boxes, shapes, clips, seen_there, mirrored, there, other, hit_normal, bounce, scratch, out)  # fmt: skip
                slot_shaded[slot] += 1
                for p in range(5):
                    for k in range(3):
                        slot_light[slot, p, k] += out[p, k]
                for k in range(3):
                    normals[y, x, k] += n[k]
            for slot in range(slots):
                thing, share = slot_thing[slot], slot_hits[slot] / slot_shaded[slot]
                name, kind = object_of[thing], material_of[thing]
                lit += slot_lit[slot] * share
                for p in range(5):
                    for k in range(3):
                        lights[p, y, x, k] += slot_light[slot, p, k] * share * gains[name] / SAMPLES
                _count(objects[y, x], object_counts[y, x], name, slot_hits[slot])
                _count(surfaces[y, x], surface_counts[y, x], kind, slot_hits[slot])
            alpha[y, x] = hits / SAMPLES
            shadow[y, x] = (lit + SAMPLES - caught) / SAMPLES
            if hits:
                depth[y, x] = nearest_depth
                length = np.sqrt(normals[y, x, 0] ** 2 + normals[y, x, 1] ** 2 + normals[y, x, 2] ** 2)
                for k in range(3):
                    normals[y, x, k] /= max(length, 1e-6)
