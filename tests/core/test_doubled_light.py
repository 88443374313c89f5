"""Light that shows twice, since a card adds it to one that holds it already."""

from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, card, make, scene, shot_of
from umbrax.core.document.doubled_light import doubled_by

BLOOM = {"id": "b", "kind": "bloom", "threshold": 0.0}
LAMPS = {"id": "lamps", "picture": {"kind": "pass", "source": "station", "pass": "emission"}, "join": "plus", "treatments": [BLOOM]}


def told(build: list[dict[str, Any]]) -> str | None:
    reader = scene()
    found = doubled_by(shot_of(build), "lamps", lambda source: reader.describe(source, 1))
    return None if found is None else found.id


@pytest.mark.parametrize("behind", [
    STATION, card(STATION, picture={"kind": "pass", "source": "station"}),
    card(STATION, picture={"kind": "rebuild", "source": "station", "lights": {"emission": {"gain": 0.5}}}),
    {"id": "station", "picture": {"kind": "pass", "source": "station", "pass": "emission"}},
])  # fmt: skip
@pytest.mark.parametrize("join", ["plus", "screen"])
def test_light_of_a_pass_is_in_what_holds_that_pass(behind: dict[str, Any], join: str) -> None:
    assert told([PLATE, behind, card(LAMPS, join=join)]) == "station"
    other = {"id": "between", "picture": {"kind": "solid"}, "opacity": 0.1}
    assert told([PLATE, {"id": "b", "picture": {"kind": "bundle", "build": [behind]}}, other, card(LAMPS, join=join)]) == "station"


@pytest.mark.parametrize("build", [
    [PLATE, STATION, card(LAMPS, join="over")],
    [PLATE, STATION, card(LAMPS, treatments=[])],
    [PLATE, STATION, card(LAMPS, treatments=[{**BLOOM, "output": "spread_only"}])],
    [PLATE, STATION, card(LAMPS, treatments=[{**BLOOM, "enabled": False}])],
    [PLATE, STATION, card(LAMPS, treatments=[{**BLOOM, "amount": 0.0}])],
    [PLATE, card(STATION, enabled=False), LAMPS],
    [PLATE, card(STATION, opacity=0.0), LAMPS],
    [PLATE, card(STATION, picture={"kind": "rebuild", "source": "station", "lights": {"diffuse": {}}}), LAMPS],
    [PLATE, card(STATION, picture={"kind": "rebuild", "source": "station", "lights": {"diffuse": {}, "emission": {"enabled": False}}}), LAMPS],
    [PLATE, card(STATION, picture={"kind": "shadow", "source": "station"}), LAMPS],
    [PLATE, LAMPS, STATION],
    [card(PLATE, picture={"kind": "pass", "source": "valley"}), LAMPS],
    [PLATE, STATION, card(LAMPS, picture={"kind": "pass", "source": "station", "pass": "gone"})],
])  # fmt: skip
def test_light_that_is_added_once_is_not_told(build: list[dict[str, Any]]) -> None:
    assert told(build) is None


def test_with_just_what_is_spread_the_lamp_is_as_bright_as_it_was_rendered() -> None:
    """The picture of the lamp, and round it the bloom: with its source it is the emission brighter."""
    plain, twice, once = (
        make(shot_of(build), scene()).pixels[..., :3].astype(np.float64)
        for build in (
            [PLATE, STATION],
            [PLATE, STATION, LAMPS],
            [PLATE, STATION, card(LAMPS, treatments=[{**BLOOM, "output": "spread_only"}])],
        )
    )
    emission = scene().sources["station"].passes["emission"][1]
    assert twice - once == pytest.approx(emission, abs=1e-4)
    assert (once - plain)[40, 60].min() > 0
