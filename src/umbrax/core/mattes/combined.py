"""Combined mattes: all of, any of, except, exactly one of, multiplied.

Unrefined ID mattes of one layer are combined as sets of names, which is exact. All others combine by value:
all_of = min, any_of = max, except = min(a, 1 - b), one_of = largest min(m, 1 - max of the others), product.
"""

from collections.abc import Mapping
from functools import reduce
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.parameters import MatteReference
from ..document.timing import at_frame
from ..errors import UmbraxError
from ..picture import Edge, Picture, union_of
from ..plan.steps import Planner, Step, pointwise
from .base import MATTES, MatteKind, MatteParams
from .ids import IdMatte, set_planes
from .refining import outside

How = Literal["all_of", "any_of", "except", "one_of", "product"]
Planes = NDArray[np.float32]


class CombinedMatte(MatteParams):
    """A matte made of other mattes; `except` takes the first and removes all the others."""

    kind: Literal["combined"]
    how: How
    mattes: tuple[MatteReference, ...] = Field(min_length=1)


def combine_values(how: How, values: list[Planes]) -> Planes:
    """Combine coverages or shares in 0..1, all of one shape.

    >>> float(combine_values("except", [np.float32([1.0]), np.float32([0.25])])[0])
    0.75
    """
    if how == "all_of":
        return reduce(np.minimum, values)
    if how == "any_of":
        return reduce(np.maximum, values)
    if how == "product":
        return reduce(np.multiply, values)
    if how == "except":
        return reduce(np.minimum, [values[0], *(np.float32(1) - other for other in values[1:])])
    alone = [
        reduce(np.minimum, [value, *(np.float32(1) - other for j, other in enumerate(values) if j != i)]) for i, value in enumerate(values)
    ]
    return reduce(np.maximum, alone)


def combine_sets(how: How, sets: list[frozenset[int]]) -> frozenset[int] | None:
    """The same on sets of IDs; None where only values can be combined."""
    if how == "all_of":
        return frozenset.intersection(*sets)
    if how == "any_of":
        return frozenset.union(*sets)
    if how == "except":
        return sets[0].difference(*sets[1:])
    if how == "one_of":
        return frozenset(i for i in frozenset.union(*sets) if sum(i in s for s in sets) == 1)
    return None


def beyond(mattes: Mapping[str, MatteParams], matte_id: str, frame: int) -> Edge:
    """What a matte is where nothing stands of what it is pulled from: all of it where it is inverted, or made of one that is."""
    params = at_frame(mattes[matte_id], frame)
    around: Edge = "empty"
    if isinstance(params, CombinedMatte):
        around = _joined_edge(params.how, [(beyond(mattes, ref.matte, frame), ref.invert) for ref in params.mattes])
    return "one" if outside(around, params.refine) == 1 else "empty"


def _joined_edge(how: How, edges: list[tuple[Edge, bool]]) -> Edge:
    """What stands outside of a combination of mattes that have these outside, some of them inverted."""
    values = [np.full(1, (edge == "one") != invert, np.float32) for edge, invert in edges]
    return "one" if combine_values(how, values)[0] == 1 else "empty"


def as_set(planner: Planner, params: CombinedMatte) -> tuple[str, str, frozenset[int]] | None:
    """(source, layer, IDs) where the whole combination is a set of IDs of one layer."""
    found = [None if ref.invert else planner.ids_of(ref.matte) for ref in params.mattes]
    places = {(one[0], one[1]) if one else None for one in found}
    if None in places or len(places) != 1:
        return None
    (source, layer) = next(place for place in places if place)
    ids = combine_sets(params.how, [one[2] for one in found if one])
    return None if ids is None else (source, layer, ids)


def crossed_layers(mattes: Mapping[str, MatteParams], matte_id: str) -> list[str] | None:
    """The ID mattes that a matte crosses, where they are of several layers of one source; None for any other matte."""
    params = mattes[matte_id]
    if not isinstance(params, CombinedMatte) or params.how != "all_of" or any(ref.invert for ref in params.mattes):
        return None
    names = [ref.matte for ref in params.mattes]
    parts = [one for name in names if isinstance(one := mattes.get(name), IdMatte)]
    one_source = len(parts) == len(names) and len({one.source for one in parts}) == 1
    return names if one_source and len({one.layer for one in parts}) > 1 else None


def _planes(planner: Planner, params: CombinedMatte, matte_id: str) -> Step:
    if (exact := as_set(planner, params)) is not None:
        source, layer, ids = exact
        return set_planes(planner, source, planner.source(source).layer(layer), ids)
    leaves = [planner.matte_planes(ref, 1) for ref in params.mattes]
    inverted = [ref.invert for ref in params.mattes]

    def compute(given: tuple[Picture, ...]) -> Planes:
        parts = [
            np.concatenate([1 - p.pixels[..., :2], p.pixels[..., 2:]], axis=2) if flip else p.pixels
            for p, flip in zip(given, inverted, strict=True)
        ]
        both = combine_values(params.how, [p[..., :2] for p in parts])
        total = combine_values("any_of", [p[..., 2:] for p in parts])
        return np.concatenate([both, total], axis=2).astype(np.float32, copy=False)

    if not leaves:
        raise UmbraxError("empty-matte", f"matte {matte_id!r} combines nothing; name at least one matte")
    endless = all(leaf.edge == "extend" for leaf in leaves)
    edge: Edge = "extend" if endless else _joined_edge(params.how, [(leaf.edge, flip) for leaf, flip in zip(leaves, inverted, strict=True)])
    return pointwise(
        f"combined 1 {params.how}", inverted, leaves, compute, channels=3, edge=edge,
        domain=union_of([planner.display if any(inverted) else leaves[0].domain, *(leaf.domain for leaf in leaves)]),
        where=planner.where,
    )  # fmt: skip


MATTES.register(MatteKind("combined", "Combined", CombinedMatte, _planes, lambda p: p.mattes, lambda _: ()))
