"""The first build of a new shot: plates at the back, shadows on them, renders put together from their lights, lines on top."""

from typing import Any

from ..plan.reader import LIGHTS, FrameInfo


def first_build(sources: dict[str, FrameInfo]) -> list[dict[str, Any]]:
    """Cards as document data, backmost first; every source is seen once."""
    plates, shadows, renders, lines = [], [], [], []
    for name, info in sources.items():
        kinds = [found.kind for found in info.passes.values()]
        beauty = next((found for found in info.passes.values() if found.kind == "beauty"), None)
        lights = [found.name for found in info.passes.values() if found.kind in LIGHTS and found.view is None]
        if set(kinds) <= {"line"}:
            lines.append(_card(name, {"kind": "pass", "source": name, "pass": next(iter(info.passes))}))
        elif not lights and not info.ids and beauty is not None and not beauty.has_alpha:
            plates.append(_card(name, {"kind": "plate", "source": name}))
        elif len(lights) >= 2:
            picture = {"kind": "rebuild", "source": name, "lights": {light: {} for light in lights}}
            renders.append(_card(name, picture))
        elif info.passes:
            renders.append(_card(name, {"kind": "pass", "source": name, "pass": beauty.name if beauty else next(iter(info.passes))}))
        if "shadow" in kinds:
            shadows.append(_card(f"{name} shadow", {"kind": "shadow", "source": name}))
    return plates + shadows + renders + lines


def _card(name: str, picture: dict[str, Any]) -> dict[str, Any]:
    return {"id": name, "picture": picture}
