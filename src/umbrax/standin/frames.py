"""One frame of a scene as planes of passes, with coverages exact to the samples, and as truths for tests."""

import re
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .casting.cast import MOST, cast
from .casting.packets import BOX_AT, CLIP, COLUMNS, FAR, GAIN, GLOW, INVERSE, MATERIAL, MOVE, SAMPLES, SHAPE, View, World
from .casting.shapes import BOX, CONE, CYLINDER, DISC, PLANE, SPHERE, TORUS, TUBE
from .coverage import covered
from .scene import Scene, Thing

Plane = NDArray[np.float32]
LIGHTS = ("diffuse", "specular", "reflection", "emission", "ambient")
RANKS = 6
TILE = 8


@dataclass(frozen=True)
class Frame:
    """`lights[name]` is `float32[h, w, 3]`, associated; `coverage(object)` is exact to the samples.

    `seen` holds for each pixel the things its samples met, `counts` how many of them each; depth, position (of the
    world) and motion (pixels to the next frame, right and down) are those of the nearest sample.
    """

    scene: Scene
    lights: dict[str, Plane]
    alpha: Plane
    shadow: Plane
    depth: Plane
    normal: Plane
    position: Plane
    motion: Plane
    seen: NDArray[np.int16]
    counts: NDArray[np.uint8]

    @property
    def beauty(self) -> Plane:
        total = np.zeros_like(self.lights["diffuse"])
        for name in LIGHTS:
            total += self.lights[name]
        return total

    def object_coverage(self, *names: str) -> Plane:
        """The share of a pixel's samples in which any of these objects is seen."""
        return self._coverage([thing.object in names for thing in self.scene.things])

    def material_coverage(self, *names: str) -> Plane:
        return self._coverage([thing.material in names for thing in self.scene.things])

    def _coverage(self, wanted: list[bool]) -> Plane:
        return covered(self.seen, self.counts, np.array(wanted), SAMPLES)


def camera(scene: Scene, width: int, height: int) -> View:
    eye = np.array(scene.eye, np.float64)
    forward = np.array(scene.target) - eye
    forward /= np.linalg.norm(forward)
    right = np.cross(forward, (0.0, 1.0, 0.0))
    right /= np.linalg.norm(right)
    up = np.cross(right, forward)
    across = np.tan(np.radians(scene.view_angle_deg) / 2)
    return View(eye, right, up, forward, np.array([across, across * height / width]), np.array([scene.lens_radius, scene.sharp_at]))


BOUNDS = {
    PLANE: (-FAR, 0, -FAR, FAR, 0, FAR),
    SPHERE: (-1, -1, -1, 1, 1, 1),
    CYLINDER: (-1, 0, -1, 1, 1, 1),
    BOX: (-1, -1, -1, 1, 1, 1),
    CONE: (-1, 0, -1, 1, 1, 1),
    DISC: (-1, 0, -1, 1, 0, 1),
    TORUS: (-1 - TUBE, -TUBE, -1 - TUBE, 1 + TUBE, TUBE, 1 + TUBE),
}


def _box(thing: Thing) -> NDArray[np.float64]:
    """The box around a primitive in the world: (x, y, z) low, then high."""
    low, high = np.array(BOUNDS[thing.shape][:3], float), np.array(BOUNDS[thing.shape][3:], float)
    if thing.shape in (SPHERE, CYLINDER, CONE, PLANE):
        low, high = np.maximum(low, thing.clip[0::2]), np.minimum(high, thing.clip[1::2])
    corners = np.array([[*np.where(pick, high, low), 1] for pick in np.ndindex(2, 2, 2)]) @ thing.place.T
    return np.concatenate([corners[:, :3].min(axis=0) - 1e-6, corners[:, :3].max(axis=0) + 1e-6])


def _groups(things: list[Thing], boxes: NDArray[np.float64]) -> NDArray[np.float64]:
    """Runs of things whose objects begin with the same word and number: a box, the first and the one after the last."""
    names = [(match := re.match(r"[a-z]+(_\d+)?", thing.object)) and match[0] for thing in things]
    starts = [i for i in range(len(names)) if i == 0 or names[i] != names[i - 1]]
    spans = list(zip(starts, [*starts[1:], len(names)], strict=True))
    return np.array([[*boxes[a:b, :3].min(axis=0), *boxes[a:b, 3:].max(axis=0), a, b] for a, b in spans])


def _tiles(boxes: NDArray[np.float64], view: View, width: int, height: int) -> NDArray[np.int64]:
    """For each tile of the frame the things whose box can be seen in it, ended by -1."""
    eye, right, up, forward, size, (lens, sharp) = view
    rows, columns = -(-height // TILE), -(-width // TILE)
    lists: list[list[list[int]]] = [[[] for _ in range(columns)] for _ in range(rows)]
    middle = (boxes[:, :3] + boxes[:, 3:]) / 2
    # near things first: what lies behind their hits is not looked at
    for number in np.argsort(np.linalg.norm(middle - eye, axis=1), kind="stable"):
        box = boxes[number]
        corners = np.array([np.where(pick, box[3:], box[:3]) for pick in np.ndindex(2, 2, 2)]) - eye
        away = np.maximum(corners @ forward, 1e-3)
        px = (corners @ right / away / size[0] + 1) / 2 * width
        py = (1 - corners @ up / away / size[1]) / 2 * height
        # how far a point of it is spread by the lens
        by = 1 + np.abs(1 / away - 1 / sharp).max() * lens / size[0] * width / 2
        for row in lists[max(0, int(py.min() - by) // TILE) : max(0, int(py.max() + by) // TILE + 1)]:
            for tile in row[max(0, int(px.min() - by) // TILE) : max(0, int(px.max() + by) // TILE + 1)]:
                tile.append(int(number))
    table = np.full((rows, columns, len(boxes) + 1), -1, np.int64)
    for y, x in np.ndindex(rows, columns):
        table[y, x, : len(lists[y][x])] = lists[y][x]
    return table


def _material_table(scene: Scene) -> NDArray[np.float64]:
    return np.array(
        [(*m.albedo, m.specular, m.shine, m.mirror, *m.emission, m.planks) for m in scene.materials.values()],
        np.float64,
    )


def things_table(scene: Scene, after: Scene, materials: list[str], gains: dict[str, float]) -> NDArray[np.float64]:
    """The things of a scene and where they are a frame later, as the rows that the ray caster reads."""
    table = np.zeros((len(scene.things), COLUMNS))
    for row, thing, later in zip(table, scene.things, after.things, strict=True):
        inverse = np.linalg.inv(thing.place)
        row[SHAPE], row[MATERIAL], row[GAIN] = thing.shape, materials.index(thing.material), gains.get(thing.object, 1.0)
        row[GLOW] = thing.glow
        row[INVERSE:MOVE], row[MOVE:CLIP] = inverse[:3].ravel(), (later.place @ inverse)[:3].ravel()
        row[CLIP:BOX_AT], row[BOX_AT:MATERIAL] = thing.clip, _box(thing)
    return table


def _world(scene: Scene, after: Scene, gains: dict[str, float]) -> World:
    light_at = np.array(scene.light, np.float64)
    facing = -light_at / np.linalg.norm(light_at)
    side = np.cross(facing, (0.0, 1.0, 0.0))
    side /= np.linalg.norm(side)
    lamp = [light_at, side * scene.light_size, np.cross(side, facing) * scene.light_size, scene.light_colour, scene.sky_colour]
    table = things_table(scene, after, list(scene.materials), gains)
    return World(
        table, _groups(scene.things, table[:, BOX_AT:MATERIAL]), _material_table(scene), np.array(lamp), np.array(scene.terrace, float)
    )


def render(
    scene: Scene,
    width: int,
    height: int,
    *,
    after: Scene | None = None,
    only: str | None = None,
    gains: dict[str, float] | None = None,
    seed: int = 0,
) -> Frame:
    """Cast one frame. `after` is the same scene a frame later (for motion), `only` keeps a single object (the others
    vanish), `gains` scale the light that objects send.

    The same arguments give the same pixels, whatever the number of threads.
    """
    after = after or scene
    if only is not None:
        scene, after = (replace(s, things=[thing for thing in s.things if thing.object == only]) for s in (scene, after))
    world, view = _world(scene, after, gains or {}), camera(scene, width, height)
    lights = np.zeros((len(LIGHTS), height, width, 3), np.float32)
    alpha, shadow = np.zeros((height, width), np.float32), np.ones((height, width), np.float32)
    depth = np.full((height, width), np.inf, np.float32)
    normals, positions, motions = (np.zeros((height, width, n), np.float32) for n in (3, 3, 2))
    seen, counts = np.full((height, width, MOST), -1, np.int16), np.zeros((height, width, MOST), np.uint8)
    tiles = _tiles(world.things[:, BOX_AT:MATERIAL], view, width, height)
    cast(world, view, tiles, TILE, seed, lights, alpha, shadow, depth, normals, positions, motions, seen, counts)
    return Frame(scene, dict(zip(LIGHTS, lights, strict=True)), alpha, shadow, depth, normals, positions, motions, seen, counts)
