"""Findings that the build has dealt with."""

from typing import Any

import pytest

from arrays import PLATE, STATION, card, shot_of
from umbrax.core.document.open_findings import open_findings

FINDINGS: list[dict[str, Any]] = [
    {"rule": "sum-residue", "source": "station"}, {"rule": "sum-residue", "source": "valley"}, {"rule": "frames", "source": "station"},
]  # fmt: skip
WITH_REST = card(STATION, picture={**STATION["picture"], "rest": {}})
SECOND = card(STATION, id="again")


@pytest.mark.parametrize(("build", "told"), [([PLATE, STATION], 3), ([PLATE, WITH_REST], 2), ([WITH_REST, SECOND], 3), ([PLATE], 3)])
def test_lights_that_do_not_add_up_are_settled_by_a_rest_in_every_rebuild(build: list[dict[str, Any]], told: int) -> None:
    left = open_findings(shot_of(build), FINDINGS)
    assert len(left) == told
    assert FINDINGS[1] in left
    assert FINDINGS[2] in left
