"""A shot of ten cards with six ID mattes, with and without light that spreads, at any size: what the engine is measured by."""

import tempfile
from collections.abc import Iterator
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

MATTES = {
    "dome": ("object_ids", ["dome_shell", "dome_rib_*"]), "lamps": ("object_ids", ["mast_*_lamp"]), "telescope": ("object_ids", ["telescope_*"]),
    "enamel": ("material_ids", ["white_enamel"]), "brass": ("material_ids", ["brass"]), "wood": ("material_ids", ["wood", "steel"]),
}  # fmt: skip
LIGHTS = ("diffuse", "specular", "reflection", "emission", "ambient")


@cache
def renders(width: int, height: int) -> Path:
    """A folder with one frame of each source."""
    folder = Path(tempfile.mkdtemp(prefix="umbrax-measure-"))
    scene = observatory(1001)
    write_frame(folder / "station.exr", render(scene, width, height))
    write_exr(folder / "balloon.exr", *balloon_channels(render(balloon(1001), width, height)))
    write_exr(folder / "valley.exr", {name: plane for name, plane in zip("RGB", np.moveaxis(valley(scene, width, height), 2, 0), strict=True)})
    return folder


def ten_cards(width: int, height: int, blooms: int = 0) -> Shot:
    """Ten cards; with one bloom it is on a treat card at the front, the second is on the station itself."""
    grade: dict[str, Any] = {"kind": "grade", "exposure": 0.2, "saturation": 1.1}
    station = {"kind": "rebuild", "source": "station", "lights": {name: {} for name in LIGHTS}}
    cards: list[dict[str, Any]] = [
        {"id": "sky", "picture": {"kind": "plate", "source": "valley"}, "treatments": [{"id": "a", **grade}]},
        {"id": "shadow", "picture": {"kind": "shadow", "source": "station"}, "opacity": 0.8, "treatments": [{"id": "b", "kind": "soften", "size": 3.0}]},
        {"id": "station", "picture": station, "treatments": [
            {"id": f"c{n}", **grade, "contrast": 1.1, "through": name} for n, name in enumerate(("dome", "brass", "enamel"))]},
        *({"id": f"again {name}", "picture": {"kind": "pass", "source": "station"}, "cut": [name], "opacity": 0.5, "treatments": [{"id": f"d {name}", **grade}]}
          for name in ("lamps", "telescope", "wood")),
        {"id": "balloon", "picture": {"kind": "pass", "source": "balloon"}, "treatments": [{"id": "e", **grade}]},
        {"id": "haze", "picture": {"kind": "gradient", "end": [0, height], "stops": [{"alpha": 0.1, "at": 0}, {"alpha": 0.0, "at": 1}]}, "join": "screen"},
        {"id": "warm", "treat": True, "treatments": [{"id": "f", **grade}]},
        {"id": "finish", "treat": True, "treatments": [{"id": "g", **grade, "contrast": 1.05}]},
    ]  # fmt: skip
    bloom = {"kind": "bloom", "size": 40.0, "amount": 0.3}
    if blooms > 0:
        cards[-1]["treatments"].append({"id": "bloom", **bloom})
    if blooms > 1:
        cards[2]["treatments"].append({"id": "bloom 2", **bloom})
    return _shot(width, height, cards)


def sixty_cards(width: int, height: int) -> Shot:
    """Sixty graded cards and two hundred mattes: what planning is measured by."""
    names = list(MATTES)
    extra = {f"m{n}": {"kind": "combined", "how": "any_of", "mattes": [names[n % 6], names[(n + 1) % 6]]} for n in range(194)}
    cards = [
        {"id": f"card {n}", "picture": {"kind": "rebuild", "source": "station", "lights": {name: {"gain": 1 + n / 100} for name in LIGHTS}},
         "cut": [names[n % 6]], "treatments": [{"id": f"t{n}", "kind": "grade", "exposure": n / 60, "through": f"m{n}"}]}
        for n in range(60)
    ]  # fmt: skip
    return _shot(width, height, cards, extra)


def _shot(width: int, height: int, cards: list[dict[str, Any]], mattes: dict[str, Any] | None = None) -> Shot:
    return read_data({
        "umbrax": 1, "name": "ten cards", "format": {"width": width, "height": height, "first": 1001, "last": 1001},
        "sources": {name: {"path": f"{name}.exr"} for name in ("valley", "station", "balloon")},
        "mattes": {name: {"kind": "id", "source": "station", "layer": layer, "names": wanted} for name, (layer, wanted) in MATTES.items()} | (mattes or {}),
        "build": cards,
    })  # fmt: skip


def on_a_card(width: int, height: int, treatment: dict[str, Any]) -> Shot:
    """One treatment on a card over a plate."""
    return _shot(width, height, [
        {"id": "sky", "picture": {"kind": "plate", "source": "valley"}},
        {"id": "balloon", "picture": {"kind": "pass", "source": "balloon"}, "treatments": [{"id": "t", **treatment}]},
    ])  # fmt: skip


def files(folder: Path) -> Iterator[Path]:
    yield from sorted(folder.glob("*.exr"))
