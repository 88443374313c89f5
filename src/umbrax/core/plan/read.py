"""The steps at the bottom of every plan: reading a pass, and reducing it to a scale."""

from dataclasses import replace
from typing import Any, Literal

import numpy as np

from ..errors import Where
from ..kernels.resample import reduce_area, reduce_nearest, reduce_shares
from ..picture import Edge, Picture, Window
from .reader import COVERAGES, FrameInfo, PassInfo, PassReader, is_light
from .steps import Step, content_key

Way = Literal["area", "nearest", "shares"]
LARGE = 32_000_000  # pixels of a pass: one of these as floats takes 512 MB, and reading it as much again


def ends_in(kind: str) -> Edge:
    """What stands outside a pass where its border does not go on."""
    return "far" if kind == "depth" else "empty"


def read_step(
    reader: PassReader, info: FrameInfo, source: str, found: PassInfo, frame: int, scale: int, where: Where, shown: bool = False
) -> Step:
    """A pass at 1/scale: light and coverages by area, data by nearest; from the reader's own reduced sizes where it keeps them.

    `shown`: it is asked for as a picture, and not for its numbers.
    """
    edge: Edge = "extend" if found.window.contains(info.display) else ends_in(found.kind)
    where = where.within(file=info.file or None)
    light = is_light(found.kind, shown)
    if scale > 1 and light and reader.keeps(source, frame, found.name, scale):

        def run_kept(window: Window, _: tuple[Picture, ...]) -> Picture:
            return Picture(reader.reduced(source, frame, found.name, scale, window), window)

        key = content_key("read reduced 1", [info.identity, found.name, scale], ())
        return Step(key, "read", found.window.scaled(scale), len(found.channels), (), lambda _: (), run_kept, edge, where)

    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        return Picture(reader.pixels(source, frame, found.name, window, shown), window)

    key = content_key("read 2", [info.identity, found.name, light], ())
    large = found.window.area > LARGE
    full = Step(key, "read", found.window, len(found.channels), (), lambda _: (), run, edge, where, pointwise=large)
    how: Way = "area" if light or found.kind in COVERAGES else "nearest"
    return _read_in_rows(full, scale, how) if large and scale > 1 else reduced_step(full, scale, how)


def _read_in_rows(full: Step, n: int, how: Way) -> Step:
    """A read step at 1/n that never holds all of its full size: rows are read and reduced one after the other."""
    reduced = reduced_step(full, n, how)

    def run(window: Window, _: tuple[Picture, ...]) -> Picture:
        wide = window.magnified(n)
        there = wide.intersect(full.domain)
        read = full.run(there, ()) if not there.empty else Picture(np.zeros((0, 0, full.channels), np.float32), there)
        return reduced.run(window, (replace(read, edge=full.edge),))

    key = content_key("read in rows 1", reduced.key, ())
    return replace(reduced, key=key, what="read", inputs=(), needs=lambda _: (), run=run, pointwise=True, work=n * n)


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
