"""Rules about passes that hold nothing: constant, empty, of the wrong polarity."""

from typing import Any

import numpy as np

from .base import RULES, Examined, Fault, Finding, Measures, Rule, percent, share
from .ids import unannounced_ranks

MEANINGS = {
    "shadow": "nothing caught a shadow; render it with a catcher",
    "object_index": "every pixel has the same index; give the objects numbers and render it again",
    "material_index": "every pixel has the same index; give the materials numbers and render it again",
    "ids": "no pixel is covered; render the IDs again",
}


def _constants(frame: Examined) -> dict[str, tuple[str, Any]]:
    """What is constant in this frame: passes by name, channels of matte passes by name and channel."""
    found: dict[str, tuple[str, Any]] = {}
    # the last ranks of IDs are often empty, also where nobody told that they are ranks
    ranks = {name for names in unannounced_ranks(frame).values() for name in names}
    for info in frame.info.passes.values():
        if info.name in ranks:
            continue
        raw = frame.raw(info.name)
        if raw.constant:
            found[info.name] = (info.kind, tuple(float(v) for v in raw.outside))
        elif info.kind == "rgb_matte":
            for index, channel in enumerate(info.channels):
                if raw.outside[index] == 0 and not raw.values[..., index].any():
                    found[f"{info.name} {channel.rsplit('.', 1)[-1]}"] = ("rgb_matte", (0.0,))
    for layer in frame.info.ids:
        if not frame.ranks(layer)[1].any():
            found[layer] = ("ids", (0.0,))
    return found


def _judge_constants(source: str, measures: Measures) -> list[Finding]:
    findings = []
    frames = tuple(sorted(measures))
    for name, (kind, value) in (measures[frames[0]] if frames else {}).items():
        if any(measures[frame].get(name) != (kind, value) for frame in frames):
            continue
        told = ", ".join(f"{number:g}" for number in dict.fromkeys(value))
        what = MEANINGS.get(kind, "look whether it was rendered at all")
        severity: Any = "warning" if kind in MEANINGS or kind == "beauty" else "note"
        message = f"the pass is {told} everywhere on every frame: {what}"
        findings.append(Finding("constant-pass", source, name, frames, severity, message, {"value": list(value)}))
    return findings


RULES.register(Rule("constant-pass", "Holds nothing", _constants, _judge_constants))


def _polarity(frame: Examined) -> list[Fault]:
    """Where no element stands most ground is lit: white there means light, black means that white is shadow."""
    faults = []
    for found in frame.of_kind("shadow"):
        if frame.raw(found.name).constant:
            continue
        colours = frame.colours(found)
        value = colours.mean(axis=2)
        alpha = frame.alpha_on(found.window)
        outside = value[alpha < 0.01] if alpha is not None and share(alpha < 0.01) > 0.05 else value.ravel()
        bright, dark = share(outside > 0.9), share(outside < 0.1)
        if dark < 0.5 or bright > 0.3:
            continue
        coloured = colours.shape[2] == 3 and float(np.abs(colours[..., 0] - colours[..., 2]).max()) > 0.02
        meaning, polarity = ("the light taken away", "taken") if coloured else ("white where shadow falls", "shadow")
        faults.append(
            Fault(
                found.name,
                f"{percent(dark)} of the open ground is black: the pass holds {meaning}, not white where light falls",
                {"dark": round(dark, 4), "bright": round(bright, 4)},
                remedy={"do": "set", "polarity": polarity},
            )
        )
    return faults


RULES.register(Rule("shadow-polarity", "Shadow polarity", _polarity))
