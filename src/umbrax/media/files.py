"""What is inside a picture file, from its header."""

from contextlib import closing
from pathlib import Path
from typing import Any

import OpenImageIO as oiio

from umbrax.core.colour import Chromaticities
from umbrax.core.errors import UmbraxError, Where
from umbrax.core.picture import Window

from .channels import by_file_name, orientation_of, passes_of_part, turned, unique, with_beauty
from .file_info import CodeCurve, FileInfo, told_aspect
from .id_layers import id_layers
from .light_groups import with_light_groups
from .opening import as_text, bad_file, identity_of, open_input, reading
from .primaries import told_chromaticities
from .profiles import read_profile

LARGEST_BYTES = 16 << 30
FILM_LOG = ("Logarithmic", "Printing density")  # transfer characteristics of SMPTE ST 268
NOTE = "umbrax/"  # in front of the names of attributes this product writes into its own files


def inspect(path: Path) -> FileInfo:
    """Read a file's header; UmbraxError with one clear line where that is not possible."""
    with reading(path), closing(open_input(path)) as source:
        specs: list[Any] = []
        while source.seek_subimage(len(specs), 0):
            specs.append(source.spec())
            if len(specs) > 1000:
                break
        if not specs:
            raise bad_file(path, oiio.geterror())
        for spec in specs:
            _check_size(path, spec)
        first = specs[0]
        origin = (first.full_x, first.full_y)
        metadata = {as_text(a.name): a.value for spec in specs for a in spec.extra_attribs if a.name.lower().startswith("cryptomatte/")}
        notes = {a.name.removeprefix(NOTE): as_text(a.value) for a in first.extra_attribs if a.name.startswith(NOTE)}
        if all(spec.deep for spec in specs):
            raise UmbraxError(
                "deep-picture", f"{path.name!r} is deep: it has several samples in a pixel; write it flat", where=Where(file=str(path))
            )
        passes = [
            p for number, spec in enumerate(specs) if not spec.deep for p in passes_of_part(spec, number, origin, specs, source.format_name())
        ]
        passes, ids, elsewhere = id_layers(passes, metadata, path)
        passes = with_light_groups(with_beauty(passes, several=len(specs) > 1))
        if len(passes) == 1 and passes[0].name.lower() in ("rgba", "xyz", "z"):
            passes = [by_file_name(passes[0], path)]
        curve, chromaticities = _colours_told(first)
        return FileInfo(
            str(path), identity_of(path), source.format_name(),
            Window(0, 0, *turned(orientation_of(first), first.full_width, first.full_height)),
            passes[0].window if passes else Window(0, 0, 0, 0),
            tuple(unique(passes)), ids, elsewhere, as_text(first.getattribute("compression") or ""),
            as_text(first.getattribute("colorSpace") or first.getattribute("oiio:ColorSpace") or ""),
            curve, chromaticities, _aspect_told(first), notes=notes,
        )  # fmt: skip


def _aspect_told(spec: Any) -> float:
    wide, high = turned(orientation_of(spec), told_aspect(spec.getattribute("PixelAspectRatio")), 1.0)
    return wide / high


def _colours_told(spec: Any) -> tuple[CodeCurve | None, Chromaticities | None]:
    """What a header says of codes and primaries: of a film, in OpenEXR, or by the profile of a picture of whole numbers."""
    if str(spec.getattribute("dpx:Transfer")) in FILM_LOG:
        return CodeCurve("film_log"), None
    told = told_chromaticities(spec)
    data = spec.getattribute("ICCProfile") if str(spec.format) in ("uint8", "uint16") else None
    profile = None if told or data is None else read_profile(bytes(data))
    return (None, told) if profile is None else (profile.curve, profile.chromaticities)


def _check_size(path: Path, spec: Any) -> None:
    if min(spec.width, spec.height, spec.full_width, spec.full_height, spec.nchannels) < 1:
        raise bad_file(path, f"its size is {spec.width} x {spec.height} with {spec.nchannels} channels")
    if max(spec.width, spec.height, spec.full_width, spec.full_height) > 65536 or spec.width * spec.height * spec.nchannels * 4 > LARGEST_BYTES:
        raise bad_file(path, f"its size of {spec.width} x {spec.height} with {spec.nchannels} channels is more than can be read")
