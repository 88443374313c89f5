"""ID layers whose ranks lie in files of their own: a picture for each two of them, as renders with a file for each pass have them."""

import re
from collections.abc import Collection, Mapping
from dataclasses import replace

from umbrax.core.plan.reader import IdLayer

from .id_layers import Names, of_all_ranks
from .placed import Placed
from .recognise import kinds_of_ids, tells_of_ids, words_of

NUMBERED = re.compile(r"(.*\D)(\d\d)")
SEPARATORS = "._- "


def with_rank_files(
    placed: Mapping[str, Placed], ids: Mapping[str, IdLayer], wanted: Collection[str]
) -> tuple[dict[str, Placed], dict[str, IdLayer]]:
    """Passes built like ranks that lie in several files become one ID layer: `crypto_object00`, `crypto_object01` and so on.

    That they are ranks tells the metadata of one of the files, their name, or `wanted`. Names of IDs come from the metadata.
    """
    told = {name: names for one in placed.values() for name, names in one.file.ids_elsewhere.items()}
    wanted = {name.rstrip(SEPARATORS) for name in wanted}
    result, layers = dict(placed), dict(ids)
    for name, numbered in _levels(placed).items():
        known = _of_layer(name, told)
        if name in layers or not (known or name in wanted or tells_of_ids(name)):
            continue
        own = placed[numbered[0]].file.ids_elsewhere
        known = next(iter(own)) if len(own) == 1 else known
        levels = [placed[one] for one in numbered]
        merged = of_all_ranks(name, [one.found for one in levels], "the names of its files")
        if name in result:
            result[f"{name} preview"] = result.pop(name)
        for one in numbered:
            del result[one]
        attached = tuple(to for one in levels for to in one.attached)
        result[name] = Placed(replace(merged, pieces=()), levels[0].file, levels[0].inside, attached, tuple(levels))
        layers[name] = IdLayer(name, "other", len(merged.channels) // 2, merged.window, told[known] if known else None)
    kinds = kinds_of_ids([(name, layer.names) for name, layer in layers.items() if name not in ids])
    return result, {name: replace(layer, kind=kinds.get(name, layer.kind)) for name, layer in layers.items()}


def _levels(placed: Mapping[str, Placed]) -> dict[str, list[str]]:
    """What is built like ranks, by what would be the layer, in the order of its numbers from 0 on: passes of one or two ranks, of one type,
    that are all that their file holds. Halves cannot hold IDs, which the check-up tells."""
    found: dict[str, dict[int, str]] = {}
    for name, one in placed.items():
        match = NUMBERED.fullmatch(name)
        alone = len(one.file.passes) == 1 and not one.file.ids
        if match and alone and len(one.found.channels) in (2, 4) and set(one.found.types) in ({"float"}, {"half"}):
            found.setdefault(match[1].rstrip(SEPARATORS), {})[int(match[2])] = name
    whole = {
        layer: numbered
        for layer, numbered in found.items()
        if set(numbered) == set(range(len(numbered))) and len({placed[name].found.types[0] for name in numbered.values()}) == 1
    }
    return {layer: [name for _, name in sorted(numbered.items())] for layer, numbered in whole.items()}


def _of_layer(name: str, told: Mapping[str, Names]) -> str | None:
    """The layer of some metadata that is called so, whatever stands in front of it, or of this name, and however words are parted."""
    words = words_of(name)
    for one in told:
        theirs = words_of(one)
        shared = min(len(words), len(theirs))
        if shared and words[-shared:] == theirs[-shared:]:
            return one
    return None
