"""What a row of the benchmark is."""

from collections.abc import Callable
from dataclasses import dataclass

Work = Callable[[], object]


@dataclass(frozen=True)
class Row:
    """`faster`: the reference's time over ours must reach `reach`; else ours over the reference's at most that.

    A row in megabytes has `amounts` in place of work to time.
    """

    name: str
    reference: str
    reach: float
    prepare: Callable[[], tuple[Work, Work]] | None = None
    faster: bool = False
    slow_reference: bool = False
    amounts: Callable[[], tuple[float, float]] | None = None
