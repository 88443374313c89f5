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

from .casting.packets import SAMPLES
from .coverage import ranked
from .frames import LIGHTS, RANKS, Frame
from .scene import Scene

PACKED = (("white_enamel", "latex"), ("brass", "lamp_glass", "lit_room"), ("wood", "steel", "stone", "lens_glass"))
Channels = dict[str, NDArray[Any]]


def channels_of(frame: Frame) -> tuple[Channels, dict[str, str]]:
    """Every channel of a frame by its full name, in its own type, and what the header says of its IDs."""
    channels: Channels = {}
    for name, light in [("", frame.beauty), *((f"{light}.", frame.lights[light]) for light in LIGHTS)]:
        channels |= _light(name, light, frame.alpha)
    channels["shadow.Y"] = halves(frame.shadow)
    channels["depth.Z"] = frame.depth
    for index, letter in enumerate("XYZ"):
        channels[f"normal.{letter}"] = halves(frame.normal[..., index])
        channels[f"position.{letter}"] = np.ascontiguousarray(frame.position[..., index])
    for index, letter in enumerate("XY"):
        channels[f"motion.{letter}"] = halves(frame.motion[..., index])
    channels["object_index.Y"] = _index(frame, _objects(frame.scene))
    channels["material_index.Y"] = _index(frame, _materials(frame.scene))
    for letter, materials in zip("RGB", PACKED, strict=True):
        channels[f"rgb_matte.{letter}"] = halves(frame.material_coverage(*materials))
    metadata: dict[str, str] = {}
    layers = {"object_ids": _objects(frame.scene), "material_ids": _materials(frame.scene), "asset_ids": _assets(frame.scene)}
    for layer, names in layers.items():
        channels |= _id_channels(frame, layer, names)
        metadata |= id_metadata(layer, names)
    return channels, metadata


def balloon_channels(frame: Frame) -> tuple[Channels, dict[str, str]]:
    """The balloon by itself: its light, its highlights as a pass of their own, depth and object IDs."""
    channels = _light("", frame.beauty, frame.alpha) | _light("specular.", frame.lights["specular"], frame.alpha)
    channels["depth.Z"] = frame.depth
    names = _objects(frame.scene)
    return channels | _id_channels(frame, "object_ids", names), id_metadata("object_ids", names)


def picture_channels(pixels: NDArray[np.float32]) -> Channels:
    """An associated RGBA picture."""
    return _light("", pixels, pixels[..., 3])


def _light(prefix: str, light: NDArray[np.float32], alpha: NDArray[np.float32]) -> Channels:
    channels = {f"{prefix}{letter}": halves(light[..., index]) for index, letter in enumerate("RGB")}
    return channels | {f"{prefix}A": halves(alpha)}


def _objects(scene: Scene) -> list[str]:
    return [thing.object for thing in scene.things]


def _materials(scene: Scene) -> list[str]:
    return [thing.material for thing in scene.things]


def _assets(scene: Scene) -> list[str]:
    return [thing.asset for thing in scene.things]


def _names(names: list[str]) -> tuple[list[str], NDArray[np.int64]]:
    """The different names in the order they come, and which of them each thing has."""
    different = list(dict.fromkeys(names))
    return different, np.array([different.index(name) for name in names], np.int64)


def _index(frame: Frame, names: list[str]) -> NDArray[np.uint32]:
    """The number, from 1, of what covers most of each pixel; 0 for nothing."""
    different, kind_of = _names(names)
    numbers = np.arange(1, len(different) + 1, dtype=np.uint32)
    first: NDArray[np.uint32] = ranked(frame.seen, frame.counts, kind_of, numbers, 1, SAMPLES)[0][0]
    return first


def _id_channels(frame: Frame, layer: str, names: list[str]) -> dict[str, NDArray[Any]]:
    """Three levels of two ranks: IDs and coverages in falling order of coverage (Cryptomatte specification 1.2)."""
    different, kind_of = _names(names)
    hashes = np.array([id_of_name(name) for name in different], np.uint32)
    ids, coverage = ranked(frame.seen, frame.counts, kind_of, hashes, RANKS, SAMPLES)
    channels: dict[str, NDArray[Any]] = {}
    for rank in range(RANKS):
        letters = ("R", "G") if rank % 2 == 0 else ("B", "A")
        channels[f"{layer}{rank // 2:02d}.{letters[0]}"] = ids[rank].view(np.float32)
        channels[f"{layer}{rank // 2:02d}.{letters[1]}"] = coverage[rank]
    return channels


def id_metadata(layer: str, names: list[str]) -> dict[str, str]:
    """The four header entries by which a reader finds a layer of hashed IDs and its names."""
    names = list(dict.fromkeys(names))
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
        with OpenEXR.File(header, dict(channels)) as file:  # it puts objects of its own into the dict
            file.write(str(temporary))
        os.replace(temporary, path)
    finally:
        temporary.unlink(missing_ok=True)


def write_frame(path: Path, frame: Frame) -> None:
    write_exr(path, *channels_of(frame))
