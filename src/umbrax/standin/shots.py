"""The shot documents of the demo."""

from collections.abc import Callable
from typing import Any

WIDTH, HEIGHT, FIRST, LAST = 1280, 720, 1001, 1048
STATION, VALLEY = "station/station.{frame:04d}.exr", "plates/valley.exr"


def dome_at_dusk() -> dict[str, Any]:
    """The shot of the first demo: plate, shadow, the station rebuilt and graded through its dome, a bloom over all."""
    return {
        "umbrax": 1,
        "name": "Dome at dusk",
        "format": {"width": WIDTH, "height": HEIGHT, "fps": 24, "first": FIRST, "last": LAST},
        "sources": {"station": {"path": STATION}, "valley": {"path": VALLEY}},
        "mattes": {
            "dome": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["dome_shell", "dome_rib_*"]},
            "brass": {"kind": "id", "source": "station", "layer": "material_ids", "names": ["brass"]},
            "mast lamps": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["mast_*_lamp"]},
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
                    }
                ],
            },
            {"id": "finish", "treat": True, "treatments": [{"id": "t3", "kind": "bloom", "threshold": 1.0, "size": 30.0, "amount": 0.8}]},
        ],
    }  # fmt: skip


SHOTS: dict[str, Callable[[], dict[str, Any]]] = {"dome-at-dusk": dome_at_dusk}
