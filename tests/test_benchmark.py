"""The benchmark itself: a machine that changes its pace must not change the ratio of a row."""

import time
from collections.abc import Callable

import pytest

from umbrax.measure.table import best_of_both


class Clock:
    """A machine whose work takes three times as long from some moment on."""

    def __init__(self, slow_from: float) -> None:
        self.now, self.slow_from = 0.0, slow_from

    def working(self, seconds: float) -> Callable[[], None]:
        def work() -> None:
            self.now += seconds * (3 if self.now >= self.slow_from else 1)

        return work


@pytest.mark.parametrize("slow_from", [0.0, 0.3, 0.65, 1.0, 100.0])
@pytest.mark.parametrize(("ours", "reference"), [(0.004, 0.002), (0.002, 0.004), (0.03, 0.01)])
def test_a_ratio_stays_where_the_machine_becomes_slow(monkeypatch: pytest.MonkeyPatch, slow_from: float, ours: float, reference: float) -> None:
    clock = Clock(slow_from)
    monkeypatch.setattr(time, "perf_counter", lambda: clock.now)
    mine, other = best_of_both(clock.working(ours), clock.working(reference), slow_reference=False)
    assert mine / other == pytest.approx(ours / reference, rel=0.01)
