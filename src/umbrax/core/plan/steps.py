"""Steps: the nodes of a plan. A step knows what it needs, where it is defined, and how to compute a window of itself."""

import hashlib
import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ..document.parameters import MatteRef
from ..errors import Where
from ..picture import Edge, Picture, Window, union_of
from .placement import Placement
from .reader import FrameInfo, PassReader

Needs = Callable[[Window], tuple[Window, ...]]
Run = Callable[[Window, tuple[Picture, ...]], Picture]


@dataclass(frozen=True)
class Together:
    """Steps of one `group` are computed at once: `run(window, items)` gives a picture for the item of each."""

    group: str
    item: Any
    run: Callable[[Window, list[Any]], list[Picture]]


@dataclass(frozen=True)
class Patches:
    """Where a step at 1/n is made from another one at full size: pixels marked by what was made of what was given."""

    step: "Step"
    n: int
    marked: Callable[[Picture, tuple[Picture, ...]], NDArray[np.bool_]]


@dataclass(frozen=True, slots=True, eq=False)
class Step:
    """One computation. Equal keys mean equal pixels, whatever frame, revision or person asked.

    `domain` is where the picture is defined, at the step's scale; outside it stands `edge`. `needs(window)` gives the
    window wanted of each input; `run` gets of each what of that lies in its domain, a pixel at least where its border goes on.
    `pointwise` steps may be computed in bands of rows and get exactly their window. A `whole` step is made and kept on all of
    its domain, whatever window is wanted. `work` is how many pixels are looked at for each that is made: bands are that much smaller.
    `alpha` is the input, if there is one, that its last channel is: whoever wants no more need not make the rest.
    """

    key: str
    what: str
    domain: Window
    channels: int
    inputs: tuple["Step", ...]
    needs: Needs
    run: Run
    edge: Edge = "empty"
    where: Where = field(default_factory=Where)
    pointwise: bool = False
    together: Together | None = None
    whole: bool = False
    patches: Patches | None = None
    work: int = 1
    alpha: "Step | None" = None

    def __post_init__(self) -> None:
        # what is made of a picture depends on what stands outside it: a plate and a pass of one file are not the same
        if self.edge != "empty":
            object.__setattr__(self, "key", f"{self.key} {self.edge}")


def plain(value: Any) -> Any:
    """A JSON-able form of anything that goes into a content key."""
    if isinstance(value, BaseModel):
        return value.model_dump(mode="json")
    if isinstance(value, frozenset | set):
        return sorted(value)
    return str(value)


_WRITTEN = json.JSONEncoder(default=plain, sort_keys=True).encode


def content_key(what: str, parameters: Any, inputs: Sequence[Step]) -> str:
    """A hash of an operation (name and version), its parameters at this frame and the keys of its inputs."""
    text = _WRITTEN([what, parameters, [step.key for step in inputs]])
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


def same_window(count: int) -> Needs:
    return lambda window: (window,) * count


def pointwise(
    what: str, parameters: Any, inputs: Sequence[Step], compute: Callable[[tuple[Picture, ...]], Any], *,
    channels: int, edge: Edge = "empty", domain: Window | None = None, where: Where | None = None, counted_as: str = "",
    patches: Patches | None = None,
) -> Step:  # fmt: skip
    """A step whose pixel depends on the same pixel of its inputs only; its domain is all of theirs together."""
    inputs = tuple(inputs)
    where = where or Where()

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        return Picture(compute(given), window, edge)

    return Step(
        content_key(what, parameters, inputs), counted_as or what, union_of(s.domain for s in inputs) if domain is None else domain,
        channels, inputs, same_window(len(inputs)), run, edge, where, True, patches=patches,
    )  # fmt: skip


def nothing(channels: int) -> Step:
    """A picture in which nothing stands."""

    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        return Picture(np.zeros((window.height, window.width, channels), np.float32), window)

    return Step(content_key("nothing", channels, ()), "nothing", Window(0, 0, 0, 0), channels, (), lambda _: (), run)


NOTHING = nothing(4)


class Planner(Protocol):
    """What pictures, mattes and treatments may ask for while a plan is made; everything at a scale of 1/n."""

    frame: int
    reader: PassReader
    display: Window
    luma: tuple[float, float, float]  # of linear red, green and blue
    seen: Window  # the part of a designed picture, which has no end, that can come into the frame
    stands: Placement  # where the picture that is being made stands in the frame
    where: Where

    def source(self, name: str) -> FrameInfo: ...

    def read(self, source: str, wanted: str, scale: int, shown: bool = False) -> Step:
        """A pass with its own channels; `shown` as a picture, a pass of unknown kind is read as light."""
        ...

    def time_of(self, source: str) -> int:
        """The frame of the shot at which a source is read now."""
        ...

    def matte_planes(self, reference: MatteRef, scale: int) -> Step:
        """Coverage, share and the sum of all coverages of the layer, as three channels, not inverted."""
        ...

    def coverage(self, reference: MatteRef, scale: int) -> Step:
        """A matte as one channel."""
        ...

    def element_alpha(self, card_id: str) -> Step:
        """The alpha of an element card's picture, cut and treated, at full size, as one channel."""
        ...

    def build_picture(self, cards: tuple[Any, ...], scale: int) -> Step:
        """The picture of a build of its own: what a bundle shows."""
        ...

    def ids_of(self, matte_id: str) -> tuple[str, str, frozenset[int]] | None:
        """(source, layer, IDs) of a matte that is nothing but a set of IDs, else None."""
        ...
