"""Hashed IDs against the Cryptomatte specification 1.2, and mattes as sums of coverages."""

import mmh3
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from arrays import ranked
from umbrax.core.kernels.ids import planes_of_sets, pull, pull_many, sum_of_ranks
from umbrax.core.mattes.hashing import float_of_id, id_of_name, murmur3
from umbrax.core.mattes.ids import ids_of_names
from umbrax.core.picture import Window
from umbrax.core.plan.reader import IdLayer

# the check values of the project's notes on the specification
PUBLISHED = {"hello": 0x248BFA47, "cube": 0xD9682F08, "sphere": 0x591E9A8D, "plane": 0x2E2136B8}


@pytest.mark.parametrize(("name", "value"), PUBLISHED.items())
def test_the_hash_of_known_names(name: str, value: int) -> None:
    assert murmur3(name.encode()) == value


def test_the_float_of_known_names() -> None:
    floats = [float_of_id(id_of_name(name)) for name in PUBLISHED]
    assert floats == pytest.approx([6.0705627e-17, -4.0846191e15, 2.7901860e15, 3.6655762e-11], rel=1e-7)


@given(st.binary(max_size=64))
@settings(max_examples=500)
def test_the_hash_agrees_with_mmh3(data: bytes) -> None:
    assert murmur3(data) == mmh3.hash(data, 0, signed=False)


@given(st.lists(st.text(max_size=60), min_size=100, max_size=100))
@settings(max_examples=100)
def test_ten_thousand_names_have_the_ids_that_mmh3_gives(names: list[str]) -> None:
    for name in names:
        value = mmh3.hash(name.encode(), 0, signed=False)
        assert id_of_name(name) in (value, value ^ (1 << 23))
        assert (id_of_name(name) == value) == (0 < (value >> 23) & 0xFF < 255)


@given(st.text(max_size=40))
@settings(max_examples=300)
def test_an_id_is_always_a_normal_float(name: str) -> None:
    exponent = (id_of_name(name) >> 23) & 0xFF
    assert 0 < exponent < 255


ODD = [
    0x7FC00001,
    0xFF800000,
    0x00000001,
    0x80000000,
    0x807FFFFF,
    5,
]  # NaN, -inf, denormals, -0: any 32 bits may be an ID


@given(st.integers(0, 2**31), st.sets(st.sampled_from(ODD)))
@settings(max_examples=60, deadline=None)
def test_coverages_are_summed_exactly_whatever_the_bits_of_an_id(seed: int, wanted: set[int]) -> None:
    rng = np.random.default_rng(seed)
    ids = rng.choice(np.array([*ODD, 0], np.uint32), (6, 7, 9))
    coverage = rng.random((6, 7, 9)).astype(np.float32)
    expected = np.zeros((7, 9), np.float32)
    for rank in range(6):
        expected += np.where(np.isin(ids[rank], np.array(sorted(wanted), np.uint32)), coverage[rank], np.float32(0))
    assert np.array_equal(pull(ids, coverage, frozenset(wanted))[..., 0], expected)


def test_many_mattes_in_one_pass_equal_each_alone() -> None:
    rng = np.random.default_rng(5)
    ids = rng.integers(0, 40, (6, 30, 40)).astype(np.uint32)
    coverage = rng.random((6, 30, 40)).astype(np.float32)
    sets = [frozenset(int(i) for i in rng.integers(1, 40, 5)) for _ in range(12)]
    together = pull_many(ids, coverage, sets)
    for number, names in enumerate(sets):
        assert np.array_equal(together[number], pull(ids, coverage, names)[..., 0])


def test_ranks_are_read_where_they_lie() -> None:
    """In turn with coverages, in a window of a larger frame, as a fast copy holds them; or in any other way."""
    rng = np.random.default_rng(6)
    planes = rng.random((12, 30, 40)).astype(np.float32)
    planes[0::2] = rng.integers(0, 40, (6, 30, 40)).astype(np.uint32).view(np.float32)
    kept, names = planes.copy(), frozenset(range(1, 30, 3))
    for part in (np.s_[:, :, :], np.s_[:, 7:19, 5:38], np.s_[:, 29:, 39:], np.s_[:, ::2, ::-1]):
        ids, coverage = planes[0::2][part].view(np.uint32), planes[1::2][part]
        sets, (height, width) = [names, frozenset({4})], ids.shape[1:]
        where = ((height + 3, width + 5), (1, 2))
        for one, other in zip(
            planes_of_sets(ids, coverage, sets, *where), planes_of_sets(ids.copy(), coverage.copy(), sets, *where), strict=True
        ):
            assert np.array_equal(one, other)
        assert np.array_equal(sum_of_ranks(ids, coverage), sum_of_ranks(ids.copy(), coverage.copy()))
    assert np.array_equal(planes.view(np.uint32), kept.view(np.uint32))


def test_the_sum_leaves_out_id_zero_only() -> None:
    ids = np.array([[[7, 0]], [[0, 9]]], np.uint32)
    coverage = np.array([[[0.6, 0.7]], [[0.4, 0.2]]], np.float32)
    assert sum_of_ranks(ids, coverage)[0, :, 0] == pytest.approx([0.6, 0.2])
    assert pull(ids, coverage, frozenset({0}))[0, :, 0].tolist() == [0, 0]


@given(st.integers(0, 2**31))
@settings(max_examples=40)
def test_planes_of_several_sets_are_what_each_set_gives_alone(seed: int) -> None:
    rng = np.random.default_rng(seed)
    ids = rng.choice(np.array([0, 3, 5, 8, 13], np.uint32), (4, 5, 70))
    coverage = (rng.random((4, 5, 70)) * 0.3).astype(np.float32)
    sets = [frozenset({3, 5}), frozenset[int](), frozenset({3, 5, 8, 13})]
    total = sum_of_ranks(ids, coverage)[..., 0]
    for names, larger in zip(sets, planes_of_sets(ids, coverage, sets, (9, 80), (3, 4)), strict=True):
        planes = larger[3:8, 4:74]
        assert np.count_nonzero(larger) == np.count_nonzero(planes), "nothing around them"
        own = pull(ids, coverage, names)[..., 0]
        assert np.array_equal(planes[..., 0], own)
        assert np.array_equal(planes[..., 1], np.divide(own, total, out=np.zeros_like(own), where=total > 0))
        assert np.array_equal(planes[..., 2], total)
    assert np.array_equal(planes[..., 0], total), "all names together are the sum of all ranks"


def layer(*names: str) -> IdLayer:
    return IdLayer("object_ids", "object", 6, Window(0, 0, 1, 1), {name: id_of_name(name) for name in names})


def test_names_patterns_and_raw_ids() -> None:
    known = layer("rib_1", "rib_2", "ribbon", "a*b", "Ärmel")
    assert ids_of_names(("rib_*",), known) == {id_of_name("rib_1"), id_of_name("rib_2")}
    assert ids_of_names(("*",), known) == {id_of_name(n) for n in ("rib_1", "rib_2", "ribbon", "a*b", "Ärmel")}
    assert ids_of_names(("a*b",), known) == {id_of_name("a*b")}, "a name that holds a star is that name first"
    assert ids_of_names(("#248bfa47", 0x591E9A8D), known) == {PUBLISHED["hello"], PUBLISHED["sphere"]}
    assert ids_of_names(("not in the manifest",), known) == {id_of_name("not in the manifest")}
    assert ids_of_names(("*",), IdLayer("l", "other", 2, Window(0, 0, 1, 1), None)) == frozenset()


def test_ranked_planes_sum_to_the_coverages_they_were_made_of() -> None:
    a = np.linspace(0, 1, 12, dtype=np.float32).reshape(3, 4)
    ids, coverage, names = ranked({"a": a, "b": 1 - a})
    assert np.array_equal(pull(ids, coverage, frozenset({names["a"]}))[..., 0], a)
