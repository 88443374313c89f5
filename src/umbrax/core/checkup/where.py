"""Where in the frame a finding lies: a mask for the rules of which a picture says more than numbers."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..picture import Window
from ..pictures.data_values import is_nothing
from ..repair.depth import snapped
from ..repair.indices import by_majority
from ..repair.light import impossible
from .base import Examined, Plane
from .depth import clipped_ends
from .ids import strange_ids
from .sums import sums_residue

Mask = NDArray[np.bool_]


def _residue(frame: Examined, name: str) -> tuple[Mask, Window]:
    found = sums_residue(frame)
    if found is None:
        return np.zeros((0, 0), bool), Window(0, 0, 0, 0)
    return found.beyond, found.box


def _impossible(frame: Examined, name: str) -> tuple[Mask, Window]:
    found = frame.info.passes[name]
    return impossible(frame.colours(found)), found.window


def _leaks(frame: Examined, name: str) -> tuple[Mask, Window]:
    found = frame.info.passes[name]
    values, alpha = frame.colours(found), frame.alpha_on(found.window)
    mask = values.sum(axis=2) > 1.02
    if alpha is not None:
        mask |= (alpha == 0) & (values.max(axis=2) > 0.01)
    return mask, found.window


def _not_covered(frame: Examined, name: str) -> tuple[Mask, Window]:
    window = frame.info.passes[name].window
    layer = frame.covering_layer(window)
    return (np.zeros((0, 0), bool), Window(0, 0, 0, 0)) if layer is None else (frame.covered(layer) < 0.5, window)


def _between(frame: Examined, name: str) -> tuple[Mask, Window]:
    found = frame.info.passes[name]
    index = frame.colours(found)[..., 0]
    return np.abs(index - by_majority(index)) > 1e-3, found.window


def _depth(frame: Examined, name: str) -> tuple[Mask, Window]:
    """Depths between near and far at an edge, and those at the very end of the range."""
    found = frame.info.passes[name]
    depth = frame.colours(found)[..., 0]
    there = ~is_nothing(depth)
    mask = there & (snapped(depth) != depth)
    alpha = frame.alpha_on(found.window)
    for value in clipped_ends(frame, found, depth, there & (alpha > 0.99) if alpha is not None else there):
        mask |= there & (depth == value)
    return mask, found.window


def _ids(frame: Examined, name: str) -> tuple[Mask, Window]:
    layer = frame.info.ids[name]
    ids, coverage = frame.ranks(name)
    total = coverage.sum(axis=0)
    mask = total > 1.01
    if layer.names is not None:
        mask |= (np.isin(ids, strange_ids(frame, layer)) & (coverage > 0)).any(axis=0)
    return mask, layer.window


SHOWN: dict[str, Callable[[Examined, str], tuple[Mask, Window]]] = {
    "sum-residue": _residue,
    "bad-pixels": _impossible,
    "matte-leak": _leaks,
    "baked-backdrop": _not_covered,
    "index-smoothed": _between,
    "depth-meaning": _depth,
    "ids-damaged": _ids,
}


def where(rule: str, frame: Examined, name: str) -> Plane:
    """The places of a finding on the display window: 1 where it lies, else 0; empty for rules that have no place."""
    display = frame.info.display
    out = np.zeros((display.height, display.width), np.float32)
    if rule not in SHOWN:
        return out
    mask, window = SHOWN[rule](frame, name)
    part = window.intersect(display)
    if not part.empty and mask.size:
        out[part.slices_in(display)] = mask[part.slices_in(window)]
    return out
