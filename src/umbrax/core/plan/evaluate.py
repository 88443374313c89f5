"""Runs a plan: only the windows that are wanted, only the steps that are not in the cache, cancellable between steps."""

from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

from ..errors import UmbraxError
from ..kernels import blank
from ..picture import Edge, Picture, Window
from .cache import PictureCache
from .patches import with_patches
from .steps import Step

BAND_PIXELS = 4_000_000
REMEDY = "make what reaches so far smaller, or look at a coarser scale"
TOGETHER_PIXELS = 32_000_000  # of all pictures that are made at once: they are alive until each has been used

Timer = Callable[[], float]


def never_cancelled() -> None:
    """The default watch: nothing stops the work."""


def evaluate(
    step: Step, window: Window, cache: PictureCache, *,
    watch: Callable[[], None] = never_cancelled, timer: Timer = lambda: 0.0,
) -> Picture:  # fmt: skip
    """The pixels of a step on a window.

    `watch` is called between pieces of work of some 50 ms and stops it by raising `Cancelled`. `timer` gives seconds;
    the core has no clock of its own. A step that would have to make more pixels than the cache's `largest_area` is refused
    before anything is computed, by an UmbraxError `too-large` that names its place.
    """
    order = _ordered(step)
    wanted, found = _windows(order, step, window, cache)
    for node in order:
        if node.key in wanted and node.key not in found:
            _check_room(node, wanted[node.key], cache.largest_area)
    left = _uses(order, wanted, found)
    done: dict[str, Picture] = dict(found)
    for place, node in enumerate(order):
        if node.key not in wanted or node.key in done:
            continue
        watch()
        if node.together is not None:
            left_over = [later for later in order[place:] if later.key in wanted and later.key not in done]
            done.update(_computed_together(left_over, wanted, cache, watch, timer))
            continue
        inputs = tuple(
            _given(node, child, asked, done.get(child.key))
            for child, asked in zip(node.inputs, node.needs(wanted[node.key]), strict=True)
        )  # fmt: skip
        start = timer()
        picture = _computed(node, wanted[node.key], inputs, watch)
        if node.patches is not None:
            full = partial(evaluate, node.patches.step, cache=cache, watch=watch, timer=timer)
            picture = with_patches(picture, node.patches, inputs, full)
        cache.count(node.what)
        cache.put(node.key, picture, timer() - start)
        done[node.key] = picture
        for child in node.inputs:
            left[child.key] -= 1
            if not left[child.key]:
                done.pop(child.key, None)
    result = done.get(step.key)
    if result is None:
        result = Picture(np.zeros((0, 0, step.channels), np.float32), Window(0, 0, 0, 0), step.edge)
    return result.crop(window)


def _ordered(step: Step) -> list[Step]:
    """All steps below, each once, inputs before those that use them."""
    order: list[Step] = []
    seen: set[str] = set()
    stack = [(step, False)]
    while stack:
        node, inputs_done = stack.pop()
        if inputs_done:
            order.append(node)
        elif node.key not in seen:
            seen.add(node.key)
            stack.append((node, True))
            # the first input first: of a join that is what lies below, so that cards are joined as soon as they are made
            stack.extend((child, False) for child in reversed(node.inputs))
    return order


def _windows(order: list[Step], target: Step, window: Window, cache: PictureCache) -> tuple[dict[str, Window], dict[str, Picture]]:
    """The window wanted of each step, from the target back to the sources, and what the cache already has of them."""
    wanted = {target.key: window.intersect(target.domain)}
    found: dict[str, Picture] = {}
    for node in reversed(order):
        mine = wanted.get(node.key)
        if mine is None or mine.empty:
            wanted.pop(node.key, None)
            continue
        if node.whole:
            mine = wanted[node.key] = node.domain
        picture = cache.get(node.key, mine)
        if picture is not None:
            # the same may be kept of another scale, where it goes further: a solid colour is one at all of them
            found[node.key] = picture.crop(picture.window.intersect(node.domain))
            continue
        for child, asked in zip(node.inputs, node.needs(mine), strict=True):
            inside = _available(asked, child)
            wanted[child.key] = wanted[child.key].union(inside) if child.key in wanted else inside
    return wanted, found


def _check_room(node: Step, window: Window, most: int) -> None:
    if window.area > most:
        size = f"{window.width} x {window.height}"
        message = f"{node.what} takes a picture of {size} pixels, and there is memory for {most // 1_000_000} million; {REMEDY}"
        raise UmbraxError("too-large", message, where=node.where)


def _available(window: Window, step: Step) -> Window:
    """The part of a window in a step's domain; of one whose border goes on what that is taken from, however far outside it lies."""
    d = step.domain
    if step.edge != "extend" or d.empty:
        return window.intersect(d)
    x0, y0 = min(max(window.x0, d.x0), d.x1 - 1), min(max(window.y0, d.y0), d.y1 - 1)
    return Window(x0, y0, max(x0 + 1, min(window.x1, d.x1)), max(y0 + 1, min(window.y1, d.y1)))


def _given(node: Step, child: Step, asked: Window, picture: Picture | None) -> Picture:
    """What a step gets of an input: just its window where it works pixel by pixel, else no more than there is."""
    if picture is None:
        picture = Picture(np.zeros((0, 0, child.channels), np.float32), Window(0, 0, 0, 0), child.edge)
        return picture.crop(asked) if node.pointwise else picture
    return picture.crop(asked if node.pointwise else _available(asked, child))


def _uses(order: list[Step], wanted: dict[str, Window], found: dict[str, Picture]) -> dict[str, int]:
    left: dict[str, int] = {}
    for node in order:
        if node.key in wanted and node.key not in found:
            for child in node.inputs:
                left[child.key] = left.get(child.key, 0) + 1
    return left


def _computed_together(
    steps: list[Step], wanted: dict[str, Window], cache: PictureCache, watch: Callable[[], None], timer: Timer
) -> dict[str, Picture]:
    """The first step and others of its group in one go; those whose windows have little in common with it stay apart."""
    first = steps[0].together
    assert first is not None
    window, chosen, items = wanted[steps[0].key], [steps[0]], [first.item]
    for other in steps[1:]:
        if other.together is None or other.together.group != first.group:
            continue
        both = window.union(wanted[other.key])
        apart = window.area * len(chosen) + wanted[other.key].area
        if both.area * (len(chosen) + 1) <= min(TOGETHER_PIXELS, 1.5 * apart):
            window = both
            chosen.append(other)
            items.append(other.together.item)
    start = timer()
    try:
        made = _in_bands(window, watch, lambda band: first.run(band, items))
    except UmbraxError as error:
        error.at(steps[0].where)
        raise
    seconds = (timer() - start) / len(chosen)
    for step, picture in zip(chosen, made, strict=True):
        cache.count(step.what)
        cache.put(step.key, picture, seconds)
    return {step.key: picture for step, picture in zip(chosen, made, strict=True)}


def _in_bands(window: Window, watch: Callable[[], None], run: Callable[[Window], list[Picture]], work: int = 1) -> list[Picture]:
    """Pictures of a window, computed in rows of some 50 ms of work each."""
    if window.area * work <= BAND_PIXELS:
        return run(window)
    rows = max(1, BAND_PIXELS // (window.width * work))
    whole: list[Any] = []
    edges: list[Edge] = []
    for y in range(window.y0, window.y1, rows):
        watch()
        band = Window(window.x0, y, window.x1, min(y + rows, window.y1))
        parts = run(band)
        if not whole:
            whole = [blank(window.height, window.width, part.channels) for part in parts]
            edges = [part.edge for part in parts]
        for pixels, part in zip(whole, parts, strict=True):
            pixels[band.y0 - window.y0 : band.y1 - window.y0] = part.pixels
    return [Picture(pixels, window, edge) for pixels, edge in zip(whole, edges, strict=True)]


def _computed(node: Step, window: Window, inputs: tuple[Picture, ...], watch: Callable[[], None]) -> Picture:
    try:
        if node.pointwise:
            picture = _in_bands(window, watch, lambda band: [node.run(band, tuple(picture.crop(band) for picture in inputs))], node.work)[0]
        else:
            picture = node.run(window, inputs)
    except UmbraxError as error:
        error.at(node.where)
        raise
    except MemoryError as error:
        message = f"{node.what} takes more memory than there is; {REMEDY}"
        raise UmbraxError("too-large", message, where=node.where) from error
    # what stands outside is the step's to say: a reduced size averages it into the blocks that hang over the border
    return picture if picture.edge == node.edge else Picture(picture.pixels, picture.window, node.edge)
