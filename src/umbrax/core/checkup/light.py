"""Rules about light passes: their alpha, their sum, and pixels that cannot be light."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from ..colour import linear_from_srgb
from ..picture import Window
from ..pictures.data_values import is_nothing
from ..plan.reader import LIGHTS, PICTURE_KINDS, PassInfo
from ..repair.light import FIREFLY, fireflies, largest
from .base import LUMA, RULES, Examined, Fault, Plane, Rule, listed, percent, share

HALF_STEP = 2.0**-11  # half of the relative distance of two half floats
CODED = ("u8", "u16")
LEAST_TOLD = 5e-4  # of the frame: a smaller part beyond rounding is not spoken of


def _no_alpha(frame: Examined) -> list[Fault]:
    beauty = frame.beauty
    if beauty is None or not beauty.has_alpha:
        # a plate has no alpha and needs none; a render with other passes does
        if beauty is None or not (frame.of_kind(*LIGHTS) or frame.info.ids):
            return []
        return [Fault(beauty.name, "the beauty has no alpha: nothing tells where the elements are; render it with alpha", severity="error")]
    without = [found.name for found in frame.of_kind(*LIGHTS) if not found.has_alpha and found.alpha is None]
    remedy: dict[str, Any] = {"do": "set", "alpha": beauty.name}
    if len(without) == 1:
        return [Fault(without[0], f"the pass has no alpha; take that of {beauty.name!r}", severity="note", remedy=remedy)]
    if not without:
        return []
    message = f"{len(without)} light passes have no alpha ({listed(without)}); take that of {beauty.name!r} for all of them"
    return [Fault(None, message, {"passes": without}, "note", remedy | {"passes": without})]


RULES.register(Rule("no-alpha", "No alpha", _no_alpha))


@dataclass(frozen=True)
class _Way:
    """One way in which light passes may add up; `plain` where it is nothing but the sum of `lights`."""

    name: str
    lights: list[PassInfo]
    total: Plane
    plain: bool = True


def _ways(frame: Examined, lights: list[PassInfo], box: Window) -> Iterator[_Way]:
    """The ways light passes may be meant to add up: all, without parts of what is there whole, and times surface colour."""
    whole = {found.kind for found in lights if found.of is None}
    kept = [found for found in lights if found.of is None or found.kind not in whole]
    yield _Way("the sum", lights, _sum(frame, lights, box))
    if len(kept) < len(lights):
        yield _Way("the sum without direct and indirect parts", kept, _sum(frame, kept, box))
    for surface in frame.of_kind("surface_colour"):
        coloured = [found for found in kept if found.kind == "diffuse"]
        if coloured and surface.window == coloured[0].window and len(surface.channels) - int(surface.has_alpha) == 3:
            rest = _sum(frame, [found for found in kept if found.kind != "diffuse"], box)
            total = rest + _sum(frame, coloured, box) * frame.colours(surface, box)
            yield _Way(f"the sum with diffuse times {surface.name!r}", kept, total, plain=False)


def _sum(frame: Examined, lights: list[PassInfo], box: Window) -> Plane:
    total = np.zeros((box.height, box.width, 3), np.float32)
    for found in lights:
        total += frame.colours(found, box)
    return total


@dataclass(frozen=True)
class Residue:
    """What the best way to add up the lights leaves of the beauty on `box`; `beyond` where that is more than rounding."""

    lights: int
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


def sums_residue(frame: Examined) -> Residue | None:
    """None where there is no beauty, or not enough lights of its kind."""
    beauty = frame.beauty
    lights = [one for one in frame.of_kind(*LIGHTS) if beauty is not None and one.window == beauty.window and one.view == beauty.view]
    if beauty is None or len(lights) < 2 or any(len(found.channels) - int(found.has_alpha) != 3 for found in [beauty, *lights]):
        return None
    box = frame.box_of([beauty, *lights])
    if box.empty:
        return None
    wanted = np.nan_to_num(frame.colours(beauty, box), posinf=0, neginf=0)
    steps = 2 * HALF_STEP if frame.reader.types.get(beauty.name) == "half" else 1e-6
    allowed = (len(lights) + 1) * steps * largest(np.abs(wanted)) + 1e-4
    best: tuple[float, _Way, Plane] | None = None
    for way in _ways(frame, lights, box):
        residue = wanted - np.nan_to_num(way.total, posinf=0, neginf=0)
        mean = float(np.abs(residue).sum()) / (3 * beauty.window.area)
        if best is None or mean < best[0]:
            best = (mean, way, residue)
    assert best is not None
    return Residue(len(lights), best[1], best[0], best[2], np.asarray(largest(np.abs(best[2])) > allowed), box, wanted)


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
    told = f"{way} of {found.lights} light passes is not the beauty, which has {more} light on {percent(beyond)} of the frame{because}"
    numbers = {"largest": round(most, 5), "mean": round(found.mean, 6), "share": round(beyond, 5), "way": way}
    return [Fault(beauty.name, told, numbers | {"explained_by": explained}, remedy={"do": "rest-pass"}, weight=found.mean, placed=True)]


def _explaining(frame: Examined, beauty: PassInfo, residue: Plane, box: Window) -> str | None:
    """A pass that is not among the lights and is nearly the residue."""
    for found in frame.info.passes.values():
        if found.kind in (*LIGHTS, "beauty") or found.window != beauty.window:
            continue
        light = frame.colours(found, box)
        if light.shape == residue.shape and np.abs(residue - light).mean() < 0.15 * np.abs(residue).mean():
            return found.name
    return None


RULES.register(Rule("sum-residue", "Lights do not add up", _sum_residue))


def _bad_pixels(frame: Examined) -> list[Fault]:
    faults = []
    for found in frame.of_kind(*PICTURE_KINDS):
        raw = frame.raw(found.name)
        if raw.constant or frame.reader.types.get(found.name) in CODED:
            continue
        values = raw.values[..., : raw.values.shape[2] - int(found.has_alpha)]
        if values.min() >= -1e-4 and values.max() < FIREFLY:  # false for NaN as well
            continue
        finite = np.isfinite(values)
        bad = int(values.size - np.count_nonzero(finite))
        negative = int(np.count_nonzero(values < -1e-4))
        flies = int(np.count_nonzero(fireflies(values))) if found.kind in ("beauty", *LIGHTS) else 0
        counts = {"not_finite": bad, "negative": negative, "fireflies": flies}
        if not any(counts.values()):
            continue
        told = [f"{count} {name.replace('_', ' ')}" for name, count in counts.items() if count]
        y, x = _first(~finite if bad else values < -1e-4) if bad or negative else (0, 0)
        at = {"at": [x + raw.box.x0, y + raw.box.y0]} if bad or negative else {}
        faults.append(
            Fault(
                found.name,
                f"values that cannot be light: {', '.join(told)}",
                counts | at,
                "warning" if bad or flies else "note",
                {"do": "set", "repair": True},
                weight=float(bad + negative + flies),
                placed=True,
            )
        )
    return faults


def _first(mask: Any) -> tuple[int, int]:
    y, x = np.unravel_index(int(mask.any(axis=2).argmax()), mask.shape[:2])
    return int(y), int(x)


RULES.register(Rule("bad-pixels", "Impossible pixels", _bad_pixels))


def baked_backdrop(frame: Examined) -> list[Fault]:
    """A picture whose alpha is 1 everywhere although objects do not cover it."""
    if frame.beauty is None or frame.alpha is None or float(frame.alpha.min()) < 0.999:
        return []
    by = frame.covering_layer(frame.beauty.window)
    empty = 0.0 if by is None else share(frame.covered(by) < 0.5)
    for depth in frame.of_kind("depth"):
        empty = max(empty, share(is_nothing(frame.whole(depth.name)[..., 0])))
    if empty < 0.02:
        return []
    return [
        Fault(
            frame.beauty.name,
            f"alpha is 1 everywhere although {percent(empty)} of the frame holds no object: a backdrop is rendered in; "
            + ("it can be taken out by what the IDs cover" if by else "render without it"),
            {"share": round(empty, 4)},
            remedy={"do": "set-source", "backdrop": {"layer": by}} if by else None,
            what="backdrop",
            placed=by is not None,
        )
    ]


RULES.register(Rule("baked-backdrop", "Backdrop rendered in", baked_backdrop))


def _association(frame: Examined) -> list[Fault]:
    """At a rim of coverage a, associated light is a times what stands inside it; unassociated light is the same as inside."""
    if frame.beauty is None or frame.alpha is None or frame.beauty.name in frame.reader.associated:
        return []
    coded = frame.reader.types.get(frame.beauty.name) in CODED
    told = frame.beauty.name in frame.reader.unassociated
    colours = frame.colours(frame.beauty)
    if colours.shape[2] != 3:
        return []
    light = np.nan_to_num(linear_from_srgb(colours) if coded else colours) @ LUMA
    alpha = frame.alpha
    solid = (alpha > 0.98).astype(np.float32)
    near = cv2.blur(solid, (5, 5))
    inside = cv2.blur(light * solid, (5, 5)) / np.maximum(near, 1e-6)
    rim = (alpha > 0.1) & (alpha < 0.7) & (near > 0.03) & (inside > 0.02) & (inside < 5)
    if np.count_nonzero(rim) < 60:
        return []
    ratio = light[rim] / inside[rim]
    associated, plain = float(np.median(np.abs(ratio - alpha[rim]))), float(np.median(np.abs(ratio - 1)))
    measure = {"rim_pixels": int(np.count_nonzero(rim)), "if_associated": round(associated, 3), "if_not": round(plain, 3)}
    if not told and plain < 0.6 * associated:
        message = "colours are not multiplied by alpha at the rims, which this file promises; edges would be too bright"
        return [Fault(frame.beauty.name, message, measure, remedy={"do": "set", "association": "multiply"})]
    if told and associated < 0.6 * plain:
        message = "colours are multiplied by alpha already, which this file denies; edges would be too dark"
        return [Fault(frame.beauty.name, message, measure, remedy={"do": "set", "association": "as_is"})]
    return []


RULES.register(Rule("association", "Alpha association", _association))
