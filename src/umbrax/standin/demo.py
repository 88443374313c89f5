"""The demo show as plain files: the renders, the plate and the shot documents."""

import json
import os
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from umbrax.core.shot import canonical, read_data
from umbrax.media.sequences import path_of_frame

from .exr import write_exr, write_frame
from .frames import render
from .plate import valley
from .scene import observatory

SHOW = "Ridge Observatory"
WIDTH, HEIGHT, FIRST, LAST = 1280, 720, 1001, 1024
STATION, VALLEY = "station/station.{frame:04d}.exr", "plates/valley.exr"
Progress = Callable[[int, int], None]


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
                        "exposure": {"keys": [[1001, -0.25, "smooth"], [1024, 0.25, "smooth"]]},
                    }
                ],
            },
            {"id": "finish", "treat": True, "treatments": [{"id": "t3", "kind": "bloom", "threshold": 1.0, "size": 30.0, "amount": 0.8}]},
        ],
    }  # fmt: skip


SHOTS: dict[str, Callable[[], dict[str, Any]]] = {"dome-at-dusk": dome_at_dusk}


def write_demo(folder: Path, *, frames: Sequence[int] = range(FIRST, LAST + 1), progress: Progress = lambda done, total: None) -> list[Path]:
    """Write what is missing of the demo and return the shot documents; what is complete is kept.

    Frames are rendered one after the other and the first is there first, so that work can start on it at once.
    """
    folder.mkdir(parents=True, exist_ok=True)
    shots = []
    for name, make in SHOTS.items():
        path = folder / f"{name}.umbrax.json"
        text = json.dumps(json.loads(canonical(read_data(make()))), indent=2, ensure_ascii=False) + "\n"
        if not path.exists() or path.read_text() != text:
            temporary = path.with_name(f".{path.name}")
            temporary.write_text(text)
            os.replace(temporary, path)
        shots.append(path)
    if not (folder / VALLEY).exists():
        plate = valley(observatory(FIRST), WIDTH, HEIGHT).astype(np.float16)
        write_exr(folder / VALLEY, {letter: np.ascontiguousarray(plate[..., i]) for i, letter in enumerate("RGB")})
    wanted = list(frames)
    # one frame is compressed and written while the next is cast
    with ThreadPoolExecutor(max_workers=1) as writer:
        pending: list[Future[None]] = []
        for done, frame in enumerate(wanted):
            progress(done, len(wanted))
            path = folder / path_of_frame(STATION, frame)
            if not path.exists():
                picture = render(observatory(frame), WIDTH, HEIGHT)
                pending.append(writer.submit(write_frame, path, picture))
                for earlier in pending[:-2]:
                    earlier.result()
                pending = pending[-2:]
        for last in pending:
            last.result()
    progress(len(wanted), len(wanted))
    return shots
