"""What can be isolated at a point: each ID, number or channel there is an offer that becomes a matte."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..errors import UmbraxError
from ..picture import Window
from ..plan.reader import PassInfo, PassReader
from .hits import LEAST, Hit, Touched

Item = dict[str, Any]
COLOURS = ("red", "green", "blue", "alpha")
INDEX_KINDS = ("object_index", "material_index")
PACKED_KINDS = ("rgb_matte", "single_matte", "coverage")


@dataclass(frozen=True)
class Offer:
    """A matte that could be made: `parts` are the settings of its mattes by their titles, crossed where there are several.

    `coverage` is what it holds of the touched pixel, `place` where it comes from.
    """

    titles: tuple[str, ...]
    parts: tuple[Item, ...]
    place: str
    coverage: float

    @property
    def title(self) -> str:
        return " x ".join(self.titles)

    @property
    def kind(self) -> str:
        return "crossed" if len(self.parts) > 1 else str(self.parts[0]["kind"])


def crossed(first: Offer, second: Offer) -> Offer:
    place = first.place if first.place == second.place else f"{first.place}, {second.place}"
    return Offer(first.titles + second.titles, first.parts + second.parts, place, min(first.coverage, second.coverage))


def of_hit(source: str, hit: Hit) -> Offer:
    item = {"kind": "id", "source": source, "layer": hit.layer, "names": [hit.shown_name]}
    return Offer((hit.shown_name,), (item,), hit.layer, hit.coverage)


def of_ids(found: Touched) -> list[Offer]:
    """Every ID under the point: the most covered of each layer first, then what is behind or beside it in the pixel."""
    firsts = [hit for index, hit in enumerate(found.hits) if all(hit.layer != other.layer for other in found.hits[:index])]
    rest = sorted((hit for hit in found.hits if hit not in firsts), key=lambda hit: -hit.coverage)
    return [of_hit(found.source, hit) for hit in (*firsts, *rest)]


def named(found: Touched, on: str) -> Offer:
    """The object, the material or the asset at a point, or `both`, object and material crossed."""
    if on == "both":
        return crossed(named(found, "object"), named(found, "material"))
    hit = found.first(on)
    if hit is None:
        other = "object" if on == "material" else "material"
        raise UmbraxError("no-ids", f"nothing names the {on} here; touch another place or use the {other}")
    return of_hit(found.source, hit)


def of_passes(reader: PassReader, frame: int, found: Touched, looked_at: str | None = None) -> list[Offer]:
    """The numbers of index passes and the channels of packed mattes at the point, the pass that is looked at first."""
    info = reader.describe(found.source, frame)
    passes = sorted(info.passes.values(), key=lambda one: one.name != looked_at)
    return [offer for one in passes for offer in _of_pass(reader, frame, found, one)]


def _of_pass(reader: PassReader, frame: int, found: Touched, own: PassInfo) -> Iterator[Offer]:
    here = Window(found.x, found.y, found.x + 1, found.y + 1)
    if own.kind not in (*INDEX_KINDS, *PACKED_KINDS) or not own.window.contains(here):
        return
    values = reader.pixels(found.source, frame, own.name, here)[0, 0]
    if own.kind in INDEX_KINDS:
        number = float(values[0])
        if np.isfinite(number) and round(number) != 0:
            item: Item = {"kind": "index", "source": found.source, "pass": own.name, "numbers": [round(number)]}
            yield Offer((f"number {round(number)}",), (item,), own.name, 1.0)
        return
    several = len(values) > 1
    for index in np.argsort(-values, kind="stable"):
        value = float(values[index])
        if value > LEAST and index < len(COLOURS):
            # a single channel of two or one is read as red
            colour = "alpha" if own.has_alpha and index == len(values) - 1 else COLOURS[index]
            item = {"kind": "channel", "source": found.source, "pass": own.name, "channel": colour}
            yield Offer((f"{own.name} {colour}" if several else own.name,), (item,), own.name, min(value, 1.0))
