"""Hashed IDs: pulling many mattes in one pass over the ranks, sums, and what lies under a point."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import blank, in_rows, kernel, part
from .vectors import choose

Ids = NDArray[np.uint32]
Pixels = NDArray[np.float32]
AT_ONCE = 32  # mattes in one pass: one bit each
NO_TOTAL: Pixels = np.empty((0, 0), np.float32)


@part
def _slot(value: Any, factor: Any, shift: Any) -> Any:
    return np.uint32(np.uint32(value * factor) >> shift)


@part
def _any(names: Any) -> Any:
    seen = np.uint32(0)
    for x in range(names.shape[0]):
        seen |= names[x]
    return seen != np.uint32(0)


@part
def _sum(shares: Any, names: Any, fresh: Any, total: Any) -> None:
    zero = np.float32(0.0)
    for x in range(total.shape[0]):
        total[x] = choose(fresh, zero, total[x]) + choose(names[x] != np.uint32(0), shares[x], zero)


@part
def _put(shares: Any, found: Any, bit: Any, fresh: Any, plane: Any) -> None:
    zero = np.float32(0.0)
    if fresh:
        for x in range(plane.shape[0]):
            plane[x] = choose((found[x] & bit) != np.uint32(0), shares[x], zero)
    else:
        for x in range(plane.shape[0]):
            plane[x] += choose((found[x] & bit) != np.uint32(0), shares[x], zero)


@kernel("void(u4[::1], f4[::1], i8[::1], u4[::1], u4[::1], u4[::1], u4, f4[:,:,::1], f4[:,::1])")
def _pull(ids: Any, coverage: Any, places: Any, table: Any, bits: Any, factors: Any, shift: Any, out: Any, total: Any) -> None:
    """One look-up for each rank of a pixel gives the bits of all mattes that want its name; no branch depends on names.

    Ranks lie where they lie: `places` are how many there are, and how far the next rank and the next row begin of IDs and of coverages.
    `total`, where it has rows, gets the sum of all that have a name.
    """
    first, second, none, zero = factors[0], factors[1], np.uint32(0), np.float32(0.0)
    width, count = out.shape[2], out.shape[0]
    for y in prange(np.int64(out.shape[1])):
        found, fresh = np.empty(width, np.uint32), True
        for rank in range(places[0]):
            at, beside = rank * places[1] + np.int64(y) * places[2], rank * places[3] + np.int64(y) * places[4]
            names, shares = ids[at : at + width], coverage[beside : beside + width]
            if not _any(names):
                continue
            if count:
                for x in range(width):
                    value = names[x]
                    a, b = _slot(value, first, shift), _slot(value, second, shift)
                    here = choose(table[a] == value, bits[a], choose(table[b] == value, bits[b], none))
                    found[x] = here
            for m in range(count):
                _put(shares, found, np.uint32(np.uint32(1) << np.uint32(m)), fresh, out[m, y])
            if total.shape[0]:
                _sum(shares, names, fresh, total[y])
            fresh = False
        if fresh:
            out[:, y] = zero
            if total.shape[0]:
                total[y] = zero


@kernel("void(f4[:,::1], f4[:,::1], i8, i8, f4[:,:,::1])")
def _with_shares(pulled: Any, total: Any, top: Any, left: Any, out: Any) -> None:
    """`top`, `left`: where in `out` the planes begin; around them is nothing."""
    zero, one = np.float32(0.0), np.float32(1.0)
    (height, width), columns = total.shape, out.shape[1]
    for y in prange(np.int64(out.shape[0])):
        o, row = out[y].reshape(3 * columns), y - top
        if row < 0 or row >= height:
            o[:] = zero
            continue
        o[: 3 * left], o[3 * (left + width) :] = zero, zero
        own, whole, to = pulled[row], total[row], o[3 * left : 3 * (left + width)]
        for x in range(width):
            i, all_there = 3 * x, whole[x] > zero
            share = own[x] / choose(all_there, whole[x], one)
            share = choose(share > zero, share, zero)
            to[i], to[i + 1], to[i + 2] = own[x], choose(all_there, choose(share < one, share, one), zero), whole[x]


@dataclass(frozen=True)
class Lookup:
    """A table that holds each ID in one of two places, so that two looks always answer (Pagh and Rodler 2004, "Cuckoo hashing").

    `bits` are those of the sets that hold the ID, 0 where the place is free.
    """

    table: Ids
    bits: Ids
    factors: Ids
    shift: np.uint32

    def places(self, name: int) -> tuple[int, int]:
        first, second = (int(name * int(factor) & 0xFFFFFFFF) >> int(self.shift) for factor in self.factors)
        return first, second


@lru_cache(maxsize=64)
def lookup(sets: tuple[frozenset[int], ...]) -> Lookup:
    """From an ID to the bits of the sets that hold it; at most 32 sets. ID 0 is "no object" and in none."""
    wanted: dict[int, int] = {}
    for number, names in enumerate(sets):
        for name in names - {0}:
            wanted[name] = wanted.get(name, 0) | 1 << number
    bits = max(4, (4 * len(wanted)).bit_length())
    factor = np.random.default_rng(1)
    while True:
        factors = factor.integers(1 << 31, 1 << 32, 2, np.uint32) | np.uint32(1)
        made = Lookup(np.zeros(1 << bits, np.uint32), np.zeros(1 << bits, np.uint32), factors, np.uint32(32 - bits))
        if _filled(made, wanted):
            return made
        bits = min(bits + 1, 31)


def _filled(lookup: Lookup, wanted: dict[int, int]) -> bool:
    """Put every ID in; one that is pushed out goes to its other place. False if that goes round in circles."""
    held: dict[int, int] = {}
    for name in wanted:
        at = lookup.places(name)[0]
        for _ in range(64):
            pushed = held.get(at)
            held[at] = name
            if pushed is None:
                break
            first, second = lookup.places(pushed)
            name, at = pushed, second if at == first else first
        else:
            return False
    for at, name in held.items():
        lookup.table[at], lookup.bits[at] = name, wanted[name]
    return True


def pull(ids: Ids, coverage: Pixels, names: frozenset[int]) -> Pixels:
    """Coverage `float32[h, w, 1]` of a set of IDs: summed in float32 in the order of ranks.

    `ids` and `coverage` are planar `[rank, h, w]`, read where they lie if their rows are in one piece. ID 0 is "no object" and is never pulled.
    """
    return pull_many(ids, coverage, [names]).reshape(*ids.shape[1:], 1)


def pull_many(ids: Ids, coverage: Pixels, sets: list[frozenset[int]]) -> Pixels:
    """Several mattes in one pass, `float32[matte, h, w]`; each equals what `pull` gives alone."""
    return _pulled(ids, coverage, sets, NO_TOTAL)


def _pulled(ids: Ids, coverage: Pixels, sets: list[frozenset[int]], total: Pixels) -> Pixels:
    out = blank(len(sets), *ids.shape[1:])
    (names, *of_names), (shares, *of_shares) = in_rows(ids, np.uint32), in_rows(coverage)
    places = np.array([len(ids), *of_names, *of_shares], np.int64)
    for start in range(0, max(len(sets), 1), AT_ONCE):
        part = slice(start, start + AT_ONCE)
        found = lookup(tuple(sets[part]))
        _pull(names, shares, places, found.table, found.bits, found.factors, found.shift, out[part], NO_TOTAL if start else total)
    return out


def sum_of_ranks(ids: Ids, coverage: Pixels) -> Pixels:
    """The coverage of everything but ID 0, `float32[h, w, 1]`."""
    total = blank(*ids.shape[1:])
    _pulled(ids, coverage, [], total)
    return total[..., None]


def planes_of_sets(
    ids: Ids, coverage: Pixels, sets: list[frozenset[int]], shape: tuple[int, int], place: tuple[int, int]
) -> list[Pixels]:  # fmt: skip
    """Coverage, share and the sum of all ranks of several sets of IDs in one pass, for each of them `shape` pixels of three, with the
    IDs' first at `place` (row, column), and nothing around them.

    The share is coverage / sum, limited to 0..1, and 0 where nothing is.
    """
    total = blank(*ids.shape[1:])
    pulled, planes = _pulled(ids, coverage, sets, total), [blank(*shape, 3) for _ in sets]
    for own, out in zip(pulled, planes, strict=True):
        _with_shares(own, total, *place, out)
    return planes
