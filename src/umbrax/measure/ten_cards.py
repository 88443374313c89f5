"""A shot of ten cards with six ID mattes, with and without light that spreads, at any size: what the engine is measured by."""

from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from umbrax.core.document.shot import Shot
from umbrax.core.document.text import read_data
from umbrax.standin.exr import balloon_channels, write_exr, write_frame
from umbrax.standin.frames import render
from umbrax.standin.plate import valley
from umbrax.standin.scene import balloon, observatory

from .folders import passing_folder

OBJECTS = {"dome": ["dome_shell", "dome_rib_*"], "lamps": ["mast_*_lamp"], "telescope": ["telescope_*"]}
MATERIALS = {"enamel": ["white_enamel"], "brass": ["brass"], "wood": ["wood", "steel"]}
LIGHTS = ("diffuse", "specular", "reflection", "emission", "ambient")
GRADE: dict[str, Any] = {"kind": "grade", "exposure": 0.2, "saturation": 1.1}
BLOOM: dict[str, Any] = {"kind": "bloom", "size": 40.0, "amount": 0.3}
Card = dict[str, Any]


@cache
def renders(width: int, height: int) -> Path:
    """A folder with one frame of each source."""
    folder = passing_folder()
    scene = observatory(1001)
    write_frame(folder / "station.exr", render(scene, width, height))
    write_exr(folder / "balloon.exr", *balloon_channels(render(balloon(1001), width, height)))
    write_exr(folder / "valley.exr", dict(zip("RGB", np.moveaxis(valley(scene, width, height), 2, 0), strict=True)))
    return folder


def files(folder: Path) -> list[Path]:
    return sorted(folder.glob("*.exr"))


def ten_cards(width: int, height: int, blooms: int = 0) -> Shot:
    """Ten cards; with one bloom it is on a treat card at the front, the second is on the station itself."""
    lights = {"kind": "rebuild", "source": "station", "lights": {name: {} for name in LIGHTS}}
    through = [{"id": f"through {name}", **GRADE, "contrast": 1.1, "through": name} for name in ("dome", "brass", "enamel")]
    haze = {"kind": "gradient", "end": [0, height], "stops": [{"alpha": 0.1, "at": 0}, {"alpha": 0.0, "at": 1}]}
    cards: list[Card] = [
        _graded("sky", {"kind": "plate", "source": "valley"}),
        {"id": "shadow", "picture": {"kind": "shadow", "source": "station"}, "opacity": 0.8, "treatments": [_soften(3.0)]},
        {"id": "station", "picture": lights, "treatments": through},
        *(_graded(name, {"kind": "pass", "source": "station"}, cut=[name], opacity=0.5) for name in ("lamps", "telescope", "wood")),
        _graded("balloon", {"kind": "pass", "source": "balloon"}),
        {"id": "haze", "picture": haze, "join": "screen"},
        {"id": "warm", "treat": True, "treatments": [{"id": "warmer", **GRADE}]},
        {"id": "finish", "treat": True, "treatments": [{"id": "finished", **GRADE, "contrast": 1.05}]},
    ]
    for place, name in ((-1, "bloom"), (2, "bloom of the station"))[:blooms]:
        cards[place]["treatments"].append({"id": name, **BLOOM})
    return _shot(width, height, cards)


def sixty_cards(width: int, height: int) -> Shot:
    """Sixty graded cards and two hundred mattes: what planning is measured by."""
    names = [*OBJECTS, *MATERIALS]
    mattes = {f"m{n}": {"kind": "combined", "how": "any_of", "mattes": [names[n % 6], names[(n + 1) % 6]]} for n in range(194)}
    cards = [
        {
            "id": f"card {n}", "cut": [names[n % 6]], "treatments": [{"id": f"t{n}", "kind": "grade", "exposure": n / 60, "through": f"m{n}"}],
            "picture": {"kind": "rebuild", "source": "station", "lights": {name: {"gain": 1 + n / 100} for name in LIGHTS}},
        }
        for n in range(60)
    ]  # fmt: skip
    return _shot(width, height, cards, mattes)


def softened(width: int, height: int, size: float) -> Shot:
    """A blurred card over a plate."""
    balloon_card = {"id": "balloon", "picture": {"kind": "pass", "source": "balloon"}, "treatments": [_soften(size)]}
    return _shot(width, height, [{"id": "sky", "picture": {"kind": "plate", "source": "valley"}}, balloon_card])


def _graded(name: str, picture: Card, **more: Any) -> Card:
    return {"id": name, "picture": picture, "treatments": [{"id": f"{name} graded", **GRADE}], **more}


def _soften(size: float) -> Card:
    return {"id": "soften", "kind": "soften", "size": size}


def _shot(width: int, height: int, cards: list[Card], mattes: Card | None = None) -> Shot:
    layers = (("object_ids", OBJECTS), ("material_ids", MATERIALS))
    ids = {
        name: {"kind": "id", "source": "station", "layer": layer, "names": wanted} for layer, sets in layers for name, wanted in sets.items()
    }
    return read_data({
        "umbrax": 1, "name": "ten cards", "format": {"width": width, "height": height, "first": 1001, "last": 1001},
        "sources": {name: {"path": f"{name}.exr"} for name in ("valley", "station", "balloon")},
        "mattes": ids | (mattes or {}), "build": cards,
    })  # fmt: skip
