"""How far away what a picture shows is, merged through the joins: what covers most of a pixel says how far that is.

Between steps it is kept as one over the depth: where nothing stands, which a depth pass says in many ways, it is 0.
"""

from typing import Any

import numpy as np

from ..errors import UmbraxError, Where
from ..kernels.edges import REACH, nearness
from ..picture import Picture, Window
from ..pictures.base import own_alpha
from ..pictures.data_values import NOTHING
from ..repair.depth import RIM, SNAP_REACH, by_ids, depth_on, known_depth, snapped
from .placement import EVERYWHERE
from .read import reduced_step
from .steps import Planner, Step, content_key, pointwise

MOST = 0.5  # of a pixel that has to be covered


def sharp(planner: Planner, source: str, wanted: str, scale: int) -> Step:
    """A depth pass of a source, its edges told apart by the first of its ID layers that names objects."""
    info = planner.source(source)
    layers = [layer for layer in info.ids.values() if layer.kind == "object"] or list(info.ids.values())
    if not layers:
        return planner.read(source, wanted, scale)
    full, layer, reader, frame = planner.read(source, wanted, 1), layers[0], planner.reader, planner.time_of(source)
    whole = full.domain.intersect(layer.window)

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        held = whole.intersect(reader.held(source, frame, layer.name))
        depth, part = given[0].crop(window).pixels[..., :1], window.intersect(held)
        if part.empty:
            return Picture(depth, window)
        near = part.grown(REACH).intersect(held)
        ids, coverage = reader.ranks(source, frame, layer.name, near)
        told = Picture(by_ids(given[0].crop(near).pixels[..., 0], ids, coverage)[..., None], near).crop(part).pixels
        out = depth.copy()
        out[part.slices_in(window)] = told
        return Picture(out, window)

    step = Step(
        content_key("depth by IDs 1", [info.identity, layer.name], (full,)), "depth by IDs", full.domain, 1, (full,),
        lambda window: (window.grown(REACH),), run, full.edge, planner.where,
    )  # fmt: skip
    return reduced_step(step, scale, "nearest")


def told_apart(depth: Step, where: Where) -> Step:
    """A depth as a lens takes it, in two channels: no pixel between near and far, and for pixels that are partly covered that of what
    is beside one that saw nothing. It does not depend on the lens, so that changing that finds it there."""
    around = RIM + SNAP_REACH

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        wide = window.grown(around)
        z = snapped(depth_on(given[0], wide))
        return Picture(np.stack([z, known_depth(z)], axis=2), wide).crop(window)

    return Step(
        content_key("depth told apart 2", None, (depth,)), "depth told apart", depth.domain.grown(RIM), 2, (depth,),
        lambda window: (window.grown(around),), run, where=where,
    )  # fmt: skip


def untold(wanted: str = "depth") -> UmbraxError:
    """What is said where nothing tells how far away a card is."""
    return UmbraxError("no-depth", f"nothing tells how far away this is: no source of it has a pass {wanted!r}; set a depth on its card")


def everywhere(depth: float, where: Where) -> Step:
    """The same depth at every pixel."""

    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        return Picture(np.full((window.height, window.width, 1), depth, np.float32), window)

    return Step(content_key("depth everywhere", depth, ()), "depth", EVERYWHERE, 1, (), lambda _: (), run, where=where)


def joined(below: Step | None, depth: Step, shown: Step, opacity: float, where: Where) -> Step:
    """One over the depth of a picture so far with a card before it, whose picture is `shown`."""

    def needs(window: Window) -> tuple[Window, ...]:
        return (window.grown(RIM), *[window] * (len(inputs) - 1))

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        wide = depth_on(given[0], window.grown(RIM))
        z, beside = (values[RIM:-RIM, RIM:-RIM] for values in (wide, known_depth(wide)))
        alpha = given[1].crop(window).pixels
        behind = np.zeros_like(alpha) if below is None else given[2].crop(window).pixels
        return Picture(nearness(z, beside, alpha, behind, opacity, MOST, NOTHING), window)

    inputs = (depth, own_alpha(shown), *([] if below is None else [below]))
    domain = shown.domain if below is None else shown.domain.union(below.domain)
    return Step(content_key("depth joined 3", opacity, inputs), "depth joined", domain, 1, inputs, needs, run, where=where)


def from_nearness(near: Step, where: Where) -> Step:
    """Depth, infinite where nothing stands."""

    def compute(given: tuple[Picture, ...]) -> Any:
        n = given[0].pixels
        return np.where(n > 0, 1 / np.maximum(n, np.float32(1e-12)), np.float32(np.inf))

    return pointwise("depth 1", None, [near], compute, channels=1, edge="far", domain=near.domain, where=where)
