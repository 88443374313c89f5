"""Previews of a whole shot over real frames, against the reduced final picture."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from demo_shot import without_balloon
from umbrax.core.colour import srgb_from_linear
from umbrax.core.document.text import read_data
from umbrax.core.kernels.resample import reduce_area
from umbrax.media.fastcopies import FastCopies
from umbrax.render.engine import Engine, Want
from umbrax.standin.shots import dome_at_dusk

GRADE = {"kind": "grade", "exposure": 0.6, "contrast": 1.4, "saturation": 1.3, "power": [1.1, 0.9, 1.0]}


def stack() -> dict[str, Any]:
    """Plate, shadow, a graded station, and six more of its parts, each graded, softened and joined in its own way; then all of it."""
    document = without_balloon(dome_at_dusk())
    station = next(card for card in document["build"] if card["id"] == "station")
    parts = []
    for number, matte in enumerate(("dome", "brass", "mast lamps", "dome", "brass", "mast lamps")):
        treatments = [{"id": f"g{number}", **GRADE}, {"id": f"s{number}", "kind": "soften", "size": 1.0 + 2 * number}]
        join = ("over", "screen", "plus")[number % 3]
        parts.append({**station, "id": f"part {number}", "cut": [matte], "treatments": treatments, "join": join, "opacity": 0.6})
    document["build"][-1:-1] = parts
    document["build"][-1]["treatments"].insert(0, {"id": "all", **GRADE})
    return document


@pytest.mark.parametrize("n", [2, 4, 8])
def test_a_stack_of_ten_cards_keeps_what_its_previews_promise(demo: Path, tmp_path_factory: pytest.TempPathFactory, n: int) -> None:
    """At most 1/255 in the mean and 4/255 at the 99th percentile of view values."""
    engine, shot = Engine(FastCopies(tmp_path_factory.getbasetemp() / "stack")), read_data(stack())
    whole, small = (engine.make(shot, [demo], 1001, Want(), scale=scale).picture for scale in (1, n))
    reduced = reduce_area(np.ascontiguousarray(whole.pixels), n)
    one, other = (srgb_from_linear(np.clip(pixels[..., :3], 0, 1)) for pixels in (small.pixels, reduced))
    difference = np.abs(one - other)
    assert difference.mean() <= 1 / 255
    assert np.percentile(difference, 99) <= 4 / 255
