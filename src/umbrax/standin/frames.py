"""One frame of a scene as planes of passes, with coverages exact to the samples, and as truths for tests."""

import re
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from . import raycaster
from .coverage import covered
from .scene import BOX, CONE, CYLINDER, SPHERE, Scene, Thing

Plane = NDArray[np.float32]
LIGHTS = ("diffuse", "specular", "reflection", "emission", "ambient")
RANKS = 6
TILE = 8


@dataclass(frozen=True)
class Frame:
    """`lights[name]` is `float32[h, w, 3]`, associated; `coverage(object)` is exact to the samples."""

    scene: Scene
    lights: dict[str, Plane]
    alpha: Plane
    shadow: Plane
    depth: Plane
    normal: Plane
    objects: NDArray[np.int16]
    object_counts: NDArray[np.uint8]
    surfaces: NDArray[np.int16]
    surface_counts: NDArray[np.uint8]

    @property
    def beauty(self) -> Plane:
        total = np.zeros_like(self.lights["diffuse"])
        for name in LIGHTS:
            total += self.lights[name]
        return total

    def object_coverage(self, *names: str) -> Plane:
        """The share of a pixel's samples in which any of these objects is seen."""
        wanted = np.array([name in names for name in self.scene.objects])
        return covered(self.objects, self.object_counts, wanted, raycaster.SAMPLES)

    def material_coverage(self, *names: str) -> Plane:
        wanted = np.array([name in names for name in self.scene.materials])
        return covered(self.surfaces, self.surface_counts, wanted, raycaster.SAMPLES)


def camera(scene: Scene, width: int, height: int) -> tuple[NDArray, NDArray, NDArray, NDArray, NDArray]:  # type: ignore[type-arg]
    eye = np.array(scene.eye, np.float64)
    forward = np.array(scene.target) - eye
    forward /= np.linalg.norm(forward)
    right = np.cross(forward, (0.0, 1.0, 0.0))
    right /= np.linalg.norm(right)
    up = np.cross(right, forward)
    across = np.tan(np.radians(scene.view_angle_deg) / 2)
    return eye, right, up, forward, np.array([across, across * height / width])


BOUNDS = {
    SPHERE: (-1, -1, -1, 1, 1, 1),
    CYLINDER: (-1, 0, -1, 1, 1, 1),
    BOX: (-1, -1, -1, 1, 1, 1),
    CONE: (-1, 0, -1, 1, 1, 1),
}


def _box(thing: Thing) -> NDArray[np.float64]:
    """The box around a primitive in the world: (x, y, z) low, then high."""
    low, high = np.array(BOUNDS[thing.shape][:3], float), np.array(BOUNDS[thing.shape][3:], float)
    if thing.shape in (SPHERE, CYLINDER, CONE):
        low, high = np.maximum(low, thing.clip[0::2]), np.minimum(high, thing.clip[1::2])
    corners = np.array([[*np.where(pick, high, low), 1] for pick in np.ndindex(2, 2, 2)]) @ thing.place.T
    return np.concatenate([corners[:, :3].min(axis=0) - 1e-6, corners[:, :3].max(axis=0) + 1e-6])


def _groups(things: list[Thing], boxes: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Runs of things whose names belong to one mast, or to none (the house): a box and a span for each."""
    marks = [re.search(r"mast_\d+", thing.object) for thing in things]
    names = [mark[0] if mark else "house" for mark in marks]
    starts = [i for i in range(len(names)) if i == 0 or names[i] != names[i - 1]]
    spans = list(zip(starts, [*starts[1:], len(names)], strict=True))
    around = [np.concatenate([boxes[a:b, :3].min(axis=0), boxes[a:b, 3:].max(axis=0)]) for a, b in spans]
    return np.array(around), np.array(spans, np.int64)


def _tiles(boxes: NDArray[np.float64], camera: tuple[NDArray, ...], width: int, height: int) -> NDArray[np.int64]:  # type: ignore[type-arg]
    """For each tile of the frame the things whose box can be seen in it, ended by -1."""
    eye, right, up, forward, size = camera
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
        for row in lists[max(0, int(py.min() - 1) // TILE) : max(0, int(py.max() + 1) // TILE + 1)]:
            for tile in row[max(0, int(px.min() - 1) // TILE) : max(0, int(px.max() + 1) // TILE + 1)]:
                tile.append(int(number))
    table = np.full((rows, columns, len(boxes) + 1), -1, np.int64)
    for y, x in np.ndindex(rows, columns):
        table[y, x, : len(lists[y][x])] = lists[y][x]
    return table


def render(
    scene: Scene,
    width: int,
    height: int,
    *,
    only: str | None = None,
    gains: dict[str, float] | None = None,
    seed: int = 0,
) -> Frame:
    """Cast one frame. `only` keeps a single object (the others vanish), `gains` scale the light that objects send.

    The same arguments give the same pixels, whatever the number of threads.
    """
    if only is not None:
        scene = replace(scene, things=[thing for thing in scene.things if thing.object == only])
    things = scene.things
    boxes = np.array([_box(thing) for thing in things])
    view = camera(scene, width, height)
    kinds = list(scene.materials)
    objects = scene.objects
    light_at = np.array(scene.light, np.float64)
    facing = -light_at / np.linalg.norm(light_at)
    side = np.cross(facing, (0.0, 1.0, 0.0))
    side /= np.linalg.norm(side)
    axes = np.array([side, np.cross(side, facing)]) * scene.light_size
    lights = np.zeros((len(LIGHTS), height, width, 3), np.float32)
    alpha, shadow = np.zeros((height, width), np.float32), np.ones((height, width), np.float32)
    depth = np.full((height, width), np.inf, np.float32)
    normals = np.zeros((height, width, 3), np.float32)
    slots = (height, width, raycaster.MOST)
    seen, counts = np.full(slots, -1, np.int16), np.zeros(slots, np.uint8)
    surfaces, surface_counts = np.full(slots, -1, np.int16), np.zeros(slots, np.uint8)
    raycaster.cast(
        *view, light_at, axes, np.array(scene.light_colour), np.array(scene.sky_colour), np.array(scene.terrace),
        np.arange(len(things)), *_groups(things, boxes), boxes, _tiles(boxes, view, width, height), TILE,
        np.array([thing.shape for thing in things], np.int64), np.array([np.linalg.inv(thing.place) for thing in things]),
        np.array([thing.clip for thing in things], np.float64), _material_table(scene),
        np.array([kinds.index(thing.material) for thing in things], np.int64),
        np.array([objects.index(thing.object) for thing in things], np.int64),
        np.array([(gains or {}).get(name, 1.0) for name in objects], np.float64), seed,
        lights, alpha, shadow, depth, normals, seen, counts, surfaces, surface_counts,
    )  # fmt: skip
    return Frame(scene, dict(zip(LIGHTS, lights, strict=True)), alpha, shadow, depth, normals, seen, counts, surfaces, surface_counts)


def _material_table(scene: Scene) -> NDArray[np.float64]:
    return np.array(
        [(*m.albedo, m.specular, m.shine, m.mirror, *m.emission, m.planks) for m in scene.materials.values()],
        np.float64,
    )
