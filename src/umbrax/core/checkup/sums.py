"""Whether light passes add up to the beauty: in which way, and what that leaves."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import chain

import numpy as np
from numpy.typing import NDArray

from ..picture import Window
from ..plan.reader import GROUP, LIGHTS, LIT, PassInfo, parts_among
from ..repair.light import largest
from .base import RULES, Examined, Fault, Plane, Rule, percent

HALF_STEP = 2.0**-11  # half of the relative distance of two half floats
LEAST_TOLD = 5e-4  # of the frame: a smaller part beyond rounding is not spoken of


@dataclass(frozen=True)
class _Way:
    """One way in which light passes may add up; `plain` where it is nothing but the sum of `lights`."""

    name: str
    lights: list[PassInfo]
    total: Plane
    plain: bool = True


def _ways(frame: Examined, lights: list[PassInfo], box: Window) -> Iterator[_Way]:
    """The ways light passes may be meant to add up: all, without parts of what is there whole, and times surface colour."""
    if not lights:
        return
    parts = parts_among(lights)
    kept = [found for found in lights if found.name not in parts]
    yield _Way("the sum", lights, _sum(frame, lights, box))
    if len(kept) < len(lights):
        yield _Way("the sum without direct and indirect parts", kept, _sum(frame, kept, box))
    for surface in frame.of_kind("surface_colour"):
        coloured = [found for found in kept if found.kind == "diffuse"]
        if coloured and surface.window == coloured[0].window and len(surface.channels) - int(surface.has_alpha) == 3:
            rest = _sum(frame, [found for found in kept if found.kind != "diffuse"], box)
            total = rest + _sum(frame, coloured, box) * frame.colours(surface, box)
            yield _Way(f"the sum with diffuse times {surface.name!r}", kept, total, plain=False)


def _ways_of_groups(frame: Examined, groups: list[PassInfo], shining: list[PassInfo], box: Window) -> Iterator[_Way]:
    """Light groups, and what shines by itself beside them, which belongs to no lamp."""
    if not groups:
        return
    yield _Way("the sum", groups, _sum(frame, groups, box))
    if shining:
        yield _Way("the sum with emission", both := [*groups, *shining], _sum(frame, both, box))


def _sum(frame: Examined, lights: list[PassInfo], box: Window) -> Plane:
    total = np.zeros((box.height, box.width, 3), np.float32)
    for found in lights:
        total += frame.colours(found, box)
    return total


@dataclass(frozen=True)
class Residue:
    """What the best way to add up the lights leaves of the beauty on `box`; `beyond` where that is more than rounding."""

    way: _Way
    mean: float
    residue: Plane
    beyond: NDArray[np.bool_]
    box: Window
    wanted: Plane

    def told(self, window: Window) -> float:
        """The share of a window on which it is beyond rounding; 0 where that is too little to speak of."""
        beyond = float(np.count_nonzero(self.beyond)) / window.area
        return beyond if beyond >= LEAST_TOLD else 0.0


def rounding(frame: Examined, beauty: PassInfo, wanted: Plane, lights: int) -> Plane:
    """By how much the sum of so many lights may differ from a beauty `wanted[h, w, 3]` where nothing but rounding does, `[h, w]`."""
    steps = 2 * HALF_STEP if frame.reader.types.get(beauty.name) == "half" else 1e-6
    return np.asarray((lights + 1) * steps * largest(np.abs(wanted)) + 1e-4)


def family(frame: Examined, beauty: PassInfo, kinds: tuple[str, ...]) -> list[PassInfo]:
    """The passes of some kinds that a beauty may be the sum of."""
    return [one for one in frame.of_kind(*kinds) if one.window == beauty.window and one.view == beauty.view]


def sums_residue(frame: Examined) -> Residue | None:
    """None where there is no beauty, or not enough lights of its kind."""
    beauty = frame.beauty
    if beauty is None:
        return None
    lights, groups = (found if len(found) > 1 else [] for found in (family(frame, beauty, LIGHTS), family(frame, beauty, (GROUP,))))
    shining = [found for found in family(frame, beauty, ("emission",)) if found.of is None]
    if not (lights or groups) or any(len(found.channels) - int(found.has_alpha) != 3 for found in [beauty, *lights, *groups, *shining]):
        return None
    box = frame.box_of([beauty, *lights, *groups, *shining])
    if box.empty:
        return None
    wanted = np.nan_to_num(frame.colours(beauty, box), posinf=0, neginf=0)
    best: Residue | None = None
    for way in chain(_ways(frame, lights, box), _ways_of_groups(frame, groups, shining, box)):
        residue = wanted - np.nan_to_num(way.total, posinf=0, neginf=0)
        mean = float(np.abs(residue).sum()) / (3 * beauty.window.area)
        if best is None or mean < best.mean:
            beyond = np.asarray(largest(np.abs(residue)) > rounding(frame, beauty, wanted, len(way.lights)))
            best = Residue(way, mean, residue, beyond, box, wanted)
        if not best.told(beauty.window):
            break  # what comes first is meant where several do
    return best


@dataclass(frozen=True)
class LightSum:
    """How the light passes of a source make its beauty: which of them, whether by their plain sum, and what that leaves.

    `left` is the mean of the residue to the mean of the beauty; 0 where it is no more than rounding.
    """

    lights: tuple[str, ...]
    plain: bool = True
    left: float = 0.0


def light_sum(frame: Examined) -> LightSum | None:
    """None where there is no beauty, or not enough lights of its kind."""
    found, beauty = sums_residue(frame), frame.beauty
    if found is None or beauty is None:
        return None
    left = 0.0
    if found.told(beauty.window) > 0:
        left = float(np.abs(found.residue).sum()) / max(float(np.abs(found.wanted).sum()), 1e-9)
    return LightSum(tuple(light.name for light in found.way.lights), found.way.plain, left)


def _sum_residue(frame: Examined) -> list[Fault]:
    found, beauty = sums_residue(frame), frame.beauty
    if found is None or beauty is None:
        return []
    beyond = found.told(beauty.window)
    if not beyond:
        return []
    most = float(np.abs(found.residue).max())
    explained = _explaining(frame, beauty, found.residue, found.box)
    because = f"; {explained!r} would explain it" if explained else ""
    more = "more" if found.residue.sum() > 0 else "less"
    way = found.way.name
    told = f"{way} of {len(found.way.lights)} light passes is not the beauty, which has {more} light on {percent(beyond)} of the frame{because}"
    numbers = {"largest": round(most, 5), "mean": round(found.mean, 6), "share": round(beyond, 5), "way": way}
    return [Fault(beauty.name, told, numbers | {"explained_by": explained}, remedy={"do": "rest-pass"}, weight=found.mean, placed=True)]


def _explaining(frame: Examined, beauty: PassInfo, residue: Plane, box: Window) -> str | None:
    """A pass that is not among the lights and is nearly the residue."""
    for found in frame.info.passes.values():
        if found.kind in LIT or found.window != beauty.window:
            continue
        light = frame.colours(found, box)
        if light.shape != residue.shape:
            continue
        with np.errstate(over="ignore"):  # IDs are numbers as large as floats can be
            left = np.abs(residue - light).mean()
        if left < 0.15 * np.abs(residue).mean():
            return found.name
    return None


RULES.register(Rule("sum-residue", "Lights do not add up", _sum_residue))
