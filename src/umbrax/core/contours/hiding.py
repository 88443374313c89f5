"""Which parts of a line are the edge of the thing itself, and how it goes on behind what hides it.

Where something nearer lies right outside of a line, the line is the edge of that and not of the thing. A line is bridged behind it by a
cubic that leaves one end and reaches the other in the directions the line has there (C. Hermite's interpolation).
"""

import numpy as np
from numpy.typing import NDArray

from .lines import STEP, Line, Points, evened

Depth = NDArray[np.float32]
BESIDE = 1.6  # pixels from a line at which the depth beside it is looked at
NEARER = 0.01  # of the depth by which something has to be nearer to hide
SHORTEST = 3.0  # pixels of a line that are one thing or the other
ROUNDED = 1.5  # pixels at the end of an edge that the corner there bends
LOOKS_BACK = 6.0  # pixels of an edge that say which way it goes at its end
BENT = 2.0  # how much more a bridge costs that has to turn
IMPOSSIBLE = 1e9


def directions(line: Line) -> Points:
    """Unit tangents at the points of a line."""
    p = line.points
    step = np.roll(p, -1, axis=0) - np.roll(p, 1, axis=0) if line.closed else np.gradient(p, axis=0)
    return np.asarray(step / np.maximum(np.hypot(*step.T), 1e-9)[:, None])


def depth_at(depth: Depth, points: Points) -> NDArray[np.float32]:
    """The depth of the pixels that points lie in; infinite outside."""
    x, y = np.floor(points).astype(np.int64).T
    height, width = depth.shape
    inside = (x >= 0) & (x < width) & (y >= 0) & (y < height)
    return np.where(inside, depth[np.clip(y, 0, height - 1), np.clip(x, 0, width - 1)], np.float32(np.inf))


def parts(line: Line, kept: NDArray[np.bool_]) -> list[Line]:
    """The stretches of a line whose points are kept; the line itself where all are."""
    if kept.all():
        return [line]
    if not kept.any():
        return []
    if line.closed:  # begin where it is not kept, so that no stretch is cut in two
        first = int(np.argmin(kept))
        points, kept = np.roll(line.points, -first, axis=0), np.roll(kept, -first)
    else:
        points = line.points
    edges = np.diff(np.concatenate([[0], kept.astype(np.int8), [0]]))
    spans = zip(np.flatnonzero(edges == 1), np.flatnonzero(edges == -1), strict=True)
    return [Line(points[start:end], False) for start, end in spans if (end - start) * STEP >= SHORTEST]


def own_edges(line: Line, depth: Depth) -> list[Line]:
    """The stretches of a line beside which nothing nearer lies outside; `depth` `float32[h, w]`, infinite where nothing is."""
    t = directions(line)
    inward = np.column_stack([-t[:, 1], t[:, 0]])  # what is inside lies on the right
    inside, outside = depth_at(depth, line.points + BESIDE * inward), depth_at(depth, line.points - BESIDE * inward)
    with np.errstate(invalid="ignore"):
        hidden = np.isfinite(inside) & (outside < inside * (1 - NEARER))
    window = max(1, round(SHORTEST / STEP))
    from scipy.ndimage import uniform_filter1d  # when it is asked for: every command would wait for it

    share = uniform_filter1d(hidden.astype(np.float64), window, mode="wrap" if line.closed else "nearest")
    return parts(line, share < 0.5)


def bridged(edges: list[Line], depth: Depth) -> list[Line]:
    """Edges joined behind what hides them, end to beginning: each end to the beginning that costs least, by way and by turns."""
    open_ones = [trimmed for line in edges if not line.closed and (trimmed := _without_ends(line)) is not None]
    done = [line for line in edges if line.closed]
    if not open_ones:
        return done
    cost = np.array([[_cost(one, other, depth) for other in open_ones] for one in open_ones])
    from scipy.optimize import linear_sum_assignment  # when it is asked for, as above

    ends, beginnings = linear_sum_assignment(cost)
    goes_on = {int(a): int(b) for a, b in zip(ends, beginnings, strict=True) if cost[a, b] < IMPOSSIBLE}
    reached, left = set(goes_on.values()), set(range(len(open_ones)))
    for start in sorted(left, key=lambda n: n in reached):  # those that nothing leads to first
        chain: list[int] = []
        n: int | None = start
        while n is not None and n in left:
            left.discard(n)
            chain.append(n)
            n = goes_on.get(n)
        if chain:
            done.append(_joined([open_ones[k] for k in chain], goes_on.get(chain[-1]) == chain[0]))
    return sorted(done, key=lambda line: -line.length)


def _without_ends(line: Line) -> Line | None:
    """A stretch without what the corner at either end bent; None where nothing is left."""
    away = round(ROUNDED / STEP)
    return Line(line.points[away : len(line.points) - away], False) if len(line.points) > 2 * away + 4 else None


def _way_out(line: Line) -> Points:
    """The direction in which a line ends."""
    step = line.points[-1] - line.points[max(0, len(line.points) - 1 - round(LOOKS_BACK / STEP))]
    return np.asarray(step / max(float(np.hypot(*step)), 1e-9))


def _way_in(line: Line) -> Points:
    """The direction in which it begins."""
    step = line.points[min(len(line.points) - 1, round(LOOKS_BACK / STEP))] - line.points[0]
    return np.asarray(step / max(float(np.hypot(*step)), 1e-9))


def _cost(one: Line, other: Line, depth: Depth) -> float:
    start, end = one.points[-1], other.points[0]
    gap = float(np.hypot(*(end - start)))
    way = (end - start) / max(gap, 1e-9)
    if not _is_hidden(one, other, depth):
        return IMPOSSIBLE
    return gap * (1 + BENT * (2 - float(_way_out(one) @ way) - float(_way_in(other) @ way)))


def _is_hidden(one: Line, other: Line, depth: Depth) -> bool:
    """Whether what lies between an end and a beginning is mostly nearer than the thing is there."""
    t = directions(Line(np.vstack([one.points[-8:], other.points[:8]]), False))
    beside = np.vstack([one.points[-8:], other.points[:8]]) + BESIDE * np.column_stack([-t[:, 1], t[:, 0]])
    own = depth_at(depth, beside)
    own = own[np.isfinite(own)]
    if not own.size:
        return False
    way = other.points[0] - one.points[-1]
    across = np.array([way[1], -way[0]]) / max(float(np.hypot(*way)), 1e-9)  # what is outside lies on the left
    chord, nearer = one.points[-1] + np.linspace(0.1, 0.9, 17)[:, None] * way, float(np.median(own)) * (1 - NEARER)
    return any(bool(np.mean(depth_at(depth, chord + aside * across) < nearer) >= 0.5) for aside in (0.0, BESIDE, BESIDE + ROUNDED))


def _joined(chain: list[Line], closed: bool) -> Line:
    points = [chain[0].points]
    for one, other in zip(chain, [*chain[1:], chain[0]], strict=True):
        last = other is chain[0]
        if not last or closed:
            points.append(_bridge(one, other))
        if not last:
            points.append(other.points)
    return evened(Line(np.vstack(points), closed))


def _bridge(one: Line, other: Line) -> Points:
    start, end = one.points[-1], other.points[0]
    gap = float(np.hypot(*(end - start)))
    t = np.linspace(0, 1, max(3, round(gap / STEP)) + 1)[1:-1, None]
    out, into = gap * _way_out(one), gap * _way_in(other)
    h00, h10, h01, h11 = 2 * t**3 - 3 * t**2 + 1, t**3 - 2 * t**2 + t, -2 * t**3 + 3 * t**2, t**3 - t**2
    return np.asarray(h00 * start + h10 * out + h01 * end + h11 * into)
