"""Files as other programs write them, made by the OpenEXR package alone."""

import json
from pathlib import Path
from typing import Any

import mmh3
import numpy as np
import OpenEXR


def bits_as_float(values: np.ndarray) -> np.ndarray:
    return np.ascontiguousarray(values.astype(np.uint32)).view(np.float32)


def id_of(name: str) -> int:
    """The specification's hash by way of the mmh3 package."""
    value = mmh3.hash(name.encode(), 0, signed=False)
    return value ^ (1 << 23) if (value >> 23) & 0xFF in (0, 255) else value


def id_header(layer: str, names: list[str] | None, *, key: str = "1a2b3c4") -> dict[str, str]:
    header = {
        f"cryptomatte/{key}/name": layer, f"cryptomatte/{key}/hash": "MurmurHash3_32",
        f"cryptomatte/{key}/conversion": "uint32_to_float32",
    }  # fmt: skip
    if names is not None:
        header[f"cryptomatte/{key}/manifest"] = json.dumps({name: f"{id_of(name):08x}" for name in names})
    return header


def id_planes(layer: str, ids: np.ndarray, coverage: np.ndarray, *, letters: str = "RGBA", dtype: Any = np.float32) -> dict[str, np.ndarray]:
    """Rank planes `[rank, h, w]` as channels, two ranks a level."""
    channels = {}
    for rank in range(len(ids)):
        first, second = (letters[0], letters[1]) if rank % 2 == 0 else (letters[2], letters[3])
        channels[f"{layer}{rank // 2:02d}.{first}"] = bits_as_float(ids[rank])
        channels[f"{layer}{rank // 2:02d}.{second}"] = np.ascontiguousarray(coverage[rank].astype(dtype))
    return channels


def write(path: Path, channels: dict[str, np.ndarray], header: dict[str, Any] | None = None) -> Path:
    full = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage, **(header or {})}
    with OpenEXR.File(full, dict(channels)) as file:
        file.write(str(path))
    return path


def write_parts(path: Path, parts: list[tuple[str, dict[str, np.ndarray], dict[str, Any]]]) -> Path:
    made = [
        OpenEXR.Part({"compression": OpenEXR.ZIPS_COMPRESSION, "type": OpenEXR.scanlineimage, **header}, dict(channels), name)
        for name, channels, header in parts
    ]
    with OpenEXR.File(made) as file:
        file.write(str(path))
    return path
