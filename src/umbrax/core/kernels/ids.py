"""Hashed IDs: pulling many mattes in one pass over the ranks, sums, and what lies under a point."""

from typing import Any

import numpy as np
from numba import prange
from numpy.typing import NDArray

from . import kernel, part, ready

Ids = NDArray[np.uint32]
Pixels = NDArray[np.float32]


@part
def _slot(value: Any, mask: Any) -> Any:
    return np.int64((value * np.uint32(2654435769)) >> np.uint32(8)) & mask


@kernel("void(u4[:,:,::1], f4[:,:,::1], u4[::1], i8[::1], f4[:,:,::1])")
def _pull_one(ids: Any, coverage: Any, table: Any, bits: Any, out: Any) -> None:
    ranks, mask = ids.shape[0], np.int64(table.shape[0] - 1)
    for y in prange(np.int64(ids.shape[1])):
        row = out[y]
        for x in range(row.shape[0]):
            row[x, 0] = np.float32(0.0)
        last, wanted = np.uint32(0), False
        for rank in range(ranks):
            names, shares = ids[rank, y], coverage[rank, y]
            for x in range(row.shape[0]):
                share = shares[x]
                if share == np.float32(0.0):
                    continue
                value = names[x]
                if value != last:
                    last, wanted = value, False
                    at = _slot(value, mask)
                    while bits[at] != 0:
                        if table[at] == value:
                            wanted = True
                            break
                        at = (at + 1) & mask
                if wanted:
                    row[x, 0] += share


@kernel("void(u4[:,:,::1], f4[:,:,::1], u4[::1], i8[::1], f4[:,:,::1])")
def _pull_many(ids: Any, coverage: Any, table: Any, bits: Any, out: Any) -> None:
    ranks, mask = ids.shape[0], np.int64(table.shape[0] - 1)
    count = out.shape[0]
    for y in prange(np.int64(ids.shape[1])):
        for m in range(count):
            plane = out[m, y]
            for x in range(plane.shape[0]):
                plane[x] = np.float32(0.0)
        last, found = np.uint32(0), np.int64(0)
        for rank in range(ranks):
            names, shares = ids[rank, y], coverage[rank, y]
            for x in range(names.shape[0]):
                share = shares[x]
                if share == np.float32(0.0):
                    continue
                value = names[x]
                if value != last:
                    last, found = value, np.int64(0)
                    at = _slot(value, mask)
                    while bits[at] != 0:
                        if table[at] == value:
                            found = bits[at]
                            break
                        at = (at + 1) & mask
                left, m = found, 0
                while left != 0:
                    if left & 1:
                        out[m, y, x] += share
                    left >>= 1
                    m += 1


@kernel("void(u4[:,:,::1], f4[:,:,::1], f4[:,:,::1])")
def _sum_named(ids: Any, coverage: Any, out: Any) -> None:
    for y in prange(np.int64(ids.shape[1])):
        row = out[y]
        for x in range(row.shape[0]):
            row[x, 0] = np.float32(0.0)
        for rank in range(ids.shape[0]):
            names, shares = ids[rank, y], coverage[rank, y]
            for x in range(row.shape[0]):
                if names[x] != np.uint32(0):
                    row[x, 0] += shares[x]


def lookup(sets: list[frozenset[int]]) -> tuple[Ids, NDArray[np.int64]]:
    """An open-addressing table from an ID to the bits of the sets that hold it; at most 62 sets."""
    if len(sets) > 62:
        raise ValueError(f"expected at most 62 mattes in one pass, got {len(sets)}")
    wanted: dict[int, int] = {}
    for number, names in enumerate(sets):
        for name in names:
            wanted[name] = wanted.get(name, 0) | 1 << number
    size = 16
    while size < 4 * len(wanted):
        size *= 2
    table, bits = np.zeros(size, np.uint32), np.zeros(size, np.int64)
    for name, mask in wanted.items():
        at = (((name * 2654435769) & 0xFFFFFFFF) >> 8) & (size - 1)
        while bits[at]:
            at = (at + 1) & (size - 1)
        table[at], bits[at] = name, mask
    return table, bits


def pull(ids: Ids, coverage: Pixels, names: frozenset[int]) -> Pixels:
    """Coverage `float32[h, w, 1]` of a set of IDs: summed in float32 in the order of ranks.

    `ids` and `coverage` are planar `[rank, h, w]`. ID 0 is "no object" and is never pulled.
    """
    out = np.empty((*ids.shape[1:], 1), np.float32)
    _pull_one(ready(ids, np.uint32), ready(coverage), *lookup([names - {0}]), out)
    return out


def pull_many(ids: Ids, coverage: Pixels, sets: list[frozenset[int]]) -> Pixels:
    """Several mattes in one pass, `float32[matte, h, w]`; each equals what `pull` gives alone."""
    out = np.empty((len(sets), *ids.shape[1:]), np.float32)
    _pull_many(ready(ids, np.uint32), ready(coverage), *lookup([names - {0} for names in sets]), out)
    return out


def sum_of_ranks(ids: Ids, coverage: Pixels) -> Pixels:
    """The coverage of everything but ID 0, `float32[h, w, 1]`."""
    out = np.empty((*ids.shape[1:], 1), np.float32)
    _sum_named(ready(ids, np.uint32), ready(coverage), out)
    return out
