"""ICC profiles in pictures: the primaries and the curve of those that have a matrix and curves (ICC.1:2010; the tags are its chapter 9)."""

import struct
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umbrax.core.colour import D65, Chromaticities, adaptation, linear_from_srgb, white_of

from .file_info import CodeCurve

HEADER, ENTRY = 128, 12
MOST_TAGS = 100
D50 = np.array([0.9642, 1.0, 0.8249])  # ICC.1:2010, 7.2.16
# numbers of a parametric curve by its type, and where among g, a, b, c, d, e, f they go (ICC.1:2010, table 65)
PARAMETERS = {0: "g", 1: "gab", 2: "gabc", 3: "gabcd", 4: "gabcdef"}
ALIKE = 1 / 1024  # a curve that is nowhere farther from the sRGB curve is that


@dataclass(frozen=True)
class Profile:
    """`curve` is None for the sRGB curve."""

    chromaticities: Chromaticities
    curve: CodeCurve | None


def read_profile(data: bytes) -> Profile | None:
    """None for what is no profile, or one of tables that no matrix stands for. Curves of the channels are taken for alike: that of green."""
    try:
        tags = _tags(data)
        columns = np.array([_xyz(tags[name]) for name in (b"rXYZ", b"gXYZ", b"bXYZ")]).T
        return Profile(_chromaticities(columns), _curve(tags[b"gTRC"]))
    except (KeyError, ValueError, struct.error, np.linalg.LinAlgError):
        return None


def _tags(data: bytes) -> dict[bytes, bytes]:
    if data[36:40] != b"acsp" or data[16:20] != b"RGB " or data[20:24] != b"XYZ ":
        raise ValueError("no profile of red, green and blue with a matrix")
    (count,) = struct.unpack_from(">I", data, HEADER)
    if count > MOST_TAGS:
        raise ValueError("more tags than any profile has")
    found = {}
    for number in range(count):
        name, start, size = struct.unpack_from(">4sII", data, HEADER + 4 + number * ENTRY)
        found[name] = data[start : start + size]
    return found


def _xyz(tag: bytes) -> NDArray[np.float64]:
    kind, x, y, z = struct.unpack_from(">4s4xiii", tag)
    if kind != b"XYZ ":
        raise ValueError("no XYZ")
    return np.array([x, y, z]) / 65536


def _chromaticities(columns: NDArray[np.float64]) -> Chromaticities:
    """Of what a profile has adapted to D50, seen in daylight again: the primaries of the display that it is of, where its white is D65."""
    adapted = adaptation(D50, white_of(*D65)) @ columns
    sums = adapted.sum(axis=0)
    if not (np.abs(sums) > 1e-6).all():
        raise ValueError("no primaries")
    (rx, gx, bx), (ry, gy, by) = adapted[0] / sums, adapted[1] / sums
    return (float(rx), float(ry), float(gx), float(gy), float(bx), float(by), *D65)


def _curve(tag: bytes) -> CodeCurve | None:
    kind = tag[:4]
    if kind == b"para":
        (number,) = struct.unpack_from(">H", tag, 8)
        names = PARAMETERS[number]
        given = dict(zip(names, (value / 65536 for value in struct.unpack_from(f">{len(names)}i", tag, 12)), strict=True))
        curve = CodeCurve("power", _parameters(number, given))
    elif kind == b"curv":
        (count,) = struct.unpack_from(">I", tag, 8)
        values = struct.unpack_from(f">{count}H", tag, 12)
        if count > 1:
            curve = CodeCurve("table", tuple(value / 65535 for value in values))
        else:  # none: light itself; one: a gamma with eight bits behind the point
            curve = CodeCurve("power", _parameters(0, {"g": values[0] / 256 if values else 1.0}))
    else:
        raise ValueError("no curve")
    codes = np.linspace(0, 1, 256)
    light = light_by(curve, codes)
    if not np.isfinite(light).all():
        raise ValueError("no curve")
    return None if np.abs(light - linear_from_srgb(codes)).max() <= ALIKE else curve


def _parameters(number: int, given: dict[str, float]) -> tuple[float, ...]:
    """All seven numbers, whichever of the five functions has fewer."""
    g, a, b = given["g"], given.get("a", 1.0), given.get("b", 0.0)
    if number in (1, 2):  # nothing below the place where the power begins; in the second both stand on c
        rest = given.get("c", 0.0)
        return g, a, b, 0.0, -b / a, rest, rest
    return g, a, b, given.get("c", 0.0), given.get("d", -1.0), given.get("e", 0.0), given.get("f", 0.0)


def light_by(curve: CodeCurve, code: NDArray[np.floating]) -> NDArray[np.float64]:
    """Light of codes 0..1 by a power or a table."""
    x = np.asarray(code, np.float64)
    if curve.kind == "table":
        return np.asarray(np.interp(x, np.linspace(0, 1, len(curve.numbers)), np.array(curve.numbers)))
    g, a, b, c, d, e, f = curve.numbers
    return np.where(x >= d, np.power(np.maximum(a * x + b, 0), g) + e, c * x + f)
