"""The benchmark: each row a ratio against a reference measured in the same run, with the same threads."""

import json
import time
from dataclasses import dataclass

from rich.console import Console
from rich.table import Table

from .row import Row, Work
from .rows import ROWS

REPEATS = 5
ENOUGH = 1.5  # seconds: what is fast is run more often, so that a busy moment of the machine is not what is measured
TURN = 0.05  # seconds that one of the two runs before the other does


@dataclass(frozen=True)
class Measured:
    """A row's result, in milliseconds or megabytes; the ratio is ours over the reference, or the other way for rows named faster."""

    name: str
    reference: str
    ours: float
    reference_value: float
    unit: str
    ratio: float
    reach: str
    met: bool


class _Timed:
    """How long the runs of one of the two take in seconds, after one that warms up."""

    def __init__(self, work: Work, repeats: int) -> None:
        self.work, self.repeats = work, repeats
        self.times: list[float] = []
        work()

    @property
    def enough(self) -> bool:
        return len(self.times) >= self.repeats and sum(self.times) >= ENOUGH

    def turn(self) -> None:
        """Run it again and again for as long as a turn lasts, at least once."""
        now = time.perf_counter()
        end = now + TURN
        while now < end:
            start = now
            self.work()
            now = time.perf_counter()
            self.times.append(now - start)


def best_of_both(ours: Work, reference: Work, slow_reference: bool) -> tuple[float, float]:
    """The shortest runs of both in seconds. They take turns, so that a machine that changes its pace does so for both."""
    both = _Timed(ours, REPEATS), _Timed(reference, 2 if slow_reference else REPEATS)
    while waiting := [one for one in both if not one.enough]:
        for one in waiting:
            one.turn()
    return min(both[0].times), min(both[1].times)


def run_rows(wanted: list[str], as_json: bool) -> int:
    """Print the rows whose name holds a wanted word (all of them by default); 1 if any was missed."""
    results = []
    for row in ROWS:
        if wanted and not any(word in row.name for word in wanted):
            continue
        mine, other, unit = _measured(row)
        ratio = other / mine if row.faster else mine / other
        met = ratio >= row.reach if row.faster else ratio <= row.reach
        reach = f"{row.reach:g}x faster" if row.faster else f"<= {row.reach:g}x"
        results.append(Measured(row.name, row.reference, mine, other, unit, ratio, reach, met))
    if as_json:
        print(json.dumps([vars(result) for result in results]))
    else:
        _print(results)
    return 0 if all(result.met for result in results) else 1


def _measured(row: Row) -> tuple[float, float, str]:
    if row.amounts is not None:
        return (*row.amounts(), "MB")
    assert row.prepare is not None
    ours, reference = row.prepare()
    mine, other = best_of_both(ours, reference, row.slow_reference)
    return mine * 1e3, other * 1e3, "ms"


def _print(results: list[Measured]) -> None:
    table = Table("row", "measured against", "ours", "reference", "", "ratio", "reach", "")
    for r in results:
        row = (
            r.name,
            r.reference,
            f"{r.ours:.2f}",
            f"{r.reference_value:.2f}",
            r.unit,
            f"{r.ratio:.2f}",
            r.reach,
            "met" if r.met else "MISSED",
        )
        table.add_row(*row, style="" if r.met else "bold")
    Console(width=150).print(table)
