"""Numbers in names of files that tell ranks of ID layers, not frames."""

from collections.abc import Iterable, Mapping

from .recognise import tells_of_ids

Numbered = dict[tuple[str, str], dict[int, str]]  # by what stands before a number and what after it: the numbers as they are written
RANK = 2  # digits
MOST_FILES = 8  # of one layer, each with two of its ranks


def parted_by_rank(numbered: Numbered) -> tuple[Numbered, list[str]]:
    """`crypto000001`, `crypto000002`, `crypto010001` and `crypto010002` are frames 1 and 2 of the ranks 00 and 01 of a layer; `crypto00` and
    `crypto01`, beside pictures without such numbers, are stills, whose names come after the rest."""
    pictures = [set(numbers) for (before, _), numbers in numbered.items() if not tells_of_ids(before)]
    parted: Numbered = {}
    stills: list[str] = []
    for (before, ending), numbers in numbered.items():
        if not tells_of_ids(before):
            parted[before, ending] = numbers
        elif _are_ranks(numbers.values()) and set(numbers) not in pictures:
            stills += [f"{before}{number}{ending}" for number in numbers.values()]
        else:
            by_rank = _by_rank(numbers) or {"": numbers}
            parted |= {(f"{before}{rank}", ending): frames for rank, frames in by_rank.items()}
    return parted, stills


def _by_rank(numbers: Mapping[int, str]) -> dict[str, dict[int, str]]:
    """Frames by rank; none where the ranks do not have the same frames."""
    ranks: dict[str, dict[int, str]] = {}
    for text in numbers.values():
        ranks.setdefault(text[:RANK], {})[int(text[RANK:] or 0)] = text[RANK:]
    alike = len({frozenset(frames.values()) for frames in ranks.values()}) == 1 and len({len(text) for text in numbers.values()}) == 1
    return ranks if alike and _are_ranks(ranks) and all(len(text) > RANK for text in numbers.values()) else {}


def _are_ranks(texts: Iterable[str]) -> bool:
    told = sorted(texts)
    return 1 < len(told) <= MOST_FILES and told == [f"{n:0{RANK}}" for n in range(len(told))]
