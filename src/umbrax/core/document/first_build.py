"""The first build of a new shot: plates at the back, shadows on them, renders put together from their lights, lines on top."""

from collections.abc import Mapping
from typing import Any

from ..checkup.sums import LightSum
from ..pictures.rebuild import all_lights, beside, light_passes
from ..plan.reader import FrameInfo

OF_REST = 0.25  # a rest that is more of the beauty than this is no rest: the passes mean something else than its lights


def first_build(sources: Mapping[str, FrameInfo], sums: Mapping[str, LightSum | None] | None = None) -> list[dict[str, Any]]:
    """Cards as document data, backmost first; every source is seen once. `sums` tells how the lights of sources add up."""
    plates, shadows, renders, lines = [], [], [], []
    for name, info in sources.items():
        kinds = [found.kind for found in info.passes.values()]
        beauty = next((found for found in info.passes.values() if found.kind == "beauty"), None)
        if set(kinds) <= {"line"}:
            lines.append(_card(name, {"kind": "pass", "source": name, "pass": next(iter(info.passes), "beauty")}))
        elif is_plate(info):
            plates.append(_card(name, {"kind": "plate", "source": name}))
        elif (picture := _rebuilt(name, info, (sums or {}).get(name))) is not None:
            renders.append(_card(name, picture))
        elif info.passes:
            renders.append(_card(name, {"kind": "pass", "source": name, "pass": beauty.name if beauty else next(iter(info.passes))}))
        if "shadow" in kinds:
            shadows.append(_shadow(f"{name} shadow", name))
    return plates + shadows + renders + lines


def is_plate(info: FrameInfo) -> bool:
    """Whether a source looks like a background: a picture without alpha, lights or IDs."""
    beauty = next((found for found in info.passes.values() if found.kind == "beauty"), None)
    return beauty is not None and not beauty.has_alpha and not light_passes(info) and not info.ids


def _rebuilt(name: str, info: FrameInfo, found: LightSum | None) -> dict[str, Any] | None:
    """A rebuild that is the beauty: its lights alone, or with what they leave of it; None where neither means anything."""
    lights = beside(info, found.lights) if found else all_lights(info)
    if len(lights) < 2 or (found is not None and (not found.plain or found.left > OF_REST)):
        return None
    if found is not None and found.left > 0 and len(found.lights) < len(lights):
        return None  # the rest is what all light passes leave: beside parts of them it would be another one
    picture: dict[str, Any] = {"kind": "rebuild", "source": name, "lights": {light: {} for light in (found.lights if found else lights)}}
    return picture | ({"rest": {}} if found is not None and found.left > 0 else {})


def _card(name: str, picture: dict[str, Any]) -> dict[str, Any]:
    return {"id": name, "picture": picture}


def _shadow(card: str, source: str) -> dict[str, Any]:
    """With what a shadow is usually darkened and softened by, which change nothing yet."""
    ready = [{"id": f"{card} levels", "kind": "levels"}, {"id": f"{card} softness", "kind": "soften", "size": 0.0}]
    return _card(card, {"kind": "shadow", "source": source}) | {"treatments": ready}
