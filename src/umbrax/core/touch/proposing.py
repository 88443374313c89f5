"""Proposals where no name answers: mattes of every kind the passes allow at a point, and their crossings, best first."""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import combinations

import cv2
import numpy as np
from numpy.typing import NDArray

from ..mattes import MATTES
from ..mattes.key import distance
from ..mattes.membership import light_of
from ..mattes.trust import Mask, Trust, part_of, trust
from ..picture import Window
from ..pictures.data_values import is_nothing
from ..plan.planner import ShotPlanner
from ..plan.reader import FrameInfo, PassInfo
from ..plan.steps import Step
from .hits import Touched
from .offers import Offer, crossed, of_ids, of_passes

Plane = NDArray[np.float32]
Pull = Callable[[Step], Plane]
MOST = 12
CROSSED = 6  # of the best single mattes are crossed with each other
SLOPE = 0.004  # of its depth by which a surface may change from pixel to pixel
ALIKE = 0.03  # of the area: mattes that differ by less are not both proposed
BETTER = 0.02  # by which a crossing must leak less to be worth the second matte
# a kind that was rendered for it is trusted more than one that is guessed from light
DOUBT = {"id": 0.0, "channel": 0.02, "index": 0.05, "depth": 0.1, "key": 0.15}


@dataclass(frozen=True)
class Proposal:
    """An offer with its coverage `float32[h, w]` on the display window, the part under the point, and how it leaks."""

    offer: Offer
    matte: Plane
    part: Mask
    trust: Trust

    @property
    def doubt(self) -> float:
        """Less is better: what leaks, what is missing inside, and how indirect the kind is."""
        kinds = [DOUBT.get(str(part["kind"]), 0.2) for part in self.offer.parts]
        small = 20 / (20 + self.trust.part_area)
        return self.trust.leak + self.trust.hole / 2 + small + max(kinds) + 0.03 * (len(kinds) - 1)


def propose(planner: ShotPlanner, found: Touched, evaluate: Pull, looked_at: str | None = None) -> list[Proposal]:
    """Proposals at a point, best first; `evaluate` gives the first channel of a step on the display window."""
    with planner.reading_at({found.source: found.time}):
        return _proposed(planner, found, evaluate, looked_at)


def _proposed(planner: ShotPlanner, found: Touched, evaluate: Pull, looked_at: str | None) -> list[Proposal]:
    info = planner.source(found.source)
    offers = [*of_ids(found), *of_passes(planner.reader, found.time, found, looked_at)]
    offers += [offer for offer in (_by_depth(planner, info, found, evaluate), *_by_colour(planner, info, found)) if offer is not None]
    singles = [one for offer in offers if (one := _pulled(planner, found, offer, evaluate)) is not None]
    singles.sort(key=lambda one: one.doubt)
    both = [
        one for a, b in combinations(singles[:CROSSED], 2) if a.offer.place != b.offer.place and (one := _crossing(found, a, b)) is not None
    ]
    chosen: list[Proposal] = []
    for one in sorted([*singles, *both], key=lambda one: one.doubt):
        if len(chosen) < MOST and not any(_alike(one, other) for other in chosen):
            chosen.append(one)
    return chosen


def _alike(a: Proposal, b: Proposal) -> bool:
    """Whether two mattes are hardly to be told apart."""
    larger = max(a.trust.area, b.trust.area)
    if abs(a.trust.area - b.trust.area) > ALIKE * larger:
        return False
    return float(cv2.norm(a.matte, b.matte, cv2.NORM_L1)) <= ALIKE * larger


def _pulled(planner: ShotPlanner, found: Touched, offer: Offer, evaluate: Pull) -> Proposal | None:
    part = offer.parts[0]
    kind = MATTES.get(part["kind"])
    matte = evaluate(kind.planes(planner, kind.params.model_validate(part), offer.title))
    return _proposal(found, offer, matte)


def _proposal(found: Touched, offer: Offer, matte: Plane) -> Proposal | None:
    part = part_of(matte, found.x, found.y)
    return None if part is None else Proposal(offer, matte, part, trust(matte, part))


def _crossing(found: Touched, a: Proposal, b: Proposal) -> Proposal | None:
    """Two mattes crossed, where that leaks less than either and keeps most of the smaller part."""
    made = _proposal(found, crossed(a.offer, b.offer), np.minimum(a.matte, b.matte))
    if made is None or made.trust.leak > min(a.trust.leak, b.trust.leak) - BETTER:
        return None
    return made if made.trust.part_area >= min(a.trust.part_area, b.trust.part_area) / 2 else None


def _by_depth(planner: ShotPlanner, info: FrameInfo, found: Touched, evaluate: Pull) -> Offer | None:
    """From the nearest to the farthest of the surface that goes on under the point without a step."""
    if not info.has("depth"):
        return None
    depth = evaluate(planner.read(found.source, info.find("depth").name, 1))
    if not (0 <= found.y < depth.shape[0] and 0 <= found.x < depth.shape[1]):
        return None
    here = float(depth[found.y, found.x])
    if is_nothing(depth[found.y : found.y + 1, found.x]).any():
        return None
    plain = np.where(is_nothing(depth), np.float32(-1e9), depth).astype(np.float32)
    step = max(abs(here), 1e-6) * SLOPE
    mask = np.zeros((plain.shape[0] + 2, plain.shape[1] + 2), np.uint8)
    cv2.floodFill(plain, mask, (found.x, found.y), 0.0, step, step, 4 | cv2.FLOODFILL_MASK_ONLY | (1 << 8))
    surface = depth[mask[1:-1, 1:-1] > 0]
    near, far = (float(f"{value:.4g}") for value in (surface.min() - step, surface.max() + step))
    item = {"kind": "depth", "source": found.source, "pass": info.find("depth").name, "near": near, "far": far}
    return Offer((f"depth {near:g} to {far:g}",), (item,), info.find("depth").name, 1.0)


def _by_colour(planner: ShotPlanner, info: FrameInfo, found: Touched) -> list[Offer | None]:
    wanted = [info.find(kind) for kind in ("surface_colour", "beauty") if any(one.kind == kind for one in info.passes.values())]
    return [_colour_of(planner, own, found) for own in wanted]


def _colour_of(planner: ShotPlanner, own: PassInfo, found: Touched) -> Offer | None:
    """The middle colour around the point, with as much tolerance as it varies there."""
    around = Window(found.x - 3, found.y - 3, found.x + 4, found.y + 4).intersect(own.window)
    if around.empty:
        return None
    light = light_of(planner.reader.pixels(found.source, found.time, own.name, around), own.has_alpha)
    if light.shape[2] != 3:
        return None
    middle = np.median(light.reshape(-1, 3), axis=0)
    colour = tuple(float(f"{value:.4g}") for value in middle)
    spread = float(np.median(distance(light, (colour[0], colour[1], colour[2]))))
    tolerance = round(min(max(2 * spread, 0.04), 0.25), 3)
    item = {
        "kind": "key", "source": found.source, "pass": own.name, "colour": list(colour), "tolerance": tolerance,
        "softness": round(tolerance / 2, 3),
    }  # fmt: skip
    shown = found.source if own.kind == "beauty" else own.name
    return Offer((f"colour of {shown}",), (item,), f"{own.name} colour", 1.0)
