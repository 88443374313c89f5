"""The shot documents of the demo."""

from collections.abc import Callable
from typing import Any

WIDTH, HEIGHT, FIRST, LAST = 1280, 720, 1001, 1048
STATION, VALLEY = "station/station.{frame:04d}.exr", "plates/valley.exr"
BALLOON, INK = "balloon/balloon.{frame:04d}.exr", "ink/ink.{frame:04d}.exr"
PAPER = "plates/paper.png"
LIGHTS = ("diffuse", "specular", "reflection", "emission", "ambient")


def _objects(*names: str) -> dict[str, Any]:
    return {"kind": "id", "source": "station", "layer": "object_ids", "names": list(names)}


def _format() -> dict[str, Any]:
    return {"width": WIDTH, "height": HEIGHT, "fps": 24, "first": FIRST, "last": LAST}


def dome_at_dusk() -> dict[str, Any]:
    """The station on the plate with its shadow, rebuilt, graded through its dome and wrapped, sharp at its dome, its lamps in halos; a
    balloon behind two of its masts; a bloom over all."""
    return {
        "umbrax": 1,
        "name": "Dome at dusk",
        "format": _format(),
        "sources": {"station": {"path": STATION}, "valley": {"path": VALLEY}, "balloon": {"path": BALLOON}},
        "mattes": {
            "dome": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["dome_shell", "dome_rib_*"]},
            "brass": {"kind": "id", "source": "station", "layer": "material_ids", "names": ["brass"]},
            "mast lamps": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["mast_*_lamp"]},
            "nearer masts": _objects("mast_1*", "mast_3*"),
        },
        "build": [
            {"id": "sky", "name": "valley", "picture": {"kind": "plate", "source": "valley"}},
            {
                "id": "shadow", "picture": {"kind": "shadow", "source": "station"}, "opacity": 0.82,
                "treatments": [{"id": "t1", "kind": "soften", "size": 2.0}],
            },
            {
                "id": "station",
                "picture": {
                    "kind": "rebuild", "source": "station",
                    "lights": {"diffuse": {}, "specular": {"gain": 1.2}, "reflection": {}, "emission": {}, "ambient": {"gain": 1.1}},
                },
                "opacity": 0.98,
                "treatments": [
                    {
                        "id": "t2", "kind": "grade", "through": "dome", "saturation": 0.92, "slope": [0.97, 0.95, 1.0],
                        "exposure": {"keys": [[FIRST, -0.25, "smooth"], [LAST, 0.25, "smooth"]]},
                    },
                    {"id": "t5", "kind": "defocus", "camera": "shot", "radius": 9.0},
                    {"id": "t6", "kind": "wrap", "width": 7.0, "size": 14.0, "amount": 0.5},
                    {"id": "t7", "kind": "halo", "feed": {"matte": "mast lamps"}, "threshold": 0.0, "size": 34.0, "colour": "object",
                     "amount": {"flicker": 0.25, "of": 0.5, "every": 4, "seed": 3}},
                ],
            },
            {
                "id": "balloon", "picture": {"kind": "pass", "source": "balloon"}, "tuck": [{"behind": "nearer masts", "card": "station"}],
                "treatments": [
                    {"id": "t8", "kind": "defocus", "camera": "shot", "radius": 9.0},
                    {"id": "t4", "kind": "wrap", "width": 10.0, "size": 12.0, "amount": 0.6},
                ],
            },
            {"id": "finish", "treat": True, "treatments": [{"id": "t3", "kind": "bloom", "threshold": 1.0, "size": 30.0, "amount": 0.8}]},
        ],
        "camera": {"focus": 12.9},
    }  # fmt: skip


def field_guide_page() -> dict[str, Any]:
    """The same render as a printed page: two of its lights in three inks over a banded sky, ink lines, all of it on paper."""
    inks = [[0.0, [0.035, 0.06, 0.09], 1.0], [0.16, [0.30, 0.22, 0.17], 1.0], [0.42, [0.86, 0.72, 0.52], 1.0], [0.9, [0.95, 0.90, 0.78], 1.0]]
    return {
        "umbrax": 1,
        "name": "Field guide page",
        "format": _format(),
        "sources": {"station": {"path": STATION}, "ink": {"path": INK}, "paper": {"path": PAPER}},
        "mattes": {"lamps": _objects("mast_*_lamp", "dome_slit")},
        "build": [
            {
                "id": "sky", "name": "banded sky",
                "picture": {
                    "kind": "gradient", "start": [0, 40], "end": [0, 700], "bands": 9,
                    "stops": [
                        {"at": 0.0, "colour": [0.21, 0.31, 0.36]}, {"at": 0.55, "colour": [0.78, 0.62, 0.44]},
                        {"at": 1.0, "colour": [0.90, 0.83, 0.68]},
                    ],
                },
            },
            {
                "id": "station", "name": "two lights",
                "picture": {"kind": "rebuild", "source": "station", "lights": {"diffuse": {"gain": 1.3}, "specular": {}, "ambient": {}}},
                "treatments": [{"id": "t1", "kind": "recolour", "stops": inks, "amount": 0.82}],
            },
            {"id": "lines", "picture": {"kind": "pass", "source": "ink"}, "join": "multiply"},
            {
                "id": "glow", "name": "lamps", "picture": {"kind": "pass", "source": "station", "pass": "emission"}, "join": "screen",
                "treatments": [
                    {"id": "t2", "kind": "bloom", "feed": {"matte": "lamps"}, "threshold": 0.0, "size": 22.0, "amount": 1.6,
                     "tint": [1.0, 0.72, 0.42], "output": "spread_only"},
                ],
            },
            {
                "id": "caption", "join": "multiply",
                "picture": {
                    "kind": "text", "text": "Pl. IV.  The dome of the Ridge Observatory, from the south", "font": "serif", "size": 27,
                    "at": [640, 672], "align": "centre", "colour": [0.02, 0.018, 0.02],
                },
            },
            {"id": "paper", "picture": {"kind": "texture", "source": "paper"}, "join": "multiply", "opacity": 0.9},
            {
                "id": "finish", "treat": True,
                "treatments": [
                    {"id": "t3", "kind": "vignette", "strength": 0.18},
                    {"id": "t5", "kind": "grain", "size": 0.7, "strength": 0.01, "still": True},
                ],
            },
        ],
    }  # fmt: skip


def instrument_call_out() -> dict[str, Any]:
    """One instrument of the station shown: everything else dimmed, greyed and out of focus, a line drawn along its own edge."""
    return {
        "umbrax": 1,
        "name": "Instrument call-out",
        "format": _format(),
        "sources": {"station": {"path": STATION}, "valley": {"path": VALLEY}},
        "mattes": {
            "telescope": _objects("telescope_*"),
            "all else": {"kind": "combined", "how": "any_of", "mattes": ["telescope"], "refine": {"feather": 1.5, "invert": True}},
        },
        "build": [
            {"id": "sky", "name": "valley", "picture": {"kind": "plate", "source": "valley"}},
            {
                "id": "shadow", "picture": {"kind": "shadow", "source": "station"}, "opacity": 0.82,
                "treatments": [{"id": "t1", "kind": "soften", "size": 2.0}],
            },
            {"id": "station", "picture": {"kind": "rebuild", "source": "station", "lights": {name: {} for name in LIGHTS}}},
            {
                "id": "dim", "name": "all else, dimmed", "treat": True,
                "treatments": [
                    {"id": "t2", "kind": "grade", "through": "all else", "saturation": 0.35,
                     "exposure": {"keys": [[FIRST + 4, 0.0, "smooth"], [FIRST + 16, -1.6, "smooth"]]}},
                    {"id": "t3", "kind": "defocus", "camera": "shot",
                     "radius": {"keys": [[FIRST + 4, 0.0, "smooth"], [FIRST + 16, 36.0, "smooth"]]}},
                ],
            },
            {
                "id": "line", "name": "its outline", "treat": True,
                "treatments": [
                    {"id": "t5", "kind": "outline", "of": "telescope", "form": "open", "width": 3.5, "colour": [1.7, 1.25, 0.5],
                     "pieces": "in_turn", "end": {"keys": [[FIRST + 8, 0.0, "linear"], [FIRST + 32, 1.0, "linear"]]}},
                ],
            },
            {
                "id": "finish", "treat": True,
                "treatments": [{"id": "t4", "kind": "bloom", "feed": {"matte": "telescope"}, "threshold": 0.6, "size": 26.0, "amount": 0.5}],
            },
            {
                "id": "label",
                "picture": {
                    "kind": "text", "text": "Refractor\n150 mm, f/12, clockwork drive", "size": 25, "at": [764, 46],
                    "colour": [0.86, 0.84, 0.78], "box": {"alpha": 0.45, "margin": 14}, "leader": {"to": "telescope", "width": 2, "dot": 5},
                },
                "opacity": {"keys": [[FIRST + 10, 0.0, "smooth"], [FIRST + 16, 1.0, "smooth"]]},
            },
        ],
        "camera": {"focus": 12.55},
    }  # fmt: skip


SHOTS: dict[str, Callable[[], dict[str, Any]]] = {
    "dome-at-dusk": dome_at_dusk,
    "field-guide-page": field_guide_page,
    "instrument-call-out": instrument_call_out,
}
