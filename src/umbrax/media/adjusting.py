"""What a source's settings change in how its passes are read: kinds, alpha, polarity, levels and repairs."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from umbrax.core.mending import REACH, by_majority, mended
from umbrax.core.picture import Window
from umbrax.core.reading import FrameInfo
from umbrax.core.shot import PassSetting

NOTHING_SET = PassSetting()


def adjusted_info(info: FrameInfo, settings: Mapping[str, PassSetting]) -> FrameInfo:
    """Passes with the kinds and alphas that were set; settings for passes that are not there do nothing."""
    passes = dict(info.passes)
    for name, setting in settings.items():
        if name in passes:
            passes[name] = replace(passes[name], kind=setting.kind or passes[name].kind, alpha=setting.alpha)
    told = {name: setting.model_dump() for name, setting in sorted(settings.items()) if name in passes}
    return replace(info, passes=passes, identity=f"{info.identity} {told}") if told else info


def reach_of(setting: PassSetting) -> int:
    """How many pixels around a window the adjustment looks at."""
    return REACH if setting.repair or setting.round else 0


def adjusted(pixels: NDArray[np.float32], has_alpha: bool, setting: PassSetting) -> NDArray[np.float32]:
    """Values `float32[h, w, c]` after the repairs, the polarity and the levels that were set."""
    if setting.repair:
        pixels = mended(pixels)
    colours = pixels[..., :-1] if has_alpha else pixels
    if setting.round:
        for channel in range(colours.shape[2]):
            colours[..., channel] = by_majority(np.ascontiguousarray(colours[..., channel]))
    if setting.polarity in ("shadow", "taken"):
        np.subtract(1, colours, out=colours)
    if setting.black != 0 or setting.white != 1:
        colours[:] = np.clip((colours - setting.black) / (setting.white - setting.black), 0, 1)
    return pixels


def grown(window: Window, reach: int, limit: Window) -> Window:
    return window.grown(reach).intersect(limit) if reach else window
