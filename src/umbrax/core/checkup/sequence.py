"""Rules about frames and what their headers say: holes, damaged and differing frames, colour tags."""

from collections import Counter
from itertools import chain, islice, pairwise
from typing import get_args

from ..colour import WORKING, Working
from ..errors import UmbraxError
from ..plan.reader import PassInfo
from .base import RULES, Examined, Fault, Finding, Rule

Hole = tuple[int, int]  # the first and the last frame that are not there
MOST = 10_000  # holes that are told one by one
ENCODED = ("srgb", "srgb_tx", "rec709", "gamma", "bt709", "srgb_rec709_scene", "g22_rec709_scene")
LINEAR = ("linear", "lin_", "scene_linear", "raw", "acescg", "lin_rec709")

CODES_IN_WORDS = {
    "film_log": "logarithmic film densities",
    "pq": "those of HDR by the perceptual quantizer (BT.2100)",
    "hlg": "those of HDR by hybrid log-gamma (BT.2100)",
}
PRIMARIES_IN_WORDS = {
    "lin_rec709": "BT.709", "lin_ap1": "ACEScg (AP1)", "lin_ap0": "ACES2065-1 (AP0)", "lin_rec2020": "BT.2020", "lin_p3d65": "P3 D65",
}  # fmt: skip


def damaged_frames(source: str, problems: dict[int, UmbraxError]) -> list[Finding]:
    """Frames that cannot be read, one finding for each reason."""
    by_reason: dict[str, list[int]] = {}
    for frame, problem in sorted(problems.items()):
        by_reason.setdefault(problem.code, []).append(frame)
    return [
        Finding("frames", source, None, tuple(frames), "error", problems[frames[0]].message, {"code": code, "count": len(frames)})
        for code, frames in by_reason.items()
    ]


def holes_of(frames: list[int]) -> list[Hole]:
    """What is not there between the first frame and the last; none of none."""
    return [(one + 1, other - 1) for one, other in pairwise(sorted(set(frames))) if other > one + 1]


def frames_in(holes: list[Hole]) -> list[int]:
    """The frames of holes one by one, no more than the first `MOST`."""
    return list(islice(chain.from_iterable(range(first, last + 1) for first, last in holes), MOST))


def count_in(holes: list[Hole]) -> int:
    """How many frames holes are, all of them."""
    return sum(last - first + 1 for first, last in holes)


def missing_frames(source: str, present: list[int]) -> list[Finding]:
    """Holes between the first and the last frame."""
    holes = holes_of(present)
    if not holes:
        return []
    frames, count = frames_in(holes), count_in(holes)
    told = ", ".join(map(str, frames[:6])) + (" …" if count > 6 else "")
    message = f"{'frame' if count == 1 else 'frames'} {told} {'is' if count == 1 else 'are'} missing; render them, or hold the nearest"
    return [Finding("frames", source, None, tuple(frames), "error", message, {"missing": count}, {"do": "set", "missing": "hold"})]


def differing_frames(source: str, sizes: dict[int, tuple[int, int]]) -> list[Finding]:
    """Frames of another size than most."""
    if len(set(sizes.values())) < 2:
        return []
    usual = Counter(sizes.values()).most_common(1)[0][0]
    others = {frame: size for frame, size in sorted(sizes.items()) if size != usual}
    first = next(iter(others.values()))
    message = f"{len(others)} frames are {first[0]} x {first[1]} instead of {usual[0]} x {usual[1]}; render them again"
    return [Finding("frames", source, None, tuple(others), "error", message, {"usual": list(usual), "other": list(first)})]


def differing_ranges(ranges: dict[str, tuple[int, int]]) -> list[Finding]:
    """Sequences of one show whose first or last frame is not that of most."""
    if len(set(ranges.values())) < 2:
        return []
    usual = Counter(ranges.values()).most_common(1)[0][0]
    findings = []
    for source, (first, last) in ranges.items():
        if (first, last) != usual:
            message = f"runs from {first} to {last}, other sources from {usual[0]} to {usual[1]}"
            findings.append(Finding("frames", source, None, (), "note", message, {"range": [first, last], "usual": list(usual)}))
    return findings


RULES.register(Rule("frames", "Frames", lambda frame: None, lambda source, measures: []))


def _colour_space(frame: Examined) -> list[Fault]:
    if frame.beauty is None:
        return []
    return _turned(frame, frame.beauty.name) or _wrongly_tagged(frame, frame.beauty)


def _turned(frame: Examined, beauty: str) -> list[Fault]:
    """What is right already, but changes how a picture looks."""
    told, working = frame.reader.tags.get("primaries"), frame.reader.tags.get("working", WORKING)
    into = f"turned to {PRIMARIES_IN_WORDS[working]} on reading"
    if told is None:
        if working == WORKING or frame.reader.types.get(beauty) not in ("half", "float"):
            return []
        message = f"the file does not say what primaries its colours have: read as BT.709 and {into}; set them where they are others"
        return [Fault(beauty, message, {"primaries": None}, "note", {"do": "set", "colour": working})]
    if told == working:
        return []
    space = PRIMARIES_IN_WORDS.get(told, "no space that has a name")
    message = f"the file says that its colours have the primaries of {space}: {into}"
    remedy = {"do": "work-in", "working": told} if told in get_args(Working) else None
    return [Fault(beauty, message, {"primaries": told}, "note", remedy)]


def _wrongly_tagged(frame: Examined, beauty: PassInfo) -> list[Fault]:
    tag = frame.reader.tags.get("colour_space", "")
    if not tag:
        return []
    if tag in CODES_IN_WORDS:
        message = f"the file says that its codes are {CODES_IN_WORDS[tag]}: read as such; set the colour where it looks washed out or crushed"
        return [Fault(beauty.name, message, {"tag": tag}, "note")]
    coded = frame.reader.types.get(beauty.name) in ("u8", "u16")
    lowered = tag.lower()
    largest = float(frame.colours(beauty).max())
    if not coded and any(name in lowered for name in ENCODED) and not lowered.startswith(LINEAR) and largest > 1.01:
        message = f"the file says {tag!r}, which ends at 1, but light goes up to {largest:.3g}: it is linear"
        return [Fault(beauty.name, message, {"tag": tag, "largest": round(largest, 3)}, remedy={"do": "set", "colour": "lin_rec709"})]
    if coded and lowered.startswith(LINEAR) and frame.reader.types.get(beauty.name) == "u8":
        message = f"the file says {tag!r}, but 8 bits cannot hold linear light without banding: it is probably encoded"
        return [Fault(beauty.name, message, {"tag": tag, "largest": round(largest, 3)}, remedy={"do": "set", "colour": "srgb_tx"})]
    return []


RULES.register(Rule("colour-space", "Colour tags", _colour_space))
