"""What an element card can show: the registry of picture kinds and what they share."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..document.parameters import MatteRef, Parameters
from ..picture import Edge, Picture, Window, union_of
from ..plan.reader import PARTS
from ..plan.steps import Planner, Step, pointwise
from ..registry import Registry


class PictureParams(Parameters):
    """The picture of an element card."""

    kind: str


@dataclass(frozen=True)
class PictureKind:
    """`build(planner, params, scale, join)` gives an RGBA step, associated and scene-linear, at a scale of 1/n.

    `mattes(params)`: the mattes it is made with. `lit`: it shows the light of its sources, so that a lamp in one of them is one in it.
    `laid_down(planner, params, own, join)`: what is laid down of it once its colours are treated, before it is cut.
    `read_at(params, frame, first)`: the frame at which its sources are read, at one of a shot that begins at `first`; the same without it.
    """

    kind: str
    title: str
    params: type[PictureParams]
    build: Callable[[Planner, Any, int, str], Step]
    sources: Callable[[Any], tuple[str, ...]]
    lit: bool = True
    mattes: Callable[[Any], tuple[MatteRef, ...]] = lambda params: ()
    laid_down: Callable[[Planner, Any, Step, str], Step] | None = None
    aliases: tuple[str, ...] = ()
    read_at: Callable[[Any, int, int], int] | None = None


PICTURES: Registry[PictureKind] = Registry("picture kind")
RIM = 8  # pixels without anything around what ends: of a preview that is made of it a whole one at the least
BORROWERS = (*PARTS, "surface_colour", "other")  # what is given the beauty's alpha where it has none of its own


def ending(planner: Planner, windows: Iterable[Window], has_alpha: bool, scale: int) -> tuple[Window, Edge]:
    """Where a picture made of passes on these windows, at 1/scale, lies, and what stands outside of it.

    Where the frame cuts it off its border goes on. Where it ends within, nothing stands outside: some pixels more of it are there, in
    which nothing is. What has no alpha cannot end so.
    """
    whole, frame = union_of(windows), planner.display.scaled(scale)
    if whole.empty or not (has_alpha or whole.contains(frame)):
        return whole, "empty"
    return whole.grown_within(frame, RIM), "extend"


def alpha_of(planner: Planner, source: str, scale: int, wanted: str | None = None) -> Step | None:
    """The alpha of a pass, by default of the source's beauty, as one channel; None where there is none.

    A chosen pass without alpha is taken as one by its last channel; the beauty's own choice is followed once. A choice that is not
    there any more counts as none.
    """
    info = planner.source(source)
    if wanted is None or not info.has(wanted):
        if not info.has("beauty"):
            return None
        beauty = info.find("beauty")
        chosen = beauty.alpha if beauty.alpha is not None and info.has(beauty.alpha) else None
        if not beauty.has_alpha and chosen is None:
            return None
        wanted = chosen or beauty.name
    return last_channel(planner.read(source, info.find(wanted).name, scale))


def last_channel(step: Step, edge: Edge = "empty") -> Step:
    """The last channel of a picture by itself: its alpha, where it has one."""
    return pointwise("alpha 1", None, [step], lambda given: np.ascontiguousarray(given[0].pixels[..., -1:]), channels=1, edge=edge)


def own_alpha(picture: Step) -> Step:
    """The alpha of a picture by itself; where the picture goes on past its border, so does it."""
    edge: Edge = "extend" if picture.edge == "extend" else "empty"
    return picture.alpha if picture.alpha is not None and picture.alpha.edge == edge else last_channel(picture, edge)


def as_rgba(planner: Planner, source: str, wanted: str, scale: int, edge: Edge | None = "empty") -> Step:
    """A pass as RGBA: grey is spread over the three, two channels leave blue at 0. Without an `edge` it ends as `ending` says.

    A missing alpha is the beauty's for light, or the one that was chosen, else 1: a shadow, line or data pass means something
    where the beauty covers nothing as well.
    """
    info = planner.source(source).find(wanted)
    step = planner.read(source, info.name, scale, shown=True)
    own_alpha, light = info.has_alpha and info.alpha is None, len(info.channels) - int(info.has_alpha)
    borrows = info.alpha is not None or (not own_alpha and info.kind in BORROWERS)
    borrowed = alpha_of(planner, source, scale, info.alpha) if borrows else None
    inputs = [step] if borrowed is None else [step, borrowed]

    def compute(given: tuple[Picture, ...]) -> Any:
        pixels = given[0].pixels
        if light >= 3 and own_alpha and pixels.shape[2] == 4:
            return pixels
        if light == 2:
            colour = np.concatenate([pixels[..., :2], np.zeros_like(pixels[..., :1])], axis=2)
        else:
            colour = pixels[..., :3] if light >= 3 else np.repeat(pixels[..., :1], 3, axis=2)
        alpha = pixels[..., -1:] if own_alpha else given[1].pixels if borrowed is not None else np.ones_like(pixels[..., :1])
        return np.concatenate([colour, alpha], axis=2)

    domain = None
    if edge is None:
        domain, edge = ending(planner, [one.domain for one in inputs], own_alpha or borrowed is not None, scale)
    return pointwise("rgba 3", [light, own_alpha], inputs, compute, channels=4, edge=edge, domain=domain, where=planner.where)
