"""The small protocol by which the core asks for pixels; `media` implements it, tests implement it with arrays."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ..errors import UmbraxError
from ..picture import Window
from ..registry import unknown

LIGHTS = (  # by how light comes from what it falls on
    "diffuse", "specular", "reflection", "refraction", "emission", "subsurface", "volume", "coat", "sheen", "ambient",
)  # fmt: skip
GROUP = "light_group"  # all light of one lamp or of some, however it comes: groups and `LIGHTS` are two ways to part a beauty
PARTS = (*LIGHTS, GROUP)  # of a beauty
LIT = ("beauty", *PARTS)
KINDS = (
    *LIT, "occlusion", "coverage", "shadow", "depth", "position", "normal", "motion", "uv", "object_index",
    "material_index", "single_matte", "rgb_matte", "surface_colour", "ids", "line", "other",
)  # fmt: skip
PICTURE_KINDS = (*LIT, "shadow", "occlusion", "surface_colour", "line")
LOST = ("no-pass", "no-layer")  # codes of errors that say a source does not have what is asked of it
COVERAGES = ("coverage", "single_matte", "rgb_matte")  # not light, but a mean of them means something


def is_light(kind: str, shown: bool = False) -> bool:
    """Whether a pass is read as light: linear, associated, finite. What no name tells of is light where it is shown as a picture."""
    return kind in PICTURE_KINDS or (shown and kind == "other")


@dataclass(frozen=True)
class PassInfo:
    """One named picture of a source. `channels` are as the file names them, `has_alpha` if the last one is alpha.

    `of` tells direct from indirect light, or lamps, where the file keeps them apart, `alpha` the pass whose alpha was chosen for it,
    `view` the eye or camera of a file that holds several, except for the first of them.
    """

    name: str
    kind: str
    channels: tuple[str, ...]
    window: Window
    has_alpha: bool = False
    of: str | None = None
    alpha: str | None = None
    view: str | None = None


def parts_among(lights: Sequence[PassInfo]) -> set[str]:
    """Those that are a part of another one of their kind, which is there whole."""
    whole = {light.kind for light in lights if light.of is None}
    return {light.name for light in lights if light.of is not None and light.kind in whole}


@dataclass(frozen=True)
class IdLayer:
    """A layer of hashed IDs: names as the manifest gives them, None without a manifest."""

    name: str
    kind: str
    ranks: int
    window: Window
    names: dict[str, int] | None = None


@dataclass(frozen=True)
class FrameInfo:
    """What one frame of a source holds. `identity` changes whenever the pixels may have changed.

    `notes` are what this product wrote beside the pixels of its own files, by pass.
    """

    identity: str
    display: Window
    passes: dict[str, PassInfo] = field(default_factory=dict)
    ids: dict[str, IdLayer] = field(default_factory=dict)
    file: str = ""
    notes: dict[str, str] = field(default_factory=dict)

    def find(self, wanted: str) -> PassInfo:
        """The pass of this name, else the first of this kind; the only picture of a source is its beauty, whatever its file is called."""
        if (found := self._sought(wanted)) is None:
            raise UmbraxError("no-pass", unknown("pass", wanted, list(self.passes)))
        return found

    def has(self, wanted: str) -> bool:
        return self._sought(wanted) is not None

    def _sought(self, wanted: str) -> PassInfo | None:
        found = self.passes.get(wanted) or next((one for one in self.passes.values() if one.kind == wanted), None)
        if found is None and wanted == "beauty" and len(self.passes) == 1:
            found = next(one for one in self.passes.values())
            return found if is_light(found.kind, shown=True) else None
        return found

    def layer(self, name: str) -> IdLayer:
        if name not in self.ids:
            raise UmbraxError("no-layer", unknown("ID layer", name, list(self.ids)))
        return self.ids[name]


class PassReader(Protocol):
    """Reads passes of the sources of one shot; frames are shot frames."""

    def describe(self, source: str, frame: int) -> FrameInfo:
        """What the frame holds; UmbraxError where it is missing or cannot be read."""
        ...

    def pixels(self, source: str, frame: int, name: str, window: Window, shown: bool = False) -> NDArray[np.float32]:
        """`float32[h, w, c]` of a pass on a full-size window inside its own: scene-linear and associated where `is_light`."""
        ...

    def keeps(self, source: str, frame: int, name: str, n: int) -> bool:
        """Whether the reader keeps a light pass reduced to 1/n as well, so that the core need not reduce it."""
        ...

    def reduced(self, source: str, frame: int, name: str, n: int, window: Window) -> NDArray[np.float32]:
        """A pass that is kept reduced, on a window at scale 1/n: bit for bit the mean of each n x n block of its pixels."""
        ...

    def typeface(self, name: str) -> bytes:
        """The font file of a typeface: sans, sans_bold, serif or mono."""
        ...

    def held(self, source: str, frame: int, layer: str) -> Window:
        """The part of an ID layer's window outside of which nothing has an ID: it need not be read."""
        ...

    def ranks(self, source: str, frame: int, layer: str, window: Window) -> tuple[NDArray[np.uint32], NDArray[np.float32]]:
        """IDs `uint32[rank, h, w]` and coverages `float32[rank, h, w]` on a full-size window."""
        ...
