"""What spreads, at full size and at the scale of a preview.

A lamp of two pixels is above a threshold that the mean of a block with it may not reach. So the greatest and the least of each
block are kept beside its mean, of what was rendered, and a pixel of a preview is fed as if its block held those two and nothing
between, in the parts that give its mean: exact for a lamp on an even ground, whatever is done to both alike, and for a rim. What
is so bright that a part of it matters is fed at full size.
"""

from collections.abc import Callable
from functools import reduce
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import Where
from ..kernels import feeding
from ..kernels.limiting import limited
from ..picture import Picture, Window, union_of
from ..repair.light import largest
from ..treatments.base import SpreadParams
from .steps import Patches, Step, content_key, pointwise
from .treatments import weighed_pixels

STRONG = 16.0  # light that is fed
SHARP = 0.9  # of what is hidden in a block that is left of it where it counts as sharp
EVEN = 1.05  # times the mean that the greatest of a block is at most, if nothing is hidden in it


def spans_of(full: Step, has_alpha: bool, n: int) -> Step:
    """Mean, greatest and least light, and alpha, of each block of n x n pixels of a pass, at 1/n."""

    def run(window: Window, given: tuple[Picture, ...]) -> Picture:
        return Picture(feeding.spans(given[0].crop(window.magnified(n)).pixels, n, has_alpha), window)

    return Step(
        content_key("spans 1", [n, has_alpha], (full,)), "spans", full.domain.scaled(n), 4, (full,),
        lambda window: (window.magnified(n),), run, where=full.where,
    )  # fmt: skip


def spans_over(steps: list[Step]) -> Step | None:
    """The same of pictures that lie over one another, the backmost first."""

    def compute(given: tuple[Picture, ...]) -> Any:
        return reduce(lambda below, top: feeding.spans_over(top, below), [one.pixels for one in given])

    return pointwise("spans over 1", None, steps, compute, channels=4) if len(steps) > 1 else steps[0] if steps else None


def in_patches(light: Step, spans: Step, sharp: Step | None, fine: Step, n: int, where: Where) -> Step:
    """What is fed at 1/n, and at full size where a block is strong and not even, and where there is `sharp` as good as not blurred."""

    def marked(made: Picture, given: tuple[Picture, ...]) -> NDArray[np.bool_]:
        strong = largest(made.pixels) > STRONG
        if not strong.any():
            return strong
        s = given[1].pixels
        uneven = strong & (s[..., 1] > EVEN * s[..., 0])
        return np.asarray(uneven if sharp is None else uneven & (given[2].pixels[..., 0] > SHARP))

    inputs = [light, spans] if sharp is None else [light, spans, sharp]
    return pointwise(
        "fed in patches 1", fine.key, inputs, lambda given: given[0].pixels, channels=3, domain=light.domain, where=where,
        counted_as="feed in patches", patches=Patches(fine, n, marked),
    )  # fmt: skip


def evened(spans: Step) -> Step:
    """The same of a picture that is blurred: nothing is hidden in it any more."""

    def compute(given: tuple[Picture, ...]) -> Any:
        return given[0].pixels[..., [0, 0, 0, 3]]

    return pointwise("spans evened 1", None, [spans], compute, channels=4, domain=spans.domain, where=spans.where)


def sharpness_of(depth: Step, radius: Callable[[Picture], NDArray[np.float32]], told: Any, where: Where) -> Step:
    """How sharp what has a depth is, if it is spread by a radius in pixels: 1 where by none, 0 from half a pixel on."""

    def compute(given: tuple[Picture, ...]) -> Any:
        return np.clip(1 - 2 * np.abs(radius(given[0])), 0, 1)[..., None]

    return pointwise("sharpness 1", told, [depth], compute, channels=1, domain=depth.domain, where=where)


def blurred(spans: Step, sharp: Step) -> Step:
    """The same of a picture that is blurred in part: what is `sharp`, 0 to 1, keeps what is hidden in it."""

    def compute(given: tuple[Picture, ...]) -> Any:
        return feeding.kept_where_sharp(given[0].pixels, given[1].pixels)

    return pointwise("spans blurred 1", None, [spans, sharp], compute, channels=4, domain=spans.domain, where=spans.where)


def fed(params: SpreadParams, source: Step, weight: Step | None, spans: Step | None, domain: Window, where: Where) -> Step:
    """The light that a treatment spreads, three channels, from a picture within a domain and the matte it is limited to: what is above
    its soft threshold, and `fill` where there is anything."""
    inputs = [source] + [step for step in (weight, spans) if step is not None]
    fill = np.array(params.fill, np.float32)

    def feed(pixels: Any) -> Any:
        return feeding.feed_light(pixels, params.threshold, params.knee, params.limit)

    def compute(given: tuple[Picture, ...]) -> Any:
        held = given[0].pixels if weight is None else weighed_pixels(given[0], given[1])
        if spans is None:
            light = feed(held)
        else:
            most, least, share = feeding.parted(given[0].pixels, given[-1].pixels)
            light = feeding.joined_again(feed(most), feed(least), share, None if weight is None else given[1].pixels)
        return light + fill * held[..., 3:] if fill.any() else light

    told = [params.threshold, params.knee, params.limit, params.fill, domain, spans is not None]
    return pointwise("feed 3", told, inputs, compute, channels=3, domain=domain, where=where, counted_as="feed")


def covering_beyond(frame: Window, covers: list[Step], where: Where) -> Step:
    """How much of each pixel is covered beyond the frame, by the most of some coverages as far as each really goes; 1 within it."""

    def compute(given: tuple[Picture, ...]) -> Any:
        window = given[0].window
        most = np.clip(reduce(np.maximum, [picture.pixels for picture in given]), 0, 1)
        part = window.intersect(frame)
        most[part.slices_in(window)] = 1
        return most

    domain = union_of([frame, *(cover.domain for cover in covers)])
    return pointwise("beyond 1", frame, covers, compute, channels=1, domain=domain, where=where)


def passed_on(light: Step, amount: float, most: float, where: Where) -> Step:
    """Light that was spread already, x amount, its largest channel at most so much: nothing is cut off below."""

    def compute(given: tuple[Picture, ...]) -> Any:
        return limited(given[0].pixels * np.float32(amount), most)

    return pointwise("passed on 1", [amount, most], [light], compute, channels=3, domain=light.domain, where=where)
