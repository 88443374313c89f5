"""Light told apart by lamps: beauties of single lights beside the whole one, and parts of light passes that are there whole."""

from dataclasses import replace

from umbrax.core.plan.reader import GROUP, LIGHTS

from .file_info import FilePass
from .recognise import BEAUTY, words_of

# what is called so after a beauty is another way to see all of it, no lamp
OTHERWISE = {
    "denoised", "denoise", "noisy", "noise", "raw", "filtered", "unfiltered", "variance", "error", "albedo", "normal", "alpha",
    "crop", "preview", "proxy", "half", "full", "left", "right", "main", "pass", "layer",
}  # fmt: skip


def with_light_groups(passes: list[FilePass]) -> list[FilePass]:
    """`RGBA_key` and `RGBA_fill` beside a beauty are the light of lamps; `diffuse_key` and `diffuse_fill` beside `diffuse` are parts of it.

    A single such beauty may be anything, and stays one.
    """
    whole = [found for found in passes if found.kind == "beauty" and _lamp_of_beauty(found) is None]
    lamps = [found for found in passes if found.kind == "beauty" and any(_is_lamp_of(found, other) for other in whole)]
    if len(lamps) > 1:
        passes = [replace(found, kind=GROUP, why="the beauty of one light") if found in lamps else found for found in passes]
    of = {found.name: _part_of_light(found, passes) for found in passes if found.kind in LIGHTS and found.of is None}
    return [replace(found, of=of[found.name]) if of.get(found.name) else found for found in passes]


def _lamp_of_beauty(found: FilePass) -> tuple[str, ...] | None:
    """The words after those of a beauty; None where there are none."""
    words = words_of(found.name.rpartition(".")[2])
    if not words or words[0] not in BEAUTY:
        return None
    return words[1:] if len(words) > 1 and not set(words) & OTHERWISE else None


def _is_lamp_of(found: FilePass, whole: FilePass) -> bool:
    """Whether it is called like a beauty with a lamp's name after it, in the same layer or beside an unnamed one."""
    layer = found.name.rpartition(".")[0]
    named = not words_of(whole.name) or whole.name in ("rgba", "RGBA") or whole.name.rpartition(".")[0] == layer
    return _lamp_of_beauty(found) is not None and named and (found.view, found.window) == (whole.view, whole.window)


def _part_of_light(found: FilePass, passes: list[FilePass]) -> str | None:
    """What a light's name says after that of another light of its kind, which then holds it."""
    words = words_of(found.name)
    shorter = (words_of(one.name) for one in passes if one.kind == found.kind and one.of is None and one.view == found.view)
    return next((" ".join(words[len(one) :]) for one in shorter if one and len(one) < len(words) and words[: len(one)] == one), None)
