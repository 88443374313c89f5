"""Rules about light passes: their alpha, and pixels that cannot be light."""

from typing import Any

import cv2
import numpy as np

from ..colour import linear_from_srgb
from ..pictures.data_values import is_nothing
from ..plan.reader import LIT, PARTS, PICTURE_KINDS
from ..repair.light import FIREFLY, fireflies
from .base import LUMA, RULES, Examined, Fault, Rule, listed, percent, share

CODED = ("u8", "u16")


def _no_alpha(frame: Examined) -> list[Fault]:
    beauty = frame.beauty
    if beauty is None or not beauty.has_alpha:
        # a plate has no alpha and needs none; a render with other passes does
        if beauty is None or not (frame.of_kind(*PARTS) or frame.info.ids):
            return []
        return [Fault(beauty.name, "the beauty has no alpha: nothing tells where the elements are; render it with alpha", severity="error")]
    without = [found.name for found in frame.of_kind(*PARTS) if not found.has_alpha and found.alpha is None]
    remedy: dict[str, Any] = {"do": "set", "alpha": beauty.name}
    if len(without) == 1:
        return [Fault(without[0], f"the pass has no alpha; take that of {beauty.name!r}", severity="note", remedy=remedy)]
    if not without:
        return []
    message = f"{len(without)} light passes have no alpha ({listed(without)}); take that of {beauty.name!r} for all of them"
    return [Fault(None, message, {"passes": without}, "note", remedy | {"passes": without})]


RULES.register(Rule("no-alpha", "No alpha", _no_alpha))


def _bad_pixels(frame: Examined) -> list[Fault]:
    faults = []
    for found in frame.of_kind(*PICTURE_KINDS):
        raw = frame.raw(found.name)
        if raw.constant or frame.reader.types.get(found.name) in CODED:
            continue
        values = raw.values[..., : raw.values.shape[2] - int(found.has_alpha)]
        if values.min() >= -1e-4 and values.max() < FIREFLY:  # false for NaN as well
            continue
        finite = np.isfinite(values)
        bad = int(values.size - np.count_nonzero(finite))
        negative = int(np.count_nonzero(values < -1e-4))
        flies = int(np.count_nonzero(fireflies(values))) if found.kind in LIT else 0
        counts = {"not_finite": bad, "negative": negative, "fireflies": flies}
        if not any(counts.values()):
            continue
        told = [f"{count} {name.replace('_', ' ')}" for name, count in counts.items() if count]
        y, x = _first(~finite if bad else values < -1e-4) if bad or negative else (0, 0)
        at = {"at": [x + raw.box.x0, y + raw.box.y0]} if bad or negative else {}
        faults.append(
            Fault(
                found.name,
                f"values that cannot be light: {', '.join(told)}",
                counts | at,
                "warning" if bad or flies else "note",
                {"do": "set", "repair": True},
                weight=float(bad + negative + flies),
                placed=True,
            )
        )
    return faults


def _first(mask: Any) -> tuple[int, int]:
    y, x = np.unravel_index(int(mask.any(axis=2).argmax()), mask.shape[:2])
    return int(y), int(x)


RULES.register(Rule("bad-pixels", "Impossible pixels", _bad_pixels))


def baked_backdrop(frame: Examined) -> list[Fault]:
    """A picture whose alpha is 1 everywhere although objects do not cover it."""
    if frame.beauty is None or frame.alpha is None or float(frame.alpha.min()) < 0.999:
        return []
    by = frame.covering_layer(frame.beauty.window)
    empty = 0.0 if by is None else share(frame.covered(by) < 0.5)
    for depth in frame.of_kind("depth"):
        empty = max(empty, share(is_nothing(frame.whole(depth.name)[..., 0])))
    if empty < 0.02:
        return []
    return [
        Fault(
            frame.beauty.name,
            f"alpha is 1 everywhere although {percent(empty)} of the frame holds no object: a backdrop is rendered in; "
            + ("it can be taken out by what the IDs cover" if by else "render without it"),
            {"share": round(empty, 4)},
            remedy={"do": "set-source", "backdrop": {"layer": by}} if by else None,
            what="backdrop",
            placed=by is not None,
        )
    ]


RULES.register(Rule("baked-backdrop", "Backdrop rendered in", baked_backdrop))


def _association(frame: Examined) -> list[Fault]:
    """At a rim of coverage a, associated light is a times what stands inside it; unassociated light is the same as inside."""
    if frame.beauty is None or frame.alpha is None or frame.beauty.name in frame.reader.associated:
        return []
    coded = frame.reader.types.get(frame.beauty.name) in CODED
    told = frame.beauty.name in frame.reader.unassociated
    colours = frame.colours(frame.beauty)
    if colours.shape[2] != 3:
        return []
    light = np.nan_to_num(linear_from_srgb(colours) if coded else colours) @ LUMA
    alpha = frame.alpha
    solid = (alpha > 0.98).astype(np.float32)
    near = cv2.blur(solid, (5, 5))
    inside = cv2.blur(light * solid, (5, 5)) / np.maximum(near, 1e-6)
    rim = (alpha > 0.1) & (alpha < 0.7) & (near > 0.03) & (inside > 0.02) & (inside < 5)
    if np.count_nonzero(rim) < 60:
        return []
    ratio = light[rim] / inside[rim]
    associated, plain = float(np.median(np.abs(ratio - alpha[rim]))), float(np.median(np.abs(ratio - 1)))
    measure = {"rim_pixels": int(np.count_nonzero(rim)), "if_associated": round(associated, 3), "if_not": round(plain, 3)}
    if not told and plain < 0.6 * associated:
        message = "colours are not multiplied by alpha at the rims, which this file promises; edges would be too bright"
        return [Fault(frame.beauty.name, message, measure, remedy={"do": "set", "association": "multiply"})]
    if told and associated < 0.6 * plain:
        message = "colours are multiplied by alpha already, which this file denies; edges would be too dark"
        return [Fault(frame.beauty.name, message, measure, remedy={"do": "set", "association": "as_is"})]
    return []


RULES.register(Rule("association", "Alpha association", _association))
