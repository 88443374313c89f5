"""Recognising passes by channel and layer names: any prefix and separator, case-insensitive, word by word."""

import re
from collections.abc import Collection
from dataclasses import dataclass
from functools import lru_cache

BEAUTY = ("beauty", "combined", "rgba", "rgb", "color", "colour", "final", "image")
# the words of a name, in the order they are tried; the first rule whose words all stand in the name wins
RULES: tuple[tuple[str, tuple[str, ...]], ...] = (
    (
        "surface_colour",
        (
            "albedo",
            "diffuse filter",
            "surface colour",
            "surface color",
            "basecolor",
            "base color",
            "diff col",
            "raw colour",
        ),
    ),
    ("object_index", ("object index", "index ob", "object id index", "indexob", "objectindex", "objindex", "obj index")),
    ("material_index", ("material index", "index ma", "indexma", "materialindex", "matindex", "mat index", "mtlindex")),
    ("rgb_matte", ("rgb matte", "multi matte", "rgbmatte", "matte rgb", "mattes", "masks")),
    ("single_matte", ("matte", "mask", "puzzle", "mattes", "masks")),
    ("occlusion", ("ambient occlusion", "occlusion", "ao")),
    ("shadow", ("shadow", "shadows", "shadow catcher")),
    ("depth", ("depth", "z", "zdepth", "depthz", "zbuffer")),
    ("position", ("position", "worldpos", "pos", "pworld", "worldposition")),
    ("normal", ("normal", "normals", "n")),
    ("motion", ("motion", "velocity", "motionvector", "vector", "motion vector")),
    ("uv", ("uv", "uvs", "st", "texcoord")),
    ("coverage", ("coverage",)),
    ("line", ("line", "lines", "ink", "toon", "contour", "outline", "freestyle")),
    ("subsurface", ("subsurface", "sss")),
    ("volume", ("volume", "volumetric", "vol", "fog")),
    ("coat", ("coat", "clearcoat", "clear coat")),
    ("sheen", ("sheen",)),
    ("reflection", ("reflection", "reflections", "reflect", "refl")),
    ("refraction", ("refraction", "refractions", "refract", "refr", "transmission", "trans")),
    ("specular", ("specular", "spec", "gloss", "glossy", "highlight")),
    (
        "emission",
        ("emission", "emissive", "emit", "self illumination", "selfillum", "selfillumination", "incandescence", "glow"),
    ),
    ("light_group", ("light group", "light groups", "lightgroup", "lightgroups", "light select", "lightselect")),
    ("ambient", ("ambient", "env", "environment", "ambient light")),
    ("diffuse", ("diffuse", "diff", "direct", "indirect", "gi", "global illumination", "lighting")),
    ("beauty", BEAUTY),
)
OF = (("indirect", ("indirect", "ind", "gi", "bounce")), ("direct", ("direct", "dir")))

ID_RULES = (
    ("object", ("object", "objects", "obj", "node", "mesh", "shape", "instance")),
    ("material", ("material", "materials", "mat", "mtl", "shader", "surface")),
    ("asset", ("asset", "assets", "group", "collection", "namespace")),
)
ID_WORDS = ("id", "ids", "objectid", "objectids", "materialid", "materialids", "matid", "objid", "assetid")


@dataclass(frozen=True)
class Recognised:
    """The kind of a pass, the reason in words, and whether a light is direct or indirect."""

    kind: str
    why: str
    of: str | None = None


@lru_cache(maxsize=20_000)
def words_of(name: str) -> tuple[str, ...]:
    """`ViewLayer.DiffDir_01` -> view, layer, diff, dir; letters of any script belong to their word."""
    spaced = re.sub(r"([a-z0-9])([A-Z])", r"\1 \2", name)
    spaced = re.sub(r"([A-Z]+)([A-Z][a-z])", r"\1 \2", spaced)
    return tuple(word for word in re.split(r"[\W\d_]+", spaced.lower()) if word)


def letter_of(channel: str) -> str:
    """`ViewLayer.DiffDir.R` -> r."""
    return channel.rsplit(".", 1)[-1].lower()


def _stands_in(phrase: str, words: tuple[str, ...], joined: str) -> bool:
    parts = phrase.split()
    if len(parts) == 1 and len(phrase) > 4 and phrase in joined.split():
        return True
    return any(list(words[i : i + len(parts)]) == parts for i in range(len(words) - len(parts) + 1)) or ("".join(parts) in words)


@lru_cache(maxsize=20_000)
def recognise(name: str, channels: tuple[str, ...], types: tuple[str, ...] = ()) -> Recognised:
    """The kind of a pass from its layer name and its channels' last names."""
    words = words_of(name)
    short = tuple(_LETTERS.get(letter, letter) for letter in map(letter_of, channels))
    joined = " ".join(words)
    integer = bool(types) and all(kind in ("uint", "u8", "u16") for kind in types) and len(channels) == 1
    for kind, phrases in RULES:
        for phrase in phrases:
            if kind == "rgb_matte" and len(short) in (1, 2):
                continue  # several mattes need several channels
            if _stands_in(phrase, words, joined):
                return Recognised(kind, f"the name says {phrase!r}", _direct_or_not(words) if kind in _LIT else None)
    if integer and any(word in words for word in ("id", "index", "object", "material")):
        return Recognised("material_index" if "material" in words else "object_index", "whole numbers and a name of an index")
    if not words or short in _PLAIN_RGB:
        if short in _PLAIN_RGB and name in ("", "rgba"):
            return Recognised("beauty", "unnamed red, green and blue")
        if short == ("z",):
            return Recognised("depth", "a single channel Z")
    if words == ("p",) and short == ("x", "y", "z"):
        return Recognised("position", "P with X, Y and Z (common practice)")
    if short in (("y",), ("y", "a")) and not words:
        return Recognised("beauty", "an unnamed grey picture")
    return Recognised("other", "nothing in the name tells")


def kinds_of_ids(layers: list[tuple[str, Collection[str] | None]]) -> dict[str, str]:
    """What each ID layer of a file tells apart: object, material, asset or other; the layers by name with their manifests' names.

    Where no name says object, the layer with the most names is taken for it (the first one without manifests), and so the
    next one for material: there are more objects than materials in what is rendered (common practice).
    """
    kinds = {name: kind_of_ids(name) or "other" for name, _ in layers}
    unknown = sorted((one for one in layers if kinds[one[0]] == "other"), key=lambda one: -len(one[1] or ()))
    for kind in ("object", "material"):
        if unknown and kind not in kinds.values():
            kinds[unknown.pop(0)[0]] = kind
    return kinds


def kind_of_ids(name: str) -> str | None:
    """What the IDs of a name tell apart, where it says so."""
    return next((kind for kind, phrases in ID_RULES if _names(name, phrases)), None)


def tells_of_ids(name: str) -> bool:
    """Whether a name tells of ID layers; what a file holds of them its metadata tells."""
    words = words_of(name)
    return any(word.startswith("crypto") or word in ID_WORDS for word in words)


def _names(name: str, phrases: tuple[str, ...]) -> bool:
    words = words_of(name)
    return any(_stands_in(phrase, words, " ".join(words)) or (len(phrase) > 4 and phrase in name.lower()) for phrase in phrases)


_LETTERS = {"red": "r", "green": "g", "blue": "b", "alpha": "a"}
_PLAIN_RGB = (("r", "g", "b"), ("r", "g", "b", "a"))
_LIT = ("diffuse", "specular", "reflection", "refraction", "subsurface", "volume", "emission")


def _direct_or_not(words: tuple[str, ...]) -> str | None:
    for of, phrases in OF:
        if any(word in phrases for word in words):
            return of
    return None
