"""What a pass is by its values, where its name does not tell."""

import re

import numpy as np

from ..plan.reader import GROUP, PassInfo
from ..repair.light import largest
from .base import RULES, Examined, Fault, Plane, Rule, listed, share
from .sums import LEAST_TOLD, family, rounding

NEARLY = 0.02  # of 0 or 1
MOSTLY = 0.9
MOST_NUMBERS = 4096
TOLD = {
    "object_index": "whole numbers throughout: an index of objects",
    "rgb_matte": "every channel is nearly all 0 or 1: a matte a channel",
    "single_matte": "nearly all 0 or 1: a matte",
}


def kind_by_values(values: Plane) -> str | None:
    """What values `[h, w, c]` without alpha look like: an index, one matte, a matte a channel; None for everything else."""
    if not np.isfinite(values).all() or values.min() < -1e-3:
        return None
    single = values.shape[2] == 1
    if single and values.max() > 1.5 and share(np.abs(values - np.rint(values)) < 1e-6) == 1:
        return "object_index" if len(np.unique(values)) <= MOST_NUMBERS else None
    ends = (np.abs(values) < NEARLY) | (np.abs(values - 1) < NEARLY)
    if values.max() > 1 + 1e-3 or min(share(ends[..., c]) for c in range(values.shape[2])) < MOSTLY:
        return None
    if values.max() < 0.98 or values.min() > NEARLY:
        return None  # both ends must be there
    if single:
        return "single_matte"
    grey = bool((values == values[..., :1]).all())
    return None if grey or values.shape[2] < 3 else "rgb_matte"


def _kind(frame: Examined) -> list[Fault]:
    faults = []
    for found in frame.of_kind("other"):
        if _may_be_ranks(frame, found) or frame.raw(found.name).constant:
            continue
        kind = kind_by_values(frame.colours(found))
        if kind is not None:
            message = f"nothing in the name tells what it is, but {TOLD[kind]}; read it as one"
            faults.append(Fault(found.name, message, {"kind": kind}, "note", {"do": "set", "kind": kind}, what=kind))
    lamps = _lamps(frame)
    if lamps:
        message = f"the passes {listed(lamps)} add up to the beauty: they are the light of single lamps; read them as light groups"
        remedy = {"do": "set", "kind": GROUP, "passes": lamps}
        faults.append(Fault(None, message, {"passes": lamps}, "note", remedy, what=GROUP, weight=len(lamps)))
    return faults


def _lamps(frame: Examined) -> list[str]:
    """Passes of unknown kind that are some of the beauty's light each, and all of it together; none where they are not."""
    beauty = frame.beauty
    if beauty is None or len(beauty.channels) - int(beauty.has_alpha) != 3:
        return []
    wanted = np.nan_to_num(frame.colours(beauty), posinf=0, neginf=0)
    around = rounding(frame, beauty, wanted, 1)[..., None]
    total, names = np.zeros_like(wanted), []
    for found in family(frame, beauty, ("other",)):
        if len(found.channels) - int(found.has_alpha) != 3 or _may_be_ranks(frame, found) or frame.raw(found.name).constant:
            continue
        light = frame.colours(found)
        if (light >= -around).all() and (light <= wanted + around).all():
            total += light
            names.append(found.name)
    left = largest(np.abs(wanted - total)) > rounding(frame, beauty, wanted, len(names))
    return names if len(names) > 1 and share(left) < LEAST_TOLD else []


def _may_be_ranks(frame: Examined, found: PassInfo) -> bool:
    """IDs are any bits at all: other rules look at them."""
    ranks = re.search(r"\d\d\Z", found.name) is not None and len(found.channels) == 4
    return ranks or found.name.removesuffix(" preview") in frame.info.ids


RULES.register(Rule("kind", "What a pass is", _kind))
