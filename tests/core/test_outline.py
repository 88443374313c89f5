"""Outlines by hand: how long a line is, where it lies, how much of it is drawn, and what it does behind what hides it."""

from typing import Any

import numpy as np
import pytest
from skimage.measure import find_contours

from arrays import ArrayReader, ArraySource, assert_near, disc, make, ranked, shot_of
from umbrax.core.contours.drawing import Pen, begun, drawn
from umbrax.core.contours.hiding import bridged, own_edges
from umbrax.core.contours.lines import Line, evened, lines_round
from umbrax.core.document.text import read_data
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Picture, Window
from umbrax.core.treatments import outline

HEIGHT, WIDTH = 150, 180
Y, X, RADIUS = 74.3, 88.6, 45.2
SEEN = disc(HEIGHT, WIDTH, Y, X, RADIUS)


def outlined(alpha: np.ndarray, depth: np.ndarray | None = None, names: dict[str, np.ndarray] | None = None, **settings: Any) -> np.ndarray:
    """The line alone: white on a black element, RGBA."""
    rgba = np.dstack([np.zeros((*alpha.shape, 3)), alpha]).astype(np.float32)
    passes = {"rgba": ("beauty", rgba), **({} if depth is None else {"depth": ("depth", depth.astype(np.float32)[..., None])})}
    source = ArraySource(passes, {} if names is None else {"object_ids": ranked(names)})
    treatment = {"id": "t1", "kind": "outline", "colour": [1, 1, 1], **settings}
    card = {"id": "station", "picture": {"kind": "pass", "source": "station", "pass": "beauty"}, "treatments": [treatment]}
    shot = shot_of([card], width=alpha.shape[1], height=alpha.shape[0])
    return make(shot, ArrayReader(station=source, valley=source)).pixels


def along_the_circle(cover: np.ndarray) -> np.ndarray:
    """What is drawn at each degree, clockwise from the top."""
    angle = np.radians(np.arange(360))
    y, x = Y - RADIUS * np.cos(angle), X + RADIUS * np.sin(angle)
    return cover[np.floor(y).astype(int), np.floor(x).astype(int)]


@pytest.mark.parametrize("radius", [12.0, 33.3, 60.0])
def test_a_disc_has_a_line_of_two_pi_r(radius: float) -> None:
    found = lines_round(disc(HEIGHT, WIDTH, Y, X, radius), 0.5, 8.0)
    assert [line.closed for line in found] == [True]
    assert found[0].length == pytest.approx(2 * np.pi * radius, rel=0.005)
    # and what the pen covers is that long times its width
    cover = outlined(disc(HEIGHT, WIDTH, Y, X, radius), width=3.0)[..., 0]
    assert cover.sum() == pytest.approx(2 * np.pi * radius * 3, rel=0.005)


def test_the_line_lies_where_skimage_finds_it() -> None:
    """scikit-image's find_contours, whose places count from the middle of a pixel, on edges, corners and a hole."""
    shape = SEEN.copy()
    shape[60:100, 60:110] = 0.0
    shape[20:50, 10:40] = 1.0
    ours = np.vstack([line.points for line in lines_round(shape, 0.5, 8.0)])
    theirs = np.vstack([evened(Line(line[:-1, ::-1] + 0.5, True), 0.1).points for line in find_contours(shape, 0.5)])
    for some, others in ((ours, theirs), (theirs[::7], ours)):
        assert max(np.hypot(*(others - point).T).min() for point in some) < 0.25
    circle = lines_round(SEEN, 0.5, 8.0)[0].points
    assert np.abs(np.hypot(circle[:, 0] - X, circle[:, 1] - Y) - RADIUS).max() < 0.15


@pytest.mark.parametrize(("start", "end"), [(0.0, 0.25), (0.2, 0.7), (0.5, 1.0), (0.0, 0.013)])
def test_start_and_end_draw_that_part(start: float, end: float) -> None:
    whole, part = outlined(SEEN, width=2.0)[..., 0].sum(), outlined(SEEN, width=2.0, start=start, end=end)[..., 0]
    assert part.sum() / whole == pytest.approx(end - start, abs=0.01)
    drawn = along_the_circle(part) > 0.5
    # from the top, clockwise
    assert np.flatnonzero(drawn).min() == pytest.approx(start * 360, abs=4)
    assert np.flatnonzero(drawn).max() == pytest.approx(end * 360, abs=4)


def test_it_starts_next_to_a_touched_point_and_goes_either_way() -> None:
    right = [X + 60.0, Y]
    clockwise = along_the_circle(outlined(SEEN, width=2.0, end=0.25, **{"from": right})[..., 0]) > 0.5
    other_way = along_the_circle(outlined(SEEN, width=2.0, end=0.25, direction="counter_clockwise", **{"from": right})[..., 0]) > 0.5
    assert clockwise[95:175].all()
    assert not clockwise[5:85].any()
    assert other_way[5:85].all()
    assert not other_way[95:175].any()


@pytest.mark.parametrize(("side", "middle"), [("inside", -3.0), ("centre", 0.0), ("outside", 3.0)])
def test_a_line_lies_inside_on_or_outside_of_the_edge(side: str, middle: float) -> None:
    got = outlined(SEEN, width=6.0, side=side)
    row = got[round(Y), :, 0]
    right = row[round(X) :]
    place = (np.arange(len(right)) + 0.5 + round(X) - X) @ right / right.sum()
    assert place == pytest.approx(RADIUS + middle, abs=0.15)
    assert right.sum() == pytest.approx(6.0, abs=0.1)
    # where it lies outside it has an alpha of its own
    assert got[..., 3].sum() > SEEN.sum() + (1500 if side == "outside" else -1)


@pytest.mark.parametrize("side", ["centre", "outside"])
@pytest.mark.parametrize("width", [1.0, 3.0])
def test_a_preview_covers_as_much_as_the_line_does(width: float, side: str) -> None:
    turn = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    circle = Line(np.stack([200 + 90 * np.cos(turn), 200 + 90 * np.sin(turn)], axis=1), True)

    def covered(n: int) -> float:
        return float(drawn([circle], [(0.0, circle.length)], Pen(width, side), Window(0, 0, 400 // n, 400 // n), n).pixels.sum()) * n * n

    for n, within in ((2, 0.02), (4, 0.03), (8, 0.08)):
        assert covered(n) == pytest.approx(covered(1), rel=within)


def test_dashes_come_out_even_round_a_closed_line() -> None:
    drawn = along_the_circle(outlined(SEEN, width=4.0, dash=[12, 8])[..., 0])
    switches = int((np.diff(np.concatenate([drawn, drawn[:1]]) > 0.5) != 0).sum())
    assert switches == 2 * round(2 * np.pi * RADIUS / 20)
    assert drawn.mean() == pytest.approx(0.6, abs=0.03)
    assert np.array_equal(outlined(SEEN, dash=7), outlined(SEEN, dash=[7, 7]))


def test_the_colour_is_light_and_the_end_may_be_thinner() -> None:
    got = outlined(SEEN, width=4.0, colour=[5.0, 2.0, 0.25])
    assert got[..., :3].reshape(-1, 3).max(axis=0) == pytest.approx([5.0, 2.0, 0.25])
    thin = outlined(SEEN, width=6.0, end_width=0.0)[..., 0]
    assert thin.sum() / outlined(SEEN, width=6.0)[..., 0].sum() == pytest.approx(0.5, abs=0.02)


def test_pieces_are_drawn_together_or_one_after_the_other() -> None:
    two = np.maximum(disc(HEIGHT, WIDTH, 40, 40, 25), disc(HEIGHT, WIDTH, 100, 140, 12.5))
    together = outlined(two, width=2.0, end=0.5)[..., 0]
    in_turn = outlined(two, width=2.0, end=0.5, pieces="in_turn")[..., 0]
    small = np.s_[80:120, 120:160]
    assert together[small].sum() == pytest.approx(np.pi * 12.5 * 2, rel=0.02)
    # the longest first, and half of all is less than that
    assert in_turn[small].sum() == 0
    assert in_turn.sum() == pytest.approx(together.sum(), rel=0.01)
    assert outlined(two, width=2.0, smallest=100.0)[small].sum() == pytest.approx(two[small].sum(), rel=1e-4)


def hidden_disc() -> tuple[np.ndarray, np.ndarray, dict[str, np.ndarray]]:
    """A disc at 10, a post at 4 before it; what of the disc is seen, the depth, and the ID coverages."""
    post = np.zeros((HEIGHT, WIDTH), np.float32)
    post[:, 95:109] = 1.0
    seen = (SEEN * (1 - post)).astype(np.float32)
    depth = np.where(post > 0, 4.0, np.where(SEEN > 0.3, 10.0, 50.0))
    return np.maximum(SEEN, post), depth, {"ball": seen, "post": post}


def test_an_open_line_leaves_out_what_is_the_edge_of_what_is_nearer() -> None:
    alpha, depth, names = hidden_disc()
    closed = outlined(alpha, depth, names, of="ball", width=2.0)[..., 0]
    opened = outlined(alpha, depth, names, of="ball", width=2.0, form="open")[..., 0]
    beside = np.s_[45:105, 92:112]
    assert closed[beside].sum() > 200
    assert opened[beside].sum() == 0
    drawn = along_the_circle(opened) > 0.5
    angle = np.degrees(np.arcsin((np.array([95.0, 109.0]) - X) / RADIUS))
    assert not drawn[int(angle[0]) + 2 : int(angle[1]) - 2].any()
    assert drawn[int(angle[1]) + 8 : 150].all()


def test_a_bridged_line_goes_on_behind_it_as_if_it_were_not_there() -> None:
    alpha, depth, names = hidden_disc()
    line = outlined(alpha, depth, names, of="ball", width=2.0, form="bridged")[..., 0]
    free = outlined(SEEN, width=2.0)[..., 0]
    assert line.sum() == pytest.approx(free.sum(), rel=0.01)
    found = lines_round(names["ball"], 0.5, 8.0)
    z = depth.astype(np.float32)
    whole = bridged([edge for one in found for edge in own_edges(one, z)], z)
    assert [one.closed for one in whole] == [True]
    assert np.abs(np.hypot(whole[0].points[:, 0] - X, whole[0].points[:, 1] - Y) - RADIUS).max() < 0.4
    # what is drawn of it starts where it would without the post
    half = outlined(alpha, depth, names, of="ball", width=2.0, form="bridged", end=0.5)[..., 0]
    assert np.abs(half - outlined(SEEN, width=2.0, end=0.5)[..., 0]).mean() < 0.002


def test_something_farther_beside_it_hides_nothing() -> None:
    alpha, depth, names = hidden_disc()
    behind = np.where(names["post"] > 0, 40.0, depth)
    both = {name: outlined(alpha, behind, names, of="ball", width=2.0, form=name)[..., 0] for name in ("closed", "open", "bridged")}
    assert both["open"] == pytest.approx(both["closed"], abs=0.02)
    assert_near(both["bridged"], both["closed"], 0.02)


def test_what_the_frame_cuts_off_has_no_line_along_its_border() -> None:
    """A layer that fills the frame goes on outside; its line runs out of it."""
    cut = disc(HEIGHT, WIDTH, 70.0, 0.0, 40.0)
    got = outlined(cut, names={"ball": cut}, of="ball", width=4.0)[..., 0]
    assert got[50:90, :3].max() == 0
    assert got[28:32, 0].max() > 0.9
    # and so round what a matte leaves out, which is full out there
    turned = outlined(cut, names={"ball": cut}, of={"matte": "ball", "invert": True}, width=4.0)[..., 0]
    assert_near(turned, got, 0.05)
    assert turned[:3, 60:].max() == 0


def test_it_begins_on_top_and_stays_there_while_the_shape_moves() -> None:
    for shift in (0.0, 3.3, 7.1):
        line = begun(lines_round(disc(HEIGHT, WIDTH, Y, X + shift, RADIUS), 0.5, 8.0)[0], None)
        assert line.points[0] == pytest.approx([X + shift, Y - RADIUS], abs=0.8)


def test_without_depth_what_hides_cannot_be_told() -> None:
    with pytest.raises(UmbraxError, match="no source of it has a pass 'depth'"):
        outlined(SEEN, form="open")


def test_of_alpha_is_no_matte_and_an_unknown_matte_is_refused() -> None:
    treatment = {"id": "t1", "kind": "outline"}
    card = {"id": "c", "picture": {"kind": "solid", "colour": [0, 0, 0]}, "treatments": [treatment]}
    data = {"umbrax": 1, "name": "n", "format": {"width": 9, "height": 9, "first": 1, "last": 1}, "build": [card]}
    assert read_data(data).build[0].treatments[0].of == "alpha"
    treatment["of"] = "bal"
    with pytest.raises(UmbraxError, match="bal"):
        read_data(data)


def test_a_line_turned_back_or_begun_elsewhere_is_the_same_line() -> None:
    line = lines_round(SEEN, 0.5, 8.0)[0]
    assert line.turned_back().length == pytest.approx(line.length)
    assert line.from_point(17).length == pytest.approx(line.length)
    opened = Line(line.points, False)
    assert opened.from_point(17) is opened


def test_lines_are_found_once_while_their_shape_and_what_finds_them_stay(monkeypatch: pytest.MonkeyPatch) -> None:
    found: list[float] = []
    monkeypatch.setattr(outline, "lines_round", lambda matte, level, *rest: found.append(level) or lines_round(matte, level, *rest))
    window = Window(0, 0, WIDTH, HEIGHT)
    below = Picture(np.random.default_rng(1).random((HEIGHT, WIDTH, 4), np.float32), window)
    kept, near = Picture(SEEN[..., None].copy(), window), Picture(np.full((HEIGHT, WIDTH, 1), 5.0, np.float32), window)

    def drawn_with(shape: Picture, **settings: Any) -> np.ndarray:
        params = outline.OutlineParams.model_validate({"id": "t", "kind": "outline", **settings})
        return outline.apply(params, below, window, 1, shape=shape, depth=None if params.form == "closed" else near).pixels

    playing: list[dict[str, Any]] = [
        {"end": 0.3},
        {"end": 0.6},
        {"start": 0.2, "width": 6.0},
        {"colour": [2, 0, 0]},
        {"dash": [5, 3]},
        {"form": "open"},
    ]
    other: list[dict[str, Any]] = [
        {"direction": "counter_clockwise"},
        {"from": [10.0, 70.0]},
        {"level": 0.8},
        {"smooth": 8.0},
        {"smallest": 900.0},
    ]
    for settings in (*playing, *({"end": 0.4, **one} for one in other)):
        anew = drawn_with(Picture(SEEN[..., None].copy(), window), **settings)
        assert np.array_equal(drawn_with(kept, **settings), anew), settings
    assert len(found) == len(playing) + len(other) + 4, "for the one that is kept: once at first, and where level, smooth and smallest change"
