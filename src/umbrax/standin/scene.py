"""The Ridge Observatory: a hilltop weather station at dusk, as primitives with materials and object names."""

import math
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from .casting.shapes import BOX, CONE, CYLINDER, DISC, SPHERE, TORUS

Vector = tuple[float, float, float]
Matrix = NDArray[np.float64]
NOWHERE = (0.0, -1.0, 0.0, -1.0)  # no terrace to catch a shadow
EVERYWHERE = (-9.0, 9.0, -9.0, 9.0, -9.0, 9.0)


@dataclass(frozen=True)
class Material:
    """How a surface answers light: linear BT.709 colours, a mirror share, and planks for wood."""

    name: str
    albedo: Vector
    specular: float = 0.0
    shine: float = 40.0
    mirror: float = 0.0
    emission: Vector = (0.0, 0.0, 0.0)
    planks: float = 0.0


@dataclass(frozen=True)
class Thing:
    """One primitive of an object. `place` takes local to world; local shapes are unit-sized, kept inside `clip`.

    Objects built alike share an `asset`; `glow` scales what the material emits.
    """

    object: str
    material: str
    shape: int
    place: Matrix
    clip: tuple[float, float, float, float, float, float] = EVERYWHERE
    asset: str = "station"
    glow: float = 1.0


@dataclass
class Scene:
    """Everything at one frame. The terrace only catches: it is in the shadow pass and nowhere else.

    A lens of radius 0 is a pinhole, as all pictures are rendered that are to be defocused later; else it is sharp at a distance.
    """

    things: list[Thing] = field(default_factory=list)
    materials: dict[str, Material] = field(default_factory=dict)
    eye: Vector = (0.4, 2.5, 14.5)
    target: Vector = (0.75, 2.35, 0.0)
    view_angle_deg: float = 45.0
    lens_radius: float = 0.0
    sharp_at: float = 1.0
    light: Vector = (-8.0, 9.5, 8.5)
    light_size: float = 3.0
    light_colour: Vector = (1.15, 0.86, 0.60)
    sky_colour: Vector = (0.17, 0.19, 0.30)
    terrace: tuple[float, float, float, float] = (-30.0, 30.0, -7.0, 14.0)

    @property
    def objects(self) -> list[str]:
        return list(dict.fromkeys(thing.object for thing in self.things))


MATERIALS = (
    Material("white_enamel", (0.74, 0.73, 0.70), 0.35, 90.0, 0.06),
    Material("brass", (0.52, 0.33, 0.10), 1.6, 60.0, 0.35),
    Material("wood", (0.20, 0.105, 0.055), 0.05, 12.0, 0.0, planks=14.0),
    Material("steel", (0.30, 0.31, 0.33), 0.9, 50.0, 0.15),
    Material("stone", (0.24, 0.22, 0.20), 0.03, 8.0),
    Material("lamp_glass", (0.30, 0.05, 0.04), 0.4, 80.0, 0.0, (7.0, 0.28, 0.14)),
    Material("latex", (0.70, 0.66, 0.60), 0.9, 70.0, 0.05),
    Material("lens_glass", (0.02, 0.03, 0.05), 1.2, 90.0, 0.18),
    Material("lit_room", (0.10, 0.08, 0.05), 0.0, 10.0, 0.0, (4.2, 2.5, 0.95)),
)


def move(x: float, y: float, z: float) -> Matrix:
    matrix = np.eye(4)
    matrix[:3, 3] = (x, y, z)
    return matrix


def scale(x: float, y: float, z: float) -> Matrix:
    return np.diag([x, y, z, 1.0])


def turn(axis: str, degrees: float) -> Matrix:
    """Rotation about x, y or z, counter-clockwise seen from the axis's end."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    i, j = {"x": (1, 2), "y": (2, 0), "z": (0, 1)}[axis]
    matrix = np.eye(4)
    matrix[i, i] = matrix[j, j] = c
    matrix[i, j], matrix[j, i] = -s, s
    return matrix


def observatory(frame: int, first: int = 1001) -> Scene:
    """The station at a frame: the dome turns slowly after the sky, the cups turn in the wind, the lamps blink."""
    step = frame - first
    bearing = 24.0 - 0.35 * step
    things = _dome(bearing) + _drum() + _telescope(bearing)
    for number, (x, z, height) in enumerate(((3.1, 0.9, 3.5), (4.15, -0.6, 4.3), (5.0, 1.3, 3.05)), start=1):
        things += instance(_mast(height, 17.0 * step + 40 * number, _blink(step, number)), f"mast_{number}", "mast", move(x, 0, z))
    for number in range(1, 10):
        place = move(-3.3 - 0.85 * number, 0.16 * max(0, number - 3) ** 1.5, 6.0 - 3.4 * number) @ turn("y", 37.0 * number)
        things += instance(_marker(), f"marker_{number}", "marker", place)
    return _scene(things)


def balloon(frame: int, first: int = 1001) -> Scene:
    """A weather balloon that drifts through from the right: behind the last mast and the first, before the one between."""
    step = frame - first
    sway = 3.0 * math.sin(step * 0.23)
    place = move(6.6 - 0.085 * step, 3.2 + 0.022 * step, 0.35) @ turn("z", sway)
    things = [
        Thing("balloon_skin", "latex", SPHERE, move(0, 0.62, 0) @ scale(0.42, 0.50, 0.42)),
        Thing("balloon_neck", "latex", CONE, move(0, 0.02, 0) @ scale(0.10, 0.20, 0.10)),
        Thing("balloon_ring", "brass", TORUS, move(0, 0.03, 0) @ scale(0.11, 0.22, 0.11)),
        Thing("balloon_cord", "steel", CYLINDER, move(0, -0.72, 0) @ scale(0.006, 0.75, 0.006)),
        Thing("balloon_probe", "white_enamel", BOX, move(0, -0.82, 0) @ turn("y", 8.0 * step) @ scale(0.10, 0.12, 0.08)),
        Thing("balloon_probe_lamp", "lamp_glass", SPHERE, move(0, -0.96, 0) @ scale(0.03, 0.03, 0.03)),
    ]
    return replace(_scene(instance(things, "", "balloon", place)), terrace=NOWHERE)


def together(*scenes: Scene) -> Scene:
    """What one render of several scenes would see; the first gives camera and light."""
    return replace(scenes[0], things=[thing for scene in scenes for thing in scene.things])


def without(scene: Scene, *objects: str) -> Scene:
    """The scene with some objects left out: what stood behind them is seen."""
    return replace(scene, things=[thing for thing in scene.things if thing.object not in objects])


def renamed(scene: Scene, names: dict[str, str]) -> Scene:
    return replace(scene, things=[replace(thing, object=names.get(thing.object, thing.object)) for thing in scene.things])


def instance(things: list[Thing], prefix: str, asset: str, place: Matrix) -> list[Thing]:
    """The same things at another place, their objects named after it."""
    return [replace(thing, object=f"{prefix}_{thing.object}".strip("_"), asset=asset, place=place @ thing.place) for thing in things]


def _scene(things: list[Thing]) -> Scene:
    return Scene(things=things, materials={material.name: material for material in MATERIALS})


def _blink(step: int, number: int) -> float:
    """Each lamp is on for eleven frames of sixteen, fading in and out within two."""
    phase = (step + 5 * number) % 16
    return min(1.0, max(0.04, min(phase + 0.5, 11.5 - phase) / 2))


def _dome(bearing: float) -> list[Thing]:
    base = move(0, 2.05, 0) @ turn("y", bearing) @ scale(1.62, 1.62, 1.62)
    things = [Thing("dome_shell", "white_enamel", SPHERE, base, (-9, 9, 0, 9, -9, 9))]
    slit = base @ scale(1.006, 1.006, 1.006)
    things.append(Thing("dome_slit", "lit_room", SPHERE, slit, (-0.13, 0.13, 0.12, 0.985, 0.0, 9)))
    for number in (0, 1, 3, 4, 5):  # the one behind is never seen
        rib = base @ turn("y", 30 + 60 * number) @ scale(1.018, 1.018, 1.018)
        things.append(Thing(f"dome_rib_{number + 1}", "white_enamel", SPHERE, rib, (-0.022, 0.022, 0.0, 9, 0.0, 9)))
    things.append(Thing("dome_cap", "brass", SPHERE, move(0, 3.68, 0) @ scale(0.13, 0.10, 0.13)))
    return things


def _drum() -> list[Thing]:
    return [
        Thing("drum", "wood", CYLINDER, scale(1.7, 2.0, 1.7)),
        Thing("drum_band", "brass", CYLINDER, move(0, 1.93, 0) @ scale(1.76, 0.13, 1.76)),
        Thing("drum_hoop", "steel", TORUS, move(0, 0.42, 0) @ scale(1.72, 0.9, 1.72)),
        Thing("door", "steel", BOX, move(-0.35, 0.72, 1.62) @ turn("y", -12) @ scale(0.36, 0.72, 0.09)),
        Thing("door_knob", "brass", SPHERE, move(-0.10, 0.74, 1.76) @ scale(0.045, 0.045, 0.045)),
        Thing("step", "stone", BOX, move(-0.35, 0.06, 2.0) @ scale(0.62, 0.09, 0.34)),
    ]


def _telescope(bearing: float) -> list[Thing]:
    aim = move(0, 2.35, 0) @ turn("y", bearing) @ turn("x", 56)
    return [
        Thing("telescope_tube", "brass", CYLINDER, aim @ scale(0.145, 2.25, 0.145), asset="telescope"),
        Thing(
            "telescope_hood",
            "brass",
            CONE,
            aim @ move(0, 2.55, 0) @ scale(0.25, -0.62, 0.25),
            (-9, 9, 0.0, 0.72, -9, 9),
            "telescope",
        ),
        Thing("telescope_lens", "lens_glass", DISC, aim @ move(0, 2.553, 0) @ scale(0.21, 1, 0.21), asset="telescope"),
        Thing("telescope_ring", "steel", TORUS, aim @ move(0, 1.45, 0) @ scale(0.165, 0.40, 0.165), asset="telescope"),
    ]


def _mast(height: float, spin: float, glow: float) -> list[Thing]:
    things = [
        Thing("", "steel", CYLINDER, scale(0.045, height, 0.045)),
        Thing("foot", "stone", BOX, move(0, 0.07, 0) @ scale(0.2, 0.08, 0.2)),
        Thing("lamp", "lamp_glass", SPHERE, move(0, height + 0.13, 0) @ scale(0.075, 0.09, 0.075), glow=glow),
    ]
    for arm in range(3):
        out = move(0, height - 0.16, 0) @ turn("y", spin + 120 * arm)
        things.append(Thing(f"arm_{arm + 1}", "steel", BOX, out @ move(0.19, 0, 0) @ scale(0.19, 0.014, 0.014)))
        cup = out @ move(0.44, 0, 0.03) @ scale(0.105, 0.105, 0.105)
        things.append(Thing(f"cup_{arm + 1}", "white_enamel", SPHERE, cup, (-9, 9, -9, 9, -9, 0.0)))
    return things


def _marker() -> list[Thing]:
    return [
        Thing("", "stone", BOX, move(0, 0.36, 0) @ turn("z", 2.5) @ scale(0.17, 0.38, 0.13)),
        Thing("cap", "white_enamel", CONE, move(0, 0.72, 0) @ scale(0.22, 0.20, 0.22)),
    ]
