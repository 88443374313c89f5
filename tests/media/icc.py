"""ICC profiles put together by hand, of a matrix and curves (ICC.1:2010)."""

import struct
from typing import Any

import numpy as np

# Bradford-adapted to D50, as they stand in profiles: of Display P3 (EG 432-1 with D65) and of a gamut with a wider green
P3 = ((0.51512, 0.24120, -0.00105), (0.29198, 0.69225, 0.04189), (0.15710, 0.06657, 0.78407))
WIDE = ((0.60974, 0.31111, 0.01947), (0.20528, 0.62567, 0.06087), (0.14919, 0.06322, 0.74457))
BT709 = ((0.43607, 0.22249, 0.01392), (0.38515, 0.71687, 0.09708), (0.14307, 0.06061, 0.71410))
SRGB_CURVE = struct.pack(">4s4xHxx5i", b"para", 3, *(round(one * 65536) for one in (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)))
GAMMA = struct.pack(">4s4xIH", b"curv", 1, 563)  # 2.19921875, common practice for wide gamuts


def table(light: Any, count: int = 1024) -> bytes:
    values = np.rint(np.clip(light(np.linspace(0, 1, count)), 0, 1) * 65535).astype(int)
    return struct.pack(f">4s4xI{count}H", b"curv", count, *values)


def profile(colorants: Any, curve: bytes) -> bytes:
    """A display's profile with a matrix and curves, put together by hand (ICC.1:2010, 7 and 8.3.3)."""
    text = struct.pack(">4s4xII2sHII", b"mluc", 1, 12, b"en", 0x5553, 2, 28) + "a".encode("utf-16-be") + b"\0\0"
    xyz = {name: struct.pack(">4s4x3i", b"XYZ ", *(round(one * 65536) for one in values)) for name, values in
           zip((b"rXYZ", b"gXYZ", b"bXYZ", b"wtpt"), (*colorants, (0.9642, 1.0, 0.8249)), strict=True)}  # fmt: skip
    tags = {b"desc": text, b"cprt": text, **xyz, **dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), curve + b"\0" * (-len(curve) % 4))}
    start = 128 + 4 + 12 * len(tags)
    entries, body = b"", b""
    for name, data in tags.items():
        entries += struct.pack(">4sII", name, start + len(body), len(data))
        body += data
    size = start + len(body)
    header = struct.pack(">I4xI4s4s4s12x4s4xIII8xI3i", size, 0x04200000, b"mntr", b"RGB ", b"XYZ ", b"acsp", 0, 0, 0, 0, 63190, 65536, 54061)
    return header.ljust(128, b"\0") + struct.pack(">I", len(tags)) + entries + body
