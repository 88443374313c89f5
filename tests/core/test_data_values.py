"""The usual span of a data pass, and how often each value occurs."""

import numpy as np
import pytest

from umbrax.core.pictures.data_values import usual_span


def test_the_span_leaves_out_a_few_values_at_either_end() -> None:
    found = usual_span(np.arange(1000, dtype=np.float32))
    assert (found.least, found.most) == (0, 999)
    assert found.low == pytest.approx(np.quantile(np.arange(1000), 0.05))
    assert found.high == pytest.approx(np.quantile(np.arange(1000), 0.95))


def test_values_on_both_sides_of_zero_get_a_span_around_it() -> None:
    found = usual_span(np.linspace(-1, 3, 500, dtype=np.float32))
    assert found.low == -found.high


def test_what_is_no_value_is_counted_and_left_out() -> None:
    values = np.float32([[1, 2, 3, np.inf], [np.nan, 1e10, 2, 3]])
    found = usual_span(values, bins=4)
    assert found.nothing == pytest.approx(3 / 8)
    assert (found.least, found.most, sum(found.counts)) == (1, 3, 5)


def test_counts_are_numpys_histogram() -> None:
    values = np.random.default_rng(1).normal(5, 1, 4000).astype(np.float32)
    found = usual_span(values, bins=32)
    assert list(found.counts) == np.histogram(values, 32)[0].tolist()


@pytest.mark.parametrize("values", [np.full(9, np.inf), np.full(9, 7.0), np.zeros(0), np.float32([3])])
def test_flat_and_empty_passes_still_have_a_span(values: np.ndarray) -> None:
    found = usual_span(values.astype(np.float32), bins=8)
    assert found.low < found.high
    assert len(found.counts) == 8


def test_a_few_far_values_do_not_hide_the_rest() -> None:
    values = np.concatenate([np.linspace(10, 12, 980), np.full(20, 4000)]).astype(np.float32)
    assert usual_span(values).high < 12.1
