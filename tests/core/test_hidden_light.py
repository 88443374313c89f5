"""Light that is taken from another card, and light of what cards in front cover: a lamp that is not seen does not glow."""

from typing import Any

import numpy as np
import pytest

from arrays import ArrayReader, ArraySource, make, ranked
from umbrax.core.document.bringing import brought
from umbrax.core.document.bundling import dissolving, gathering
from umbrax.core.document.edits import apply
from umbrax.core.document.recipes import kept, laid_on
from umbrax.core.document.removals import card_removal
from umbrax.core.document.shot import Shot
from umbrax.core.document.text import read_data
from umbrax.core.errors import UmbraxError
from umbrax.core.picture import Window
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner

HEIGHT, WIDTH = 240, 320
MIDDLE = WIDTH // 2
SHARES = {"post": 0.25, "wall": 0.5}  # of the lamp's columns that each covers


def reader() -> ArrayReader:
    """A lamp of 8 pixels by 6 with an emission pass of half its light; a post and a wall of one render that hide its left columns."""
    lamp, emission = np.zeros((HEIGHT, WIDTH, 4), np.float32), np.zeros((HEIGHT, WIDTH, 3), np.float32)
    rows, columns = slice(HEIGHT // 2, HEIGHT // 2 + 6), slice(MIDDLE, MIDDLE + 8)
    lamp[rows, columns], emission[rows, columns] = (40.0, 20.0, 10.0, 1.0), (20.0, 10.0, 5.0)
    coverages = {name: np.zeros((HEIGHT, WIDTH), np.float32) for name in SHARES}
    coverages["wall"][:, MIDDLE + 2 : MIDDLE + 6] = 1
    coverages["post"][:, MIDDLE : MIDDLE + 2] = 1
    front = np.zeros((HEIGHT, WIDTH, 4), np.float32)
    front[..., 3] = coverages["wall"] + coverages["post"]
    return ArrayReader(
        lamp=ArraySource({"rgba": ("beauty", lamp), "emission": ("emission", emission)}),
        front=ArraySource({"rgba": ("beauty", front)}, {"object_ids": ranked(coverages)}),
    )


LAMP = {"id": "lamp", "picture": {"kind": "pass", "source": "lamp", "pass": "rgba"}}
FRONT = {"id": "front", "picture": {"kind": "pass", "source": "front"}}
MATTES = {name: {"kind": "id", "source": "front", "layer": "object_ids", "names": [name]} for name in SHARES}
WIDE = Window(-200, -200, WIDTH + 200, HEIGHT + 200)
WHOLE = 40.0 * 8 * 6


def shot_of(*cards: dict[str, Any]) -> Shot:
    data = {
        "umbrax": 1, "name": "test", "format": {"width": WIDTH, "height": HEIGHT, "first": 1, "last": 10},
        "sources": {"lamp": {"path": "l.exr"}, "front": {"path": "f.exr"}}, "mattes": MATTES, "build": list(cards),
    }  # fmt: skip
    return read_data(data)


def bloom(**more: Any) -> dict[str, Any]:
    return {"id": "t", "kind": "bloom", "threshold": 0.0, "knee": 0.0, "size": 6.0, **more}


def red_light(*cards: dict[str, Any], n: int = 1) -> float:
    """All red of a picture, what leaves the frame included, in full-size pixels."""
    return float(make(shot_of(*cards), reader(), scale=n, window=WIDE.scaled(n)).pixels[..., 0].sum(dtype=np.float64)) * n * n


def glare(n: int = 1, *, lamp: Any = LAMP, front: Any = FRONT, **feed: Any) -> float:
    """What a treat card before all adds that takes the lamp's light."""
    veil = {"id": "veil", "treat": True, "treatments": [bloom(feed={"card": "lamp", **feed})]}
    return red_light(lamp, front, veil, n=n) - red_light(lamp, front, n=n)


@pytest.mark.parametrize("n", [1, 2, 4, 8])
def test_light_of_another_card_as_far_as_it_is_seen(n: int) -> None:
    """A post and a wall leave a quarter of it; half of what they hide comes through at half their opacity; a dimmer lamp gives less."""
    near = 1e-3 if n == 1 else 0.02
    assert glare(n) == pytest.approx(WHOLE / 4, rel=near)
    assert glare(n, front={**FRONT, "opacity": 0.5}) == pytest.approx(WHOLE * (1 - 0.75 / 2), rel=near)
    assert glare(n, lamp={**LAMP, "opacity": 0.3}) == pytest.approx(WHOLE / 4 * 0.3, rel=near)
    assert glare(n, front={**FRONT, "enabled": False}) == pytest.approx(WHOLE, rel=near)
    assert glare(n, **{"pass": "emission"}) == pytest.approx(WHOLE / 8, rel=near)
    assert glare(n, lamp={**LAMP, "enabled": False}) == 0


def test_a_glare_before_all_lies_over_what_hides_the_lamp() -> None:
    """The lamp's own bloom stays behind the wall; that of a card before all goes over it, and only from what is seen."""
    wall = (HEIGHT // 2 + 3, MIDDLE + 4)
    own = make(shot_of({**LAMP, "treatments": [bloom()]}, FRONT), reader()).pixels
    veil = {"id": "veil", "treat": True, "treatments": [bloom(feed={"card": "lamp"})]}
    over = make(shot_of(LAMP, FRONT, veil), reader()).pixels
    assert own[wall][0] == 0
    assert over[wall][0] > 0.05


def hidden(*after: dict[str, Any], tuck: Any = None, **more: Any) -> float:
    """All the light that a bloom of the lamp card spreads, hidden by the cards after it or by what it is tucked behind."""
    lamp = {**LAMP, "treatments": [bloom(hidden=True, **more)]}
    shot = shot_of(lamp, *after) if tuck is None else shot_of(FRONT, {**lamp, "tuck": [tuck]})
    build, index = ShotPlanner(shot, 1, reader())._find("lamp")
    light = evaluate(build.card(index, 1).layers[0].picture, WIDE, PictureCache(1 << 28))
    return float(light.pixels[..., 0].sum(dtype=np.float64))


def test_what_cards_in_front_cover_feeds_nothing() -> None:
    assert hidden() == pytest.approx(WHOLE, rel=1e-3)
    assert hidden(FRONT) == pytest.approx(WHOLE / 4, rel=1e-3)
    assert hidden({**FRONT, "cut": ["wall"]}) == pytest.approx(WHOLE / 2, rel=1e-3)
    assert hidden({**FRONT, "join": "plus"}) == pytest.approx(WHOLE, rel=1e-3), "light that is added hides nothing"
    assert hidden({**FRONT, "placing": {"move": [2, 0]}}) == pytest.approx(WHOLE / 4, rel=1e-3), "it hides what it stands before now"


def test_what_a_card_is_tucked_behind_hides_it_and_what_is_tucked_behind_it_hides_nothing() -> None:
    assert hidden(tuck={"behind": "wall", "card": "front"}) == pytest.approx(WHOLE / 2, rel=1e-3)
    assert hidden(tuck={"behind": "wall", "card": "front", "frames": [5, 9]}) == pytest.approx(WHOLE, rel=1e-3)
    patch = {"id": "patch", "picture": {"kind": "solid", "colour": [0, 0, 0]}, "cut": [{"matte": "post", "on": "frame"}]}
    behind = {"tuck": [{"behind": "post", "card": "front"}]}
    assert hidden({**FRONT, "cut": ["post"]}) == pytest.approx(WHOLE * 0.75, rel=1e-3)
    assert hidden({**FRONT, "opacity": 1e-6}, {**patch, **behind}) == pytest.approx(WHOLE, rel=1e-3)


@pytest.mark.parametrize(("lamp", "card"), [("nobody", "front"), ("front", "front"), ("veil", "front")])
def test_light_is_taken_of_other_element_cards_of_the_build(lamp: str, card: str) -> None:
    veil = {"id": "veil", "treat": True, "treatments": []}
    with pytest.raises(UmbraxError, match="no light to take: unknown element card of this build"):
        shot_of(LAMP, {**FRONT, "treatments": [bloom(feed={"card": lamp})]}, veil)


def test_what_takes_light_of_a_card_goes_with_it_and_is_told() -> None:
    """Deleting the lamp, copying without it, gathering it away: nothing is left that leads nowhere."""
    shot = shot_of(LAMP, {**FRONT, "treatments": [bloom(feed={"card": "lamp"})]})
    removal = card_removal(shot, "lamp")
    assert "bloom of card front" in removal.with_it
    assert apply(shot, removal.edits).card("front").treatments == ()
    assert brought(shot, ["front"], shot).left_out == ["bloom of card front"]
    both = apply(shot, brought(shot, ["lamp", "front"], shot).edits)
    assert both.card("front 2").treatments[0].feed.card == "lamp 2"  # type: ignore[attr-defined]
    with pytest.raises(UmbraxError, match="no light to take"):
        apply(shot, gathering(shot, ["lamp"])[1])
    recipe = kept(shot, "front")
    alone = shot_of(FRONT)
    assert laid_on(recipe, alone, "front", {}, {}).left_out == ["Bloom"]


def test_a_bundle_whose_light_is_hidden_only_by_what_is_in_it_stays_one() -> None:
    glowing = {**LAMP, "treatments": [bloom(hidden=True)]}
    bundle = {"id": "bundle", "picture": {"kind": "bundle", "build": [glowing]}}
    with pytest.raises(UmbraxError, match="hidden only by what is in it"):
        dissolving(shot_of(bundle, FRONT), "bundle")
    assert dissolving(shot_of(bundle), "bundle")


def test_hidden_light_is_the_same_in_a_window() -> None:
    veil = {"id": "veil", "treat": True, "treatments": [bloom(feed={"card": "lamp"})]}
    shot = shot_of({**LAMP, "treatments": [bloom(id="own", hidden=True)]}, {**FRONT, "opacity": 0.6}, veil)
    part = Window(MIDDLE - 21, HEIGHT // 2 - 9, MIDDLE + 15, HEIGHT // 2 + 30)
    assert np.array_equal(make(shot, reader(), window=part).pixels, make(shot, reader()).crop(part).pixels)
