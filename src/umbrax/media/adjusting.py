"""What a source's settings change in how its passes are read: kinds, alpha, polarity, levels, repairs, a backdrop taken out."""

import math
from collections.abc import Container
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from umbrax.core.document.sources import Backdrop, PassSetting, Source
from umbrax.core.kernels.ids import sum_of_ranks
from umbrax.core.picture import Window
from umbrax.core.plan.reader import LIT, FrameInfo, PassInfo
from umbrax.core.repair.backdrop import REACH as BACKDROP_REACH
from umbrax.core.repair.backdrop import without_backdrop
from umbrax.core.repair.depth import SNAP_REACH, axis_depth, snapped
from umbrax.core.repair.indices import by_majority
from umbrax.core.repair.light import REACH, repaired
from umbrax.core.repair.shifting import shifted

NOTHING_SET = PassSetting()
Pixels = NDArray[np.float32]


def adjusted_info(info: FrameInfo, source: Source) -> FrameInfo:
    """Passes with the kinds and alphas that were set; settings for passes that are not there do nothing."""
    passes = dict(info.passes)
    for name, setting in source.passes.items():
        if name in passes:
            passes[name] = replace(passes[name], kind=setting.kind or passes[name].kind, alpha=setting.alpha)
    told: dict[str, object] = {name: setting.model_dump() for name, setting in sorted(source.passes.items()) if name in passes}
    if (backdrop := backdrop_in(source, info.passes, info.ids)) is not None:
        told["backdrop"] = backdrop.model_dump()
        passes = {name: _with_alpha(found) if found.kind == "beauty" else found for name, found in passes.items()}
    return replace(info, passes=passes, identity=f"{info.identity} {told}") if told else info


def _with_alpha(found: PassInfo) -> PassInfo:
    """A picture out of which a backdrop is taken has an alpha afterwards, also where the file had none."""
    return found if found.has_alpha else replace(found, channels=(*found.channels, "A"), has_alpha=True)


def backdrop_in(source: Source, passes: Container[str], layers: Container[str]) -> Backdrop | None:
    """The backdrop to be taken out of a frame: none where its ID layer is not there, without its picture where that is not."""
    backdrop = source.backdrop
    if backdrop is None or backdrop.layer not in layers:
        return None
    return backdrop if backdrop.clean is None or backdrop.clean in passes else backdrop.model_copy(update={"clean": None})


def takes_backdrop(backdrop: Backdrop | None, kind: str, name: str) -> bool:
    """Whether a pass loses its backdrop: light does, but not the picture of the backdrop alone."""
    return backdrop is not None and kind in LIT and name != backdrop.clean


def reach_of(setting: PassSetting, backdrop: bool) -> int:
    """How many pixels around a window the adjustment looks at."""
    own = SNAP_REACH if setting.snap else REACH if setting.repair or setting.round else 0
    moved = max(math.ceil(abs(by)) for by in setting.shift)
    return own + moved + (BACKDROP_REACH if backdrop else 0)


def adjusted(pixels: Pixels, has_alpha: bool, setting: PassSetting, window: Window, display: Window) -> Pixels:
    """Values `float32[h, w, c]` on a window after everything that was set for the pass."""
    if setting.repair:
        pixels = repaired(pixels)
    colours = pixels[..., :-1] if has_alpha else pixels
    if setting.round:
        for channel in range(colours.shape[2]):
            colours[..., channel] = by_majority(np.ascontiguousarray(colours[..., channel]))
    if setting.snap:
        colours[..., 0] = snapped(np.ascontiguousarray(colours[..., 0]))
    if setting.ray_focal is not None:
        offsets = (window.x0 + 0.5 - display.width / 2, window.y0 + 0.5 - display.height / 2)
        colours[..., 0] = axis_depth(colours[..., 0], offsets, setting.ray_focal)
    if setting.polarity in ("shadow", "taken"):
        np.subtract(1, colours, out=colours)
    if setting.black != 0 or setting.white != 1:
        colours[:] = np.clip((colours - setting.black) / (setting.white - setting.black), 0, 1)
    return shifted(pixels, *setting.shift) if any(setting.shift) else pixels


def bared(pixels: Pixels, has_alpha: bool, beauty: bool, coverage: Pixels, clean: Pixels | None) -> Pixels:
    """Light without the backdrop; a beauty's alpha becomes what the objects cover, a light pass keeps as many channels as it has."""
    colours = pixels[..., :-1] if has_alpha else pixels
    own = without_backdrop(colours, coverage, None if clean is None else clean[..., : colours.shape[2]])
    if not (has_alpha or beauty):
        return own
    return np.concatenate([own, np.clip(coverage, 0, 1)[..., None]], axis=2)


def covered(ids: NDArray[np.uint32], coverage: Pixels) -> Pixels:
    """How much of each pixel objects cover, `float32[h, w]`: all ranks but those of ID 0."""
    return sum_of_ranks(ids, coverage)[..., 0]


def grown(window: Window, reach: int, limit: Window) -> Window:
    return window.grown(reach).intersect(limit) if reach else window
