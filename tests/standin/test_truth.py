"""The stand-in against itself as truth, and the product's cuts against the stand-in."""

from fnmatch import fnmatch
from pathlib import Path

import numpy as np
import pytest

from arrays import assert_near
from umbrax.core.document.parameters import MatteRef
from umbrax.core.document.text import read_data
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.media.fastcopies import FastCopies
from umbrax.media.listing import list_passes
from umbrax.media.reader import MediaReader
from umbrax.standin.casting.packets import SAMPLES
from umbrax.standin.coverage import covered
from umbrax.standin.exr import balloon_channels, channels_of, write_exr, write_frame
from umbrax.standin.frames import LIGHTS, Frame, render
from umbrax.standin.plate import valley
from umbrax.standin.scene import balloon, observatory, together
from umbrax.standin.shots import dome_at_dusk

WIDTH, HEIGHT = 320, 180
HALF_STEP = 2.0**-11
DOME = ("dome_shell", *(f"dome_rib_{n}" for n in range(1, 7)))


@pytest.fixture(scope="module")
def frame() -> Frame:
    return render(observatory(1005), WIDTH, HEIGHT)


def test_the_same_frame_is_the_same_whenever_it_is_rendered(frame: Frame) -> None:
    again = render(observatory(1005), WIDTH, HEIGHT)
    assert np.array_equal(frame.beauty, again.beauty)
    assert np.array_equal(frame.seen, again.seen)
    assert not np.array_equal(frame.beauty, render(observatory(1006), WIDTH, HEIGHT).beauty)


def test_coverages_of_all_objects_and_of_all_materials_are_the_alpha(frame: Frame) -> None:
    assert np.array_equal(frame.object_coverage(*frame.scene.objects), frame.alpha)
    assert np.array_equal(frame.material_coverage(*frame.scene.materials), frame.alpha)


def test_light_passes_add_up_to_the_beauty_in_the_file(frame: Frame) -> None:
    channels, _ = channels_of(frame)
    for letter in "RGB":
        beauty = channels[letter].astype(np.float64)
        total = sum(channels[f"{light}.{letter}"].astype(np.float64) for light in LIGHTS)
        largest = np.maximum(np.abs(beauty), max(1e-4, 0))
        assert (np.abs(total - beauty) <= (len(LIGHTS) + 1) / 2 * largest * HALF_STEP * 2 + 1e-6).all()


def test_twice_an_objects_light_changes_that_object_only(frame: Frame) -> None:
    doubled = render(observatory(1005), WIDTH, HEIGHT, gains={"drum": 2.0})
    drum = frame.object_coverage("drum")
    assert np.array_equal(doubled.beauty[drum == 0], frame.beauty[drum == 0])
    assert doubled.beauty[drum == 1] == pytest.approx(2 * frame.beauty[drum == 1], rel=1e-5)


def test_an_object_alone_covers_at_least_what_is_seen_of_it(frame: Frame) -> None:
    alone = render(observatory(1005), WIDTH, HEIGHT, only="drum")
    assert (alone.alpha >= frame.object_coverage("drum")).all()
    assert alone.scene.objects == ["drum"]


def test_the_terrace_is_in_the_shadow_pass_only(frame: Frame) -> None:
    below = (frame.alpha == 0) & (frame.shadow < 0.9)
    assert below.sum() > 200
    assert not frame.beauty[below].any()
    assert np.isinf(frame.depth[below]).all()


def test_the_written_file_is_recognised_whole(frame: Frame, tmp_path: Path) -> None:
    write_frame(tmp_path / "f.exr", frame)
    found = list_passes(str(tmp_path / "f.exr"))
    kinds = {p["kind"] for p in found["passes"]}
    assert {
        "beauty",
        *LIGHTS,
        "shadow",
        "depth",
        "normal",
        "position",
        "motion",
        "object_index",
        "material_index",
        "rgb_matte",
        "ids",
    } <= kinds
    assert {i["layer"]: (i["kind"], i["ranks"]) for i in found["ids"]} == {
        "object_ids": ("object", 6),
        "material_ids": ("material", 6),
        "asset_ids": ("asset", 6),
    }
    assert sorted(frame.scene.objects) == next(i for i in found["ids"] if i["layer"] == "object_ids")["names"]


def cut_by_dome(frame: Frame, tmp_path: Path, **refine: float) -> np.ndarray:
    write_frame(tmp_path / "f.exr", frame)
    shot = read_data(
        {
            "umbrax": 1, "name": "x", "format": {"width": WIDTH, "height": HEIGHT, "first": 1, "last": 1}, "sources": {"s": {"path": "f.exr"}},
            "mattes": {"dome": {"kind": "id", "source": "s", "layer": "object_ids", "names": ["dome_shell", "dome_rib_*"], "refine": refine}},
            "build": [{"id": "c", "picture": {"kind": "rebuild", "source": "s"}, "cut": ["dome"]}],
        }
    )  # fmt: skip
    reader = MediaReader(shot.sources, [tmp_path], FastCopies(tmp_path / "fast"))
    return evaluate(ShotPlanner(shot, 1, reader).picture(), shot.format.display, PictureCache(1 << 28)).pixels


def test_a_cut_by_the_dome_has_the_stand_ins_own_dome_alpha(frame: Frame, tmp_path: Path) -> None:
    expected = frame.object_coverage(*DOME)
    out = cut_by_dome(frame, tmp_path)
    six_hold_all = (frame.counts > 0).sum(axis=2) <= 6
    assert six_hold_all.mean() > 0.99
    assert np.abs(out[..., 3] - expected)[six_hold_all].max() <= 2 * HALF_STEP
    only_sky = (frame.alpha == expected) & (expected > 0)
    lights = sum(frame.lights[light].astype(np.float16).astype(np.float32) for light in LIGHTS)
    assert_near(out[only_sky][:, :3], lights[only_sky], 1e-5, relative=1e-4)
    # where two objects share a pixel their light is mixed in the render: what is left over is bounded by the neighbour's
    assert (out[..., :3] <= lights + 1e-4).all()


@pytest.mark.parametrize("refine", [{}, {"grow": -2.0}, {"feather": 3.0}, {"grow": -2.0, "feather": 3.0}])
def test_the_cut_dome_over_green_shows_no_dark_line_at_its_rim(frame: Frame, tmp_path: Path, refine: dict[str, float]) -> None:
    out = cut_by_dome(frame, tmp_path, **refine)
    green = np.array([0.0, 0.5, 0.0])
    over = out[..., :3] + (1 - out[..., 3:]) * green
    expected = frame.object_coverage(*DOME)
    sky_rim = (expected > 0) & (expected < 1) & (frame.alpha == expected)
    assert sky_rim.sum() > 20
    inside = frame.beauty[sky_rim] / frame.alpha[sky_rim][:, None]
    assert (over[sky_rim] >= np.minimum(inside, green) - 1 / 255).all()


def test_the_plate_is_a_whole_picture_without_holes() -> None:
    plate = valley(observatory(1001), WIDTH, HEIGHT)
    assert np.isfinite(plate).all()
    assert plate.min() >= 0
    assert 0.02 < plate.mean() < 0.6
    assert np.array_equal(plate, valley(observatory(1001), WIDTH, HEIGHT))


@pytest.mark.parametrize(("objects", "materials"), [(("drum", "drum_band"), ("wood",)), (("mast_*",), ("steel",)), (("dome_*",), ("brass",))])
def test_an_object_crossed_with_a_material_is_the_truth_where_a_pixel_holds_one_of_either(
    frame: Frame, tmp_path: Path, objects: tuple[str, ...], materials: tuple[str, ...]
) -> None:
    """Elsewhere a coverage of each tells no more than bounds (M. Frechet, 1935): max(0, a + b - all) <= both <= min(a, b)."""
    write_frame(tmp_path / "f.exr", frame)
    mattes = {
        "object": {"kind": "id", "source": "s", "layer": "object_ids", "names": objects},
        "material": {"kind": "id", "source": "s", "layer": "material_ids", "names": materials},
        "both": {"kind": "combined", "how": "all_of", "mattes": ["object", "material"]},
    }
    layout = {"width": WIDTH, "height": HEIGHT, "first": 1, "last": 1}
    shot = read_data({"umbrax": 1, "name": "x", "format": layout, "sources": {"s": {"path": "f.exr"}}, "mattes": mattes, "build": []})
    planner = ShotPlanner(shot, 1, MediaReader(shot.sources, [tmp_path], FastCopies(tmp_path / "fast")))
    a, b, got = (
        evaluate(planner.coverage(MatteRef(matte=name), 1), shot.format.display, PictureCache(1 << 26)).pixels[..., 0] for name in mattes
    )
    things = frame.scene.things
    of_object = [any(fnmatch(thing.object, pattern) for pattern in objects) for thing in things]
    wanted = [one and thing.material in materials for one, thing in zip(of_object, things, strict=True)]
    truth = covered(frame.seen, frame.counts, np.array(wanted), SAMPLES)
    one_object = _kinds_seen(frame, [thing.object for thing in things]) <= 1
    one_material = _kinds_seen(frame, [thing.material for thing in things]) <= 1
    assert truth.max() == 1
    assert np.abs(got - truth)[one_object | one_material].max() <= 1e-3
    low, high = np.maximum(0, a + b - frame.alpha), np.minimum(a, b)
    for value in (got, truth):
        assert (value >= low - 1e-3).all()
        assert (value <= high + 1e-3).all()


def _kinds_seen(frame: Frame, names: list[str]) -> np.ndarray:
    """How many different names a pixel holds."""
    numbers = np.array([*(list(dict.fromkeys(names)).index(name) for name in names), -1])
    seen = np.sort(np.where(frame.counts > 0, numbers[frame.seen], -1), axis=2)
    return np.asarray(((np.diff(seen, axis=2) > 0) & (seen[..., 1:] >= 0)).sum(axis=2) + (seen[..., 0] >= 0))


@pytest.mark.parametrize("number", [1016, 1021, 1026, 1031, 1036])
def test_the_tucked_balloon_is_seen_as_it_is_among_the_masts(number: int, tmp_path: Path) -> None:
    """What of a white balloon is seen among black masts, put together of two renders by a tuck, against one render of both.

    The light itself is not compared: rendered together they shade and mirror one another. Where edges cross in one pixel nobody knows
    which part of it which covers; there the tuck has the mean of what may be.
    """
    scenes = observatory(number), balloon(number)
    station, drifting, joint = (render(scene, WIDTH, HEIGHT) for scene in (*scenes, together(*scenes)))
    write_frame(tmp_path / "s.exr", station)
    write_exr(tmp_path / "b.exr", *balloon_channels(drifting))
    data = dome_at_dusk()
    tuck = next(card["tuck"] for card in data["build"] if card["id"] == "balloon")
    black, white = ({"kind": "levels", "out_black": v, "out_white": v} for v in (0.0, 1.0))
    document = data | {
        "format": {"width": WIDTH, "height": HEIGHT, "first": number, "last": number},
        "sources": {"station": {"path": "s.exr"}, "balloon": {"path": "b.exr"}},
        "build": [
            {"id": "station", "picture": {"kind": "pass", "source": "station"}, "treatments": [{"id": "b", **black}]},
            {"id": "balloon", "picture": {"kind": "pass", "source": "balloon"}, "tuck": tuck, "treatments": [{"id": "w", **white}]},
        ],
    }
    shot = read_data(document)
    planner = ShotPlanner(shot, number, MediaReader(shot.sources, [tmp_path], FastCopies(tmp_path / "fast")))
    got = evaluate(planner.picture(), shot.format.display, PictureCache(1 << 28)).pixels[..., 0]
    wanted = joint.object_coverage(*scenes[1].objects)
    there, masts = drifting.alpha > 0, station.alpha
    crossing = there & (drifting.alpha < 1) & (masts > 0)
    assert (there & (masts > 0)).any(), "they meet on this frame"
    assert np.abs(got - wanted)[~crossing].max() <= 2 / 255
    assert np.abs(got - wanted)[crossing].mean() < 0.12
