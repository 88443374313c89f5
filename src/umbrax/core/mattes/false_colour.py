"""IDs in false colour: a stable hue for each ID, weighted by coverage."""

from ..kernels.hues import hues
from ..picture import Picture, Window
from ..plan.steps import Planner, Step, content_key


def false_colour(planner: Planner, source: str, layer_name: str) -> Step:
    """RGBA at full size; alpha is 1, so that empty places show black."""
    info = planner.source(source)
    layer = info.layer(layer_name)
    reader, frame = planner.reader, planner.time_of(source)

    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        return Picture(hues(*reader.ranks(source, frame, layer.name, window)), window)

    key = content_key("false colour 2", [info.identity, layer.name], ())
    return Step(key, "false colour", layer.window, 4, (), lambda _: (), run, where=planner.where, pointwise=True)
