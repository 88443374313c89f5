"""Which primaries the colours of a file have, and what turns them into the working space."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from umbrax.core.colour import PRIMARIES, SAME, WORKING, Chromaticities, Working, primaries_matrix

from .file_info import FileInfo

# names of colour spaces that programs write into headers, of light that is linear
TAGS = {"acescg": "lin_ap1", "aces2065-1": "lin_ap0"} | {f"{name}{end}": name for name in PRIMARIES for end in ("", "_scene")}

OF_CODES = {"pq": "lin_rec2020", "hlg": "lin_rec2020"}  # Recommendation ITU-R BT.2100-2, table 2


def told_chromaticities(spec: Any) -> Chromaticities | None:
    """What a header says: the chromaticities of OpenEXR, or that it is a container of SMPTE ST 2065-4, whose primaries are AP0."""
    told = spec.getattribute("chromaticities")
    if told is not None and len(told) == 8:
        return tuple(float(value) for value in told)  # type: ignore[return-value]
    return PRIMARIES["lin_ap0"] if spec.getattribute("acesImageContainerFlag") == 1 else None


def chromaticities_of(colour: str, file: FileInfo) -> Chromaticities | None:
    """Of light that a source has set to a colour space, or that a file says; None where nothing is said."""
    if colour != "auto":
        return PRIMARIES.get(OF_CODES.get(colour, colour))
    tagged = TAGS.get(file.colour_tag.lower())
    return file.chromaticities or (PRIMARIES[tagged] if tagged else None)


def to_working(colour: str, file: FileInfo, working: Working = WORKING) -> NDArray[np.float32] | None:
    """What turns linear colours of a file into those that are worked in, `float32[3, 3]`; None where they are that, or are to stay raw.

    Where nothing is said they have the primaries of BT.709 (common practice of pictures for a display).
    """
    if colour == "raw":
        return None
    return primaries_matrix(chromaticities_of(colour, file) or PRIMARIES[WORKING], PRIMARIES[working])


def is_turned(file: FileInfo, working: Working = WORKING) -> bool:
    """Whether a file's colours are other light than they lie in it: by what it says, or by what is worked in."""
    return file.curve is not None or to_working("auto", file, working) is not None


def told_primaries(file: FileInfo) -> str | None:
    """What a file says of its primaries: the name of a colour space, or `other`; None where it says nothing."""
    told = chromaticities_of("auto", file)
    if told is None:
        return None
    return next((name for name, known in PRIMARIES.items() if np.allclose(known, told, rtol=0, atol=SAME)), "other")
