"""A frame of the stand-in as an ordinary multi-layer EXR: half for light, float for data and IDs, manifests in the header."""

import json
import os
import uuid
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
from numpy.typing import NDArray

from umbrax.core.kernels.packing import halves
from umbrax.core.mattes.hashing import id_of_name, murmur3

from .coverage import ranked
from .frames import LIGHTS, RANKS, Frame
from .raycaster import SAMPLES


def channels_of(frame: Frame) -> dict[str, NDArray[Any]]:
    """Every channel of a frame by its full name, in its own type."""
    alpha = halves(frame.alpha)
    channels: dict[str, NDArray[Any]] = {}
    for name, light in [("", frame.beauty), *((f"{light}.", frame.lights[light]) for light in LIGHTS)]:
        for index, letter in enumerate("RGB"):
            channels[name + letter] = halves(light[..., index])
        channels[f"{name}A"] = alpha
    channels["shadow.Y"] = halves(frame.shadow)
    channels["depth.Z"] = frame.depth
    for index, letter in enumerate("XYZ"):
        channels[f"normal.{letter}"] = halves(frame.normal[..., index])
    channels["object_index.Y"] = _index(frame.objects, frame.object_counts, len(frame.scene.objects))
    channels["material_index.Y"] = _index(frame.surfaces, frame.surface_counts, len(frame.scene.materials))
    for letter, materials in zip("RGB", (("white_enamel",), ("brass", "lamp_glass", "lit_room"), ("wood", "steel", "stone")), strict=True):
        channels[f"rgb_matte.{letter}"] = halves(frame.material_coverage(*materials))
    channels |= id_channels("object_ids", frame.scene.objects, frame.objects, frame.object_counts)
    channels |= id_channels("material_ids", list(frame.scene.materials), frame.surfaces, frame.surface_counts)
    return channels


def _index(kinds: NDArray[np.int16], counts: NDArray[np.uint8], names: int) -> NDArray[np.uint32]:
    """The number, from 1, of what covers most of each pixel; 0 for nothing."""
    numbers = np.arange(1, names + 1, dtype=np.uint32)
    return ranked(kinds, counts, numbers, 1, SAMPLES)[0][0]


def id_channels(layer: str, names: list[str], kinds: NDArray[np.int16], counts: NDArray[np.uint8]) -> dict[str, NDArray[Any]]:
    """Three levels of two ranks: IDs and coverages in falling order of coverage (Cryptomatte specification 1.2)."""
    hashes = np.array([id_of_name(name) for name in names], np.uint32)
    ids, coverage = ranked(kinds, counts, hashes, RANKS, SAMPLES)
    channels: dict[str, NDArray[Any]] = {}
    for rank in range(RANKS):
        letters = ("R", "G") if rank % 2 == 0 else ("B", "A")
        channels[f"{layer}{rank // 2:02d}.{letters[0]}"] = ids[rank].view(np.float32)
        channels[f"{layer}{rank // 2:02d}.{letters[1]}"] = coverage[rank]
    return channels


def id_metadata(layer: str, names: list[str]) -> dict[str, str]:
    """The four header entries by which a reader finds a layer of hashed IDs and its names."""
    prefix = f"cryptomatte/{murmur3(layer.encode()):08x}"[:19]
    manifest = json.dumps({name: f"{id_of_name(name):08x}" for name in names})
    return {
        f"{prefix}/name": layer, f"{prefix}/hash": "MurmurHash3_32", f"{prefix}/conversion": "uint32_to_float32",
        f"{prefix}/manifest": manifest,
    }  # fmt: skip


def write_exr(path: Path, channels: dict[str, NDArray[Any]], metadata: dict[str, Any] | None = None) -> None:
    """Write planes as one part; the file is complete or not there."""
    path.parent.mkdir(parents=True, exist_ok=True)
    temporary = path.with_name(f".{path.stem}.{uuid.uuid4().hex[:8]}.exr")
    # run lengths: twice as fast to write as zip, and most of a frame is empty
    header = {"compression": OpenEXR.RLE_COMPRESSION, "type": OpenEXR.scanlineimage, **(metadata or {})}
    try:
        with OpenEXR.File(header, channels) as file:
            file.write(str(temporary))
        os.replace(temporary, path)
    finally:
        temporary.unlink(missing_ok=True)


def write_frame(path: Path, frame: Frame) -> None:
    metadata = id_metadata("object_ids", frame.scene.objects) | id_metadata("material_ids", list(frame.scene.materials))
    write_exr(path, channels_of(frame), metadata)
