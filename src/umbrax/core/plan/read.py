"""The steps at the bottom of every plan: reading a pass, and reducing it to a scale."""

from dataclasses import replace
from typing import Any, Literal

from ..errors import Where
from ..kernels.resample import reduce_area, reduce_nearest, reduce_shares
from ..picture import Edge, Picture, Window
from .reader import COVERAGES, FrameInfo, PassInfo, PassReader, is_light
from .steps import Step, content_key

Way = Literal["area", "nearest", "shares"]


def read_step(
    reader: PassReader, info: FrameInfo, source: str, found: PassInfo, frame: int, scale: int, where: Where, shown: bool = False
) -> Step:
    """A pass at 1/scale: light and coverages by area, data by nearest; from the reader's own reduced sizes where it keeps them.

    `shown`: it is asked for as a picture, and not for its numbers.
    """
    edge: Edge = "extend" if found.window.contains(info.display) else "empty"
    where = replace(where, file=info.file or None)
    light = is_light(found.kind, shown)
    if scale > 1 and light and reader.keeps(source, frame, found.name, scale):

        def run_kept(window: Window, _: tuple[Picture, ...]) -> Picture:
            return Picture(reader.reduced(source, frame, found.name, scale, window), window)

        key = content_key("read reduced 1", [info.identity, found.name, scale], ())
        return Step(key, "read", found.window.scaled(scale), len(found.channels), (), lambda _: (), run_kept, edge, where)

    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        return Picture(reader.pixels(source, frame, found.name, window, shown), window)

    key = content_key("read 2", [info.identity, found.name, light], ())
    full = Step(key, "read", found.window, len(found.channels), (), lambda _: (), run, edge, where)
    return reduced_step(full, scale, "area" if light or found.kind in COVERAGES else "nearest")


def reduced_step(step: Step, n: int, how: Way) -> Step:
    """A step at 1/n; its pixels are computed at full size on the window's pixels and then reduced."""
    if n == 1:
        return step
    ways: dict[str, Any] = {"area": reduce_area, "nearest": reduce_nearest, "shares": reduce_shares}
    reduce = ways[how]

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        return Picture(reduce(given[0].crop(window.magnified(n)).pixels, n), window, step.edge)

    return Step(
        content_key(f"reduce 1 {how}", n, (step,)), "reduce", step.domain.scaled(n), step.channels, (step,),
        lambda window: (window.magnified(n),), run, step.edge, step.where,
    )  # fmt: skip
