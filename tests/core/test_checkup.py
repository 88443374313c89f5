"""Every rule of the check-up: a picture that trips it, a near miss that does not, and what a remedy does."""

import re
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from checkup_frames import HEIGHT, WIDTH, ArrayFrame, changed, coloured, disc, found, good, one, rules, with_alpha
from umbrax.core.checkup import RULES, Examined, compare, examine
from umbrax.core.checkup.sequence import differing_ranges
from umbrax.core.errors import UmbraxError
from umbrax.core.mattes.hashing import id_of_name
from umbrax.core.repair.indices import by_majority
from umbrax.core.repair.light import repaired


def test_a_good_render_has_no_findings() -> None:
    assert found(good(), good(1.5), good(3.0)) == []


def test_the_rules_are_those_of_the_guide() -> None:
    guide = (Path(__file__).parents[2] / "docs" / "guide" / "taking-in.md").read_text()
    told = re.findall(r"^\| `([a-z-]+)` \|", guide, re.M)
    assert sorted(told) == sorted([*RULES.kinds(), "version"]), "a version is examined when one is taken, not by a rule"


def test_a_light_pass_without_alpha_is_found_and_the_beautys_proposed() -> None:
    frame = good()
    finding = one("no-alpha", changed(frame, emission=frame.passes["emission"][1][..., :3]))
    assert (finding.pass_, finding.severity, finding.remedy) == ("emission", "note", {"do": "set", "alpha": "rgba"})


def test_several_lights_without_alpha_are_one_finding_with_one_remedy_for_all() -> None:
    frame = good()
    names = [name for name, (kind, _) in frame.passes.items() if kind in ("diffuse", "specular", "emission")]
    finding = one("no-alpha", changed(frame, **{name: frame.passes[name][1][..., :3] for name in names}))
    assert finding.pass_ is None
    assert finding.measure == {"passes": names}
    assert finding.remedy == {"do": "set", "alpha": "rgba", "passes": names}


def test_shadow_depth_and_plates_need_no_alpha() -> None:
    assert "no-alpha" not in rules(good())
    random = np.random.default_rng(1).uniform(0.1, 0.9, (HEIGHT, WIDTH, 3)).astype(np.float32)
    assert found(ArrayFrame({"rgba": ("beauty", random)})) == []


def test_lights_that_do_not_add_up_are_found_with_the_amount() -> None:
    frame = good()
    beauty = frame.passes["rgba"][1].copy()
    beauty[30:40, 30:40, :3] += 0.25
    finding = one("sum-residue", changed(frame, rgba=beauty))
    assert finding.measure["largest"] == pytest.approx(0.25, abs=1e-3)
    assert finding.measure["share"] == pytest.approx(100 / (WIDTH * HEIGHT), abs=1e-4)
    assert finding.remedy == {"do": "rest-pass"}


def test_rounding_to_half_floats_is_no_residue() -> None:
    frame = good()
    halves = {n: frame.passes[n][1].astype(np.float16).astype(np.float32) for n in ("rgba", "diffuse", "emission")}
    assert "sum-residue" not in rules(changed(frame, **halves))


def test_parts_beside_their_whole_are_not_added_twice() -> None:
    frame = good()
    half = frame.passes["diffuse"][1] * np.array([0.5, 0.5, 0.5, 1], np.float32)
    both = changed(frame, diffuse_direct=("diffuse", half), diffuse_indirect=("diffuse", half))
    assert "sum-residue" not in rules(replace(both, of={"diffuse_direct": "direct", "diffuse_indirect": "indirect"}))


def test_light_times_surface_colour_is_tried_as_a_sum() -> None:
    frame = good()
    albedo = np.full((HEIGHT, WIDTH, 3), (0.5, 0.25, 0.125), np.float32)
    diffuse = frame.passes["diffuse"][1].copy()
    diffuse[..., :3] /= albedo
    assert "sum-residue" not in rules(changed(frame, diffuse=diffuse, albedo=("surface_colour", albedo + 0 * diffuse[..., :3])))


def test_the_pass_that_would_explain_a_residue_is_named() -> None:
    frame = good()
    sheen = coloured(disc(38, 36, 12), 0.2, 0.2, 0.25)
    beauty = frame.passes["rgba"][1].copy()
    beauty[..., :3] += sheen
    assert one("sum-residue", changed(frame, rgba=beauty, fuzz=("other", sheen))).measure["explained_by"] == "fuzz"


@pytest.mark.parametrize(("name", "value"), [("shadow", 1.0), ("object_index", 0.0)])
def test_a_pass_constant_on_all_frames_is_found(name: str, value: float) -> None:
    flat = np.full((HEIGHT, WIDTH, 1), value, np.float32)
    finding = one("constant-pass", changed(good(), **{name: flat}), changed(good(1), **{name: flat}))
    assert (finding.pass_, finding.frames, finding.measure) == (name, (1, 2), {"value": [value]})


def test_a_pass_that_changes_over_the_frames_is_not_constant() -> None:
    flat = np.ones((HEIGHT, WIDTH, 1), np.float32)
    assert "constant-pass" not in rules(changed(good(), shadow=flat), good())
    assert "constant-pass" not in rules(changed(good(), shadow=flat), changed(good(), shadow=flat * 0.5))


def test_a_matte_channel_that_is_black_throughout_is_named() -> None:
    frame = good()
    mattes = frame.passes["mattes"][1] * np.array([1, 0, 1], np.float32)
    assert one("constant-pass", changed(frame, mattes=mattes)).pass_ == "mattes G"


def test_a_shadow_that_is_white_where_it_falls_is_found() -> None:
    frame = good()
    inverted = 1 - frame.passes["shadow"][1]
    assert one("shadow-polarity", changed(frame, shadow=inverted)).remedy == {"do": "set", "polarity": "shadow"}


def test_coloured_light_taken_away_is_told_apart() -> None:
    taken = (1 - good().passes["shadow"][1]) * np.array([0.9, 0.7, 0.4], np.float32)
    assert one("shadow-polarity", changed(good(), shadow=taken)).remedy == {"do": "set", "polarity": "taken"}


def test_a_frame_mostly_in_shadow_is_still_white_where_light_falls() -> None:
    shadow = np.full((HEIGHT, WIDTH, 1), 0.15, np.float32)
    shadow[:, :34] = 1.0
    assert "shadow-polarity" not in rules(changed(good(), shadow=shadow))


def test_a_backdrop_in_the_beauty_is_found_by_what_the_ids_leave_open() -> None:
    frame = good()
    wall = frame.passes["rgba"][1].copy()
    wall[..., :3] += (1 - wall[..., 3:]) * 0.2
    wall[..., 3] = 1
    lights = {name: with_alpha(frame.passes[name][1][..., :3], np.ones((HEIGHT, WIDTH))) for name in ("diffuse", "emission")}
    assert "baked-backdrop" in rules(changed(frame, rgba=wall, **lights))


def test_an_interior_that_fills_the_frame_has_no_backdrop() -> None:
    frame = good()
    ids = np.full((1, HEIGHT, WIDTH), id_of_name("wall"), np.uint32)
    full = np.full((HEIGHT, WIDTH), 1.0, np.float32)
    room = ArrayFrame(
        {"rgba": ("beauty", with_alpha(frame.passes["rgba"][1][..., :3] + 0.1, full))},
        {"object_ids": (ids, full[None], {"wall": id_of_name("wall")})},
    )
    assert "baked-backdrop" not in rules(room)


def with_ids(frame: ArrayFrame, ids: np.ndarray, coverage: np.ndarray, names: dict[str, int] | None) -> ArrayFrame:
    return replace(frame, ids={"object_ids": (ids, coverage, names)})


def test_filtered_ids_are_found_by_numbers_no_name_has() -> None:
    frame = good()
    ids, coverage, names = frame.ids["object_ids"]
    blurred = ids.copy()
    blurred[0, :, 1:] = (ids[0, :, 1:].astype(np.uint64) + ids[0, :, :-1]) // 2
    blurred[0][coverage[0] > 0] += np.arange(np.count_nonzero(coverage[0] > 0), dtype=np.uint32) % 97
    assert one("ids-damaged", with_ids(frame, blurred, coverage, names)).severity == "error"
    assert "ids-names" not in rules(with_ids(frame, blurred, coverage, names))


def test_coverages_beyond_one_or_short_of_it_are_found() -> None:
    frame = good()
    ids, coverage, names = frame.ids["object_ids"]
    assert "more than 1" in one("ids-damaged", with_ids(frame, ids, coverage * 1.05, names)).message
    assert "less than 1" in one("ids-damaged", with_ids(frame, ids, np.where(disc(38, 36, 8) > 0, coverage * 0.9, coverage), names)).message
    # half floats round coverages by less than one per cent
    assert "ids-damaged" not in rules(with_ids(frame, ids, coverage.astype(np.float16).astype(np.float32) * np.float32(1.003), names))


def test_ids_in_half_floats_and_layers_without_metadata_are_found() -> None:
    frame = good()
    assert one("ids-damaged", replace(frame, types={**frame.types, "object_ids": "half"})).measure == {"type": "half"}
    ranks = np.random.default_rng(2).uniform(0, 1, (HEIGHT, WIDTH, 4)).astype(np.float32)
    loose = changed(frame, things00=("other", ranks), things01=("other", ranks[::-1]))
    loose = replace(loose, types={**frame.types, "things00": "float", "things01": "float"})
    assert one("ids-damaged", loose).pass_ == "things00"
    assert "ids-damaged" not in rules(changed(frame, things00=("other", ranks[..., :3])))


def test_names_never_seen_and_objects_without_a_name_are_told() -> None:
    frame = good()
    ids, coverage, names = frame.ids["object_ids"]
    assert names is not None
    more = with_ids(frame, ids, coverage, {**names, "cellar": id_of_name("cellar")})
    assert one("ids-names", more).measure == {"never_seen": ["cellar"]}
    fewer = with_ids(frame, ids, coverage, {"ball": names["ball"]})
    finding = one("ids-names", fewer)
    assert finding.measure == {"unnamed": [f"{names['lamp']:08x}"]}
    assert one("ids-names", with_ids(frame, ids, coverage, None)).severity == "note"


def test_a_name_seen_on_one_frame_only_is_no_finding() -> None:
    first, second = good(), good()
    ids, coverage, names = second.ids["object_ids"]
    hidden = with_ids(second, np.where(ids == id_of_name("lamp"), id_of_name("ball"), ids).astype(np.uint32), coverage, names)
    assert "ids-names" not in rules(first, hidden)


def test_an_index_between_whole_numbers_is_found_and_rounding_is_not() -> None:
    frame = good()
    index = frame.passes["object_index"][1]
    soft = index.copy()
    soft[:, 1:] = (index[:, 1:] + index[:, :-1]) / 2
    assert one("index-smoothed", changed(frame, object_index=soft)).remedy == {"do": "set", "round": True}
    assert "index-smoothed" not in rules(changed(frame, object_index=index + np.float32(2e-4)))


def test_rounding_an_index_by_majority_never_makes_a_third_object() -> None:
    index = np.zeros((12, 12), np.float32)
    index[:, 6:] = 5
    soft = index.copy()
    soft[:, 5:7] = (2.3, 3.4)
    assert np.isin(by_majority(soft), (0, 5)).all()
    assert np.array_equal(by_majority(index), index)


def test_mattes_that_overlap_and_a_sky_left_in_are_found() -> None:
    frame = good()
    mattes = frame.passes["mattes"][1]
    overlapping = mattes + np.array([0, 0.2, 0], np.float32) * mattes[..., :1]
    assert one("matte-leak", changed(frame, mattes=overlapping)).measure["largest"] == pytest.approx(1.2)
    alpha = frame.passes["rgba"][1][..., 3]
    sky = mattes.copy()
    sky[..., 2] = 0.3 * (1 - alpha)
    finding = one("matte-leak", changed(frame, mattes=sky))
    assert finding.remedy == {"do": "set", "black": pytest.approx(0.3)}
    assert "matte-leak" not in rules(changed(frame, mattes=mattes * np.float32(1.01)))


def late(offset: tuple[float, float] = (0, 0), low: float = 0.0, high: float = 1.0) -> ArrayFrame:
    matte = low + (high - low) * disc(38 + offset[0], 36 + offset[1], 20)
    return changed(good(), late=("single_matte", matte[..., None].astype(np.float32)))


def test_a_late_matte_beside_the_picture_is_found_in_pixels() -> None:
    finding = one("late-matte", late((1.5, -1.0)))
    assert finding.measure["x_px"] == pytest.approx(1.5, abs=0.4)
    assert finding.measure["y_px"] == pytest.approx(-1.0, abs=0.4)


def test_a_late_matte_with_grey_plateaus_is_found_with_its_levels() -> None:
    finding = one("late-matte", late(low=0.1, high=0.9))
    assert finding.measure == {"black": pytest.approx(0.1, abs=1e-3), "white": pytest.approx(0.9, abs=1e-3)}


def test_a_late_matte_that_fits_is_no_finding_and_one_of_another_size_is() -> None:
    assert "late-matte" not in rules(late())
    assert "late-matte" not in rules(late((0.15, 0.1)))
    small = changed(good(), late=("single_matte", disc(38, 36, 20)[:-2, :, None]))
    assert one("late-matte", small).measure == {"size": [WIDTH, HEIGHT - 2], "beauty": [WIDTH, HEIGHT]}


def test_a_late_matte_of_other_frames_is_told_in_frames() -> None:
    def sequence(shift: int) -> list[ArrayFrame]:
        return [changed(good(3 * n), late=("single_matte", disc(38 + 3 * (n + shift), 36, 20)[..., None])) for n in range(5)]

    assert "late-matte" not in rules(*sequence(0))
    assert {"frames": 1} in [finding.measure for finding in found(*sequence(1)) if finding.rule == "late-matte"]


def test_a_matte_empty_on_some_frames_is_told_with_the_frames() -> None:
    frame = good()
    empty = frame.passes["mattes"][1] * np.array([1, 0, 1], np.float32)
    finding = one("matte-empty", frame, changed(frame, mattes=empty), frame)
    assert (finding.pass_, finding.frames) == ("mattes G", (2,))
    assert "matte-empty" not in rules(frame, changed(frame, mattes=frame.passes["mattes"][1] * np.float32(0.5)))


def deep(values: np.ndarray) -> ArrayFrame:
    return changed(good(), depth=values)


def test_what_depth_means_is_found() -> None:
    depth = good().passes["depth"][1]
    there = np.isfinite(depth)
    assert "flat" in one("depth-meaning", deep(np.where(there, 7.0, np.inf))).message
    assert "normalised" in one("depth-meaning", deep(np.where(there, depth / 20, 1.0))).message
    assert "inverted" in one("depth-meaning", deep(np.where(there, 20 - depth, 0.0))).message
    assert "clipped" in one("depth-meaning", deep(np.where(there, np.minimum(depth, 6.2), np.inf))).message


def test_a_flat_object_far_away_is_no_clipped_depth() -> None:
    """A board that faces the camera has one depth, with nothing that leads up to it: by its ID, and without IDs by its surroundings."""
    frame = good()
    depth = frame.passes["depth"][1].copy()
    depth[:24, :40] = 30.0
    beauty = frame.passes["rgba"][1].copy()
    beauty[:24, :40, 3] = 1
    board = changed(frame, depth=depth, rgba=beauty)
    assert "depth-meaning" not in rules(replace(board, ids={}))
    ids, coverage, names = (part.copy() for part in frame.ids["object_ids"])
    ids[0, :24, :40], coverage[0, :24, :40] = id_of_name("board"), 1
    assert "depth-meaning" not in rules(replace(board, ids={"object_ids": (ids, coverage, names | {"board": id_of_name("board")})}))


@pytest.mark.parametrize(("kind", "levels", "channels"), [("object_index", 9, 1), ("rgb_matte", 2, 3), ("single_matte", 2, 1)])
def test_a_pass_whose_name_tells_nothing_is_told_by_its_values(kind: str, levels: int, channels: int) -> None:
    patches = np.random.default_rng(3).integers(0, levels, (HEIGHT // 8, WIDTH // 8, channels)).astype(np.float32)
    values = np.kron(patches, np.ones((8, 8, 1), np.float32))
    frame = good()
    finding = one("kind", replace(frame, passes=frame.passes | {"stuff": ("other", values)}))
    assert (finding.pass_, finding.severity, finding.remedy) == ("stuff", "note", {"do": "set", "kind": kind})
    light = values * np.linspace(0.2, 0.8, WIDTH, dtype=np.float32)[None, :, None]
    grey = np.repeat(values[..., :1] > 0, 3, axis=2).astype(np.float32)
    for near_miss in (light, grey, np.where(values > 0, np.inf, 0).astype(np.float32), np.zeros_like(values)):
        assert "kind" not in rules(replace(frame, passes=frame.passes | {"stuff": ("other", near_miss)}))
    assert "kind" not in rules(replace(frame, passes=frame.passes | {"stuff": ("diffuse", values)}))


def test_a_backdrop_explains_what_ids_do_not_cover() -> None:
    frame = good()
    beauty = frame.passes["rgba"][1].copy()
    beauty[..., 3] = 1
    told = [finding for finding in found(changed(frame, rgba=beauty)) if finding.rule in ("baked-backdrop", "ids-damaged")]
    assert [finding.rule for finding in told] == ["baked-backdrop"]


def test_logarithmic_film_codes_are_told_of() -> None:
    finding = one("colour-space", replace(good(), tags={"colour_space": "film_log"}))
    assert finding.severity == "note"
    assert "logarithmic" in finding.message


def test_depth_as_good_renders_have_it_is_no_finding() -> None:
    depth = good().passes["depth"][1]
    for nothing in (np.inf, 1e10, 0.0):
        assert "depth-meaning" not in rules(deep(np.where(np.isfinite(depth), depth, nothing))) or nothing == 0.0


def test_anti_aliased_depth_is_found_at_its_edges() -> None:
    depth = np.where(np.isfinite(good().passes["depth"][1]), good().passes["depth"][1], 60.0)
    soft = depth.copy()
    soft[:, 1:-1] = (depth[:, :-2] + depth[:, 1:-1] + depth[:, 2:]) / 3
    assert "anti-aliased" in one("depth-meaning", deep(soft)).message
    assert "depth-meaning" not in rules(deep(depth))


def test_a_steep_slope_of_depth_is_no_anti_aliased_edge() -> None:
    """Ground at a camera that lies on it: depth grows by half and more from pixel to pixel, and everywhere."""
    ground = np.zeros_like(good().passes["depth"][1])
    ground[:] = (0.05 * np.arange(len(ground), 0, -1, dtype=np.float32) ** 2).reshape(-1, *[1] * (ground.ndim - 1))
    assert "depth-meaning" not in rules(deep(ground))


def test_impossible_pixels_are_counted_and_repaired() -> None:
    frame = good()
    diffuse = frame.passes["diffuse"][1].copy()
    diffuse[36, 38, 0], diffuse[38, 38, 1], diffuse[40, 38, 2], diffuse[36, 44, 0] = np.nan, np.inf, -0.5, 800.0
    finding = one("bad-pixels", changed(frame, diffuse=diffuse))
    assert finding.measure == {"not_finite": 2, "negative": 1, "fireflies": 1, "at": [38, 36]}
    again = repaired(diffuse)
    assert "bad-pixels" not in rules(changed(frame, diffuse=again))
    untouched = np.ones((HEIGHT, WIDTH), bool)
    untouched[[36, 38, 40, 36], [38, 38, 38, 44]] = False
    assert np.array_equal(again[untouched], diffuse[untouched])


def test_a_small_bright_lamp_is_no_firefly_and_infinite_depth_no_bad_pixel() -> None:
    frame = good()
    emission = frame.passes["emission"][1].copy()
    emission[28:32, 72:77, :3] = 60.0
    assert "bad-pixels" not in rules(changed(frame, emission=emission))
    assert repaired(emission) is emission


def test_unassociated_colours_are_found_at_the_rims() -> None:
    frame = good()
    beauty = frame.passes["rgba"][1].copy()
    alpha = beauty[..., 3:]
    beauty[..., :3] = np.where(alpha > 0, beauty[..., :3] / np.where(alpha > 0, alpha, 1), 0)
    assert one("association", changed(frame, rgba=beauty)).remedy == {"do": "set", "association": "multiply"}
    told = frozenset({"rgba"})
    assert "association" not in rules(replace(changed(frame, rgba=beauty), unassociated=told))
    assert one("association", replace(frame, unassociated=told)).remedy == {"do": "set", "association": "as_is"}
    coded = {**frame.types, "rgba": "u8"}
    assert "association" not in rules(replace(frame, types=coded)), "an 8-bit file may be multiplied as well"


def test_a_colour_tag_that_contradicts_the_values_is_found() -> None:
    frame = good()
    turned = one("colour-space", replace(frame, tags={"primaries": "lin_ap1", "colour_space": "ACEScg"}))
    in_them = {"do": "work-in", "working": "lin_ap1"}
    assert (turned.severity, turned.remedy, "ACEScg (AP1)" in turned.message) == ("note", in_them, True)
    assert one("colour-space", replace(frame, tags={"primaries": "lin_ap0"})).remedy is None, "nothing works in those"
    assert "colour-space" not in rules(replace(frame, tags={"primaries": "lin_rec709"}))
    assert one("colour-space", replace(frame, tags={"colour_space": "sRGB"})).remedy == {"do": "set", "colour": "lin_rec709"}
    assert "colour-space" not in rules(replace(frame, tags={"colour_space": "lin_rec709"}))
    coded = replace(frame, tags={"colour_space": "linear"}, types={**frame.types, "rgba": "u8"})
    assert one("colour-space", coded).remedy == {"do": "set", "colour": "srgb_tx"}
    assert "colour-space" not in rules(replace(coded, tags={"colour_space": "sRGB"}))


def test_holes_damaged_and_differing_frames_are_found() -> None:
    def opening(frame: int) -> ArrayFrame:
        if frame == 3:
            raise UmbraxError("bad-file", "cannot read 'x.0003.exr': it is cut off")
        return good() if frame != 6 else ArrayFrame({"rgba": ("beauty", good().passes["rgba"][1][:40])})

    told = {tuple(f.frames): f for f in examine("station", [1, 2, 3, 5, 6], opening) if f.rule == "frames"}
    assert set(told) == {(3,), (4,), (6,)}
    assert "cut off" in told[(3,)].message
    assert told[(4,)].remedy == {"do": "set", "missing": "hold"}
    assert told[(6,)].measure["other"] == [WIDTH, 40]
    assert not examine("still", [0], lambda frame: good(), still=True)


def test_sources_whose_ranges_differ_are_told() -> None:
    assert differing_ranges({"a": (1, 48), "b": (1, 48)}) == []
    assert [f.source for f in differing_ranges({"a": (1, 48), "b": (1, 48), "c": (1, 40)})] == ["c"]


def test_a_version_with_an_object_gone_and_one_renamed_says_so() -> None:
    old = good()
    ids, coverage, names = old.ids["object_ids"]
    assert names is not None
    new_names = {"beacon": id_of_name("beacon")}
    new_ids = np.where(ids == names["lamp"], new_names["beacon"], 0).astype(np.uint32)
    new = replace(changed(old, emission=None), ids={"object_ids": (new_ids, np.where(new_ids > 0, coverage, 0), new_names)})
    told = {(f.pass_, tuple(f.measure)): f for f in compare("station", Examined(old), Examined(new), [1, 2, 3], [1, 2])}
    assert told[(None, ("lost",))].measure == {"lost": ["emission"]}
    assert told[("object_ids", ("lost",))].measure == {"lost": ["ball"]}
    assert told[("object_ids", ("renamed",))].remedy == {"do": "rename", "names": {"lamp": "beacon"}}
    assert told[(None, ("lost_frames",))].frames == (3,)
    assert compare("station", Examined(old), Examined(old), [1], [1]) == []


def test_findings_come_worst_first_and_say_where() -> None:
    frame = good()
    bad = changed(frame, emission=frame.passes["emission"][1][..., :3], shadow=1 - frame.passes["shadow"][1])
    listed = found(bad)
    assert [f.severity for f in listed] == sorted((f.severity for f in listed), key=("error", "warning", "note").index)
    assert listed[0].payload() | {"measure": 0, "message": 0} == {
        "rule": "shadow-polarity", "source": "station", "pass": "shadow", "frames": [1], "severity": "warning", "measure": 0,
        "message": 0, "remedy": {"do": "set", "polarity": "shadow"}, "placed": False,
    }  # fmt: skip
