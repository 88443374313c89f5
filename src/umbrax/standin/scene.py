"""The Ridge Observatory: a hilltop weather station at dusk, as primitives with materials and object names."""

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from .casting.shapes import BOX, CONE, CYLINDER, SPHERE

Vector = tuple[float, float, float]
Matrix = NDArray[np.float64]
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
    """One primitive of an object. `place` takes local to world; local shapes are unit-sized, kept inside `clip`."""

    object: str
    material: str
    shape: int
    place: Matrix
    clip: tuple[float, float, float, float, float, float] = EVERYWHERE


@dataclass
class Scene:
    """Everything at one frame. The terrace only catches: it is in the shadow pass and nowhere else."""

    things: list[Thing] = field(default_factory=list)
    materials: dict[str, Material] = field(default_factory=dict)
    eye: Vector = (0.4, 2.5, 14.5)
    target: Vector = (0.75, 2.35, 0.0)
    view_angle_deg: float = 45.0
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
    """The station at a frame: the dome turns slowly after the sky, and the cups turn in the wind."""
    step = frame - first
    bearing = 24.0 - 0.35 * step
    scene = Scene(materials={material.name: material for material in MATERIALS})
    scene.things += _dome(bearing) + _drum() + _telescope(bearing)
    for number, (x, z, height) in enumerate(((3.1, 0.9, 3.5), (4.15, -0.6, 4.3), (5.0, 1.3, 3.05)), start=1):
        scene.things += _mast(number, x, z, height, 17.0 * step + 40 * number)
    return scene


def _dome(bearing: float) -> list[Thing]:
    base = move(0, 2.05, 0) @ turn("y", bearing) @ scale(1.62, 1.62, 1.62)
    things = [Thing("dome_shell", "white_enamel", SPHERE, base, (-9, 9, 0, 9, -9, 9))]
    slit = base @ scale(1.006, 1.006, 1.006)
    things.append(Thing("dome_slit", "lit_room", SPHERE, slit, (-0.13, 0.13, 0.12, 0.985, 0.0, 9)))
    for number in range(6):
        rib = base @ turn("y", 30 + 60 * number) @ scale(1.018, 1.018, 1.018)
        things.append(Thing(f"dome_rib_{number + 1}", "white_enamel", SPHERE, rib, (-0.022, 0.022, 0.0, 9, 0.0, 9)))
    things.append(Thing("dome_cap", "brass", SPHERE, move(0, 3.68, 0) @ scale(0.13, 0.10, 0.13)))
    return things


def _drum() -> list[Thing]:
    return [
        Thing("drum", "wood", CYLINDER, scale(1.7, 2.0, 1.7)),
        Thing("drum_band", "brass", CYLINDER, move(0, 1.93, 0) @ scale(1.76, 0.13, 1.76)),
        Thing("door", "steel", BOX, move(-0.35, 0.72, 1.62) @ turn("y", -12) @ scale(0.36, 0.72, 0.09)),
        Thing("door_knob", "brass", SPHERE, move(-0.10, 0.74, 1.76) @ scale(0.045, 0.045, 0.045)),
        Thing("step", "stone", BOX, move(-0.35, 0.06, 2.0) @ scale(0.62, 0.09, 0.34)),
    ]


def _telescope(bearing: float) -> list[Thing]:
    aim = move(0, 2.35, 0) @ turn("y", bearing) @ turn("x", 56)
    return [
        Thing("telescope_tube", "brass", CYLINDER, aim @ scale(0.145, 2.25, 0.145)),
        Thing(
            "telescope_hood",
            "brass",
            CONE,
            aim @ move(0, 2.55, 0) @ scale(0.25, -0.62, 0.25),
            (-9, 9, 0.0, 0.72, -9, 9),
        ),
    ]


def _mast(number: int, x: float, z: float, height: float, spin: float) -> list[Thing]:
    name = f"mast_{number}"
    top = move(x, height, z)
    things = [
        Thing(name, "steel", CYLINDER, move(x, 0, z) @ scale(0.045, height, 0.045)),
        Thing(f"{name}_foot", "stone", BOX, move(x, 0.07, z) @ scale(0.2, 0.08, 0.2)),
        Thing(f"{name}_lamp", "lamp_glass", SPHERE, top @ move(0, 0.13, 0) @ scale(0.075, 0.09, 0.075)),
    ]
    for arm in range(3):
        out = move(x, height - 0.16, z) @ turn("y", spin + 120 * arm)
        things.append(Thing(f"{name}_arm_{arm + 1}", "steel", BOX, out @ move(0.21, 0, 0) @ scale(0.21, 0.014, 0.014)))
        things.append(Thing(f"{name}_cup_{arm + 1}", "white_enamel", SPHERE, out @ move(0.44, 0, 0) @ scale(0.095, 0.095, 0.095)))
    return things
