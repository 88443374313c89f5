"""Only what is needed is computed: content keys, windows, the cache, cancellation, broken cards, threads."""

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import pytest

from arrays import PLATE, STATION, card, make, scene, shot_of
from umbrax.core.errors import Cancelled, UmbraxError
from umbrax.core.picture import Picture, Window
from umbrax.core.pictures.base import last_channel
from umbrax.core.plan.cache import PictureCache
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.steps import Step, content_key, pointwise

WHOLE = Window(0, 0, 120, 90)


def finish(**settings: object) -> dict[str, object]:
    return {"id": "finish", "treat": True, "treatments": [{"id": "t9", "kind": "grade", **settings}]}


def graded_station(exposure: float) -> dict[str, object]:
    return card(STATION, treatments=[{"id": "t1", "kind": "grade", "exposure": exposure, "through": "ball"}])


def test_a_changed_parameter_of_the_front_card_computes_that_card_only() -> None:
    cache, reader = PictureCache(1 << 28), scene()
    make(shot_of([PLATE, graded_station(1.0), finish(exposure=0.5)]), reader, cache=cache)
    cache.counters.computed.clear()
    read = len(reader.read)
    make(shot_of([PLATE, graded_station(1.0), finish(exposure=0.6)]), reader, cache=cache)
    assert cache.counters.computed == {"grade": 1}
    assert len(reader.read) == read, "nothing was read again"


def test_a_changed_parameter_further_back_leaves_what_lies_behind_it() -> None:
    cache, reader = PictureCache(1 << 28), scene()
    make(shot_of([PLATE, graded_station(1.0), finish(exposure=0.5)]), reader, cache=cache)
    cache.counters.computed.clear()
    make(shot_of([PLATE, graded_station(2.0), finish(exposure=0.5)]), reader, cache=cache)
    assert cache.counters.computed == {"grade": 2, "join 3 over": 1}


def test_several_id_mattes_of_a_layer_are_pulled_in_one_reading_and_kept_each_by_itself() -> None:
    cache, reader = PictureCache(1 << 28), scene()
    treatments = [{"id": f"t{n}", "kind": "grade", "exposure": 0.5 + n, "through": matte} for n, matte in enumerate(("ball", "lamp", "both"))]
    both = {"both": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["ball", "lamp"]}}
    make(shot_of([PLATE, card(STATION, treatments=treatments)], mattes=both), reader, cache=cache)
    assert cache.counters.computed["ID matte"] == 3
    assert reader.read.count(("station", "object_ids")) == 1
    cache.counters.computed.clear()
    elsewhere = both | {"lamp": {"kind": "id", "source": "station", "layer": "object_ids", "names": ["bal*"]}}
    first = make(shot_of([PLATE, card(STATION, treatments=treatments)], mattes=elsewhere), reader, cache=cache)
    assert "ID matte" not in cache.counters.computed, "the names are those of a matte that is there"
    again = make(shot_of([PLATE, card(STATION, treatments=treatments)], mattes=elsewhere), scene())
    assert np.array_equal(first.pixels, again.pixels)


def test_what_only_hides_something_at_full_size_is_not_lit_there() -> None:
    """A line that what is nearer hides is found at full size, also of a preview: that needs the alpha of a rebuild and not its lights."""
    line = {"id": "line", "treat": True, "treatments": [{"id": "t1", "kind": "outline", "of": "ball", "form": "open", "smallest": 1.0}]}
    cache, reader = PictureCache(1 << 28), scene()
    seen = make(shot_of([PLATE, STATION, line]), reader, cache=cache, scale=2)
    assert cache.counters.computed["outline"] == 1
    assert cache.counters.computed["depth joined"] == 1
    assert cache.counters.computed["rebuild 1"] == 1, "that of the preview"
    without = make(shot_of([PLATE, STATION]), scene(), scale=2)
    assert not np.array_equal(seen.pixels, without.pixels)


def test_a_still_is_computed_once_for_all_frames() -> None:
    cache, reader = PictureCache(1 << 28), scene()
    shot = shot_of([card(PLATE, treatments=[{"id": "t", "kind": "soften", "size": 4}])])
    for frame in (1, 2, 3):
        make(shot, reader, frame=frame, cache=cache)
    assert cache.counters.computed["soften"] == 1


def test_bloom_feeds_are_shared_while_only_its_look_changes() -> None:
    cache, reader = PictureCache(1 << 28), scene()
    for size, amount in ((20.0, 0.2), (30.0, 0.2), (30.0, 0.4)):
        bloom = {"id": "t9", "kind": "bloom", "size": size, "amount": amount}
        make(shot_of([PLATE, STATION, {"id": "f", "treat": True, "treatments": [bloom]}]), reader, cache=cache)
    assert cache.counters.computed["feed"] == 1
    assert cache.counters.computed["bloom"] == 2


def test_changed_light_is_added_again_and_its_card_is_not_joined_again() -> None:
    cache, reader = PictureCache(1 << 28), scene()
    for size in (20.0, 30.0):
        bloom = {"id": "t9", "kind": "bloom", "size": size, "threshold": 0.0, "amount": 0.5}
        made = make(shot_of([PLATE, card(STATION, treatments=[bloom])]), reader, cache=cache)
    assert cache.counters.computed["join 3 over"] == 1
    assert cache.counters.computed["light 1"] == 2
    without = make(shot_of([PLATE, card(STATION)]), reader, cache=cache)
    assert (made.pixels[..., :3] - without.pixels[..., :3]).min() >= -1e-6
    assert (made.pixels[..., :3] - without.pixels[..., :3]).max() > 0.01
    assert cache.counters.computed["join 3 over"] == 1, "what it is added to is the shot without it"


def test_edges_of_depth_are_told_apart_once_however_the_lens_changes() -> None:
    cache, reader = PictureCache(1 << 28), scene()
    for radius, focus in ((3.0, 5.0), (4.0, 5.0), (4.0, 7.0)):
        lens = {"id": "t9", "kind": "defocus", "radius": radius, "focus": focus}
        make(shot_of([PLATE, card(STATION, treatments=[lens])]), reader, cache=cache)
    assert cache.counters.computed["defocus"] == 3
    assert cache.counters.computed["depth told apart"] == 1


def test_what_a_source_now_holds_changes_the_picture() -> None:
    cache, reader = PictureCache(1 << 28), scene()
    first = make(shot_of([PLATE]), reader, cache=cache).pixels
    kind, pixels = reader.sources["valley"].passes["rgba"]
    reader.sources["valley"].passes["rgba"] = (kind, pixels * 2)
    reader.sources["valley"].version = "2"
    assert np.array_equal(make(shot_of([PLATE]), reader, cache=cache).pixels[..., :3], first[..., :3] * 2)


def test_only_the_window_is_read() -> None:
    seen: list[Window] = []

    class Watching(type(scene())):  # type: ignore[misc]
        def pixels(self, source: str, frame: int, name: str, window: Window, shown: bool = False) -> np.ndarray:
            seen.append(window)
            return super().pixels(source, frame, name, window)

    reader = Watching(**scene().sources)
    make(
        shot_of([card(PLATE, treatments=[{"id": "t", "kind": "soften", "size": 2}])]),
        reader,
        window=Window(50, 40, 60, 50),
    )
    assert len(seen) == 1
    assert seen[0].width < 40


def test_cancelling_stops_between_steps_and_leaves_the_cache_whole() -> None:
    calls = [0]

    def watch() -> None:
        calls[0] += 1
        if calls[0] == 4:
            raise Cancelled

    shot, cache = shot_of([PLATE, graded_station(1.0), finish(exposure=1)]), PictureCache(1 << 28)
    step = ShotPlanner(shot, 1, scene()).picture()
    with pytest.raises(Cancelled):
        evaluate(step, WHOLE, cache, watch=watch)
    assert calls[0] == 4
    assert np.array_equal(evaluate(step, WHOLE, cache).pixels, make(shot, scene()).pixels)


def test_large_windows_are_computed_in_bands_with_the_same_pixels(monkeypatch: pytest.MonkeyPatch) -> None:
    shot = shot_of([PLATE, graded_station(1.0)])
    whole = make(shot, scene()).pixels
    monkeypatch.setattr("umbrax.core.plan.evaluate.BAND_PIXELS", 120 * 7)
    looks = [0]
    step = ShotPlanner(shot, 1, scene()).picture()
    out = evaluate(step, WHOLE, PictureCache(1 << 28), watch=lambda: looks.__setitem__(0, looks[0] + 1))
    assert np.array_equal(out.pixels, whole)
    assert looks[0] > 60, "it looks up between bands"


def test_a_rim_takes_its_depth_from_beyond_a_window_and_a_band(monkeypatch: pytest.MonkeyPatch) -> None:
    """A pixel whose middle saw nothing is as far away as what is beside it, whatever part of the picture is asked for."""
    reader = scene()
    rgba, depth = (reader.sources["station"].passes[name][1] for name in ("rgba", "depth"))
    depth[rgba[..., 3] < 1] = np.inf
    shot = shot_of([PLATE, STATION])
    step = ShotPlanner(shot, 1, reader).build_depth(shot.build, 1)
    assert step is not None
    whole = evaluate(step, WHOLE, PictureCache(1 << 28)).pixels
    rim = (rgba[..., 3] >= 0.5) & (rgba[..., 3] < 1)
    assert rim.sum() > 50
    assert np.isfinite(whole[rim]).all()
    for y in range(WHOLE.height):
        row = evaluate(step, Window(0, y, WHOLE.width, y + 1), PictureCache(1 << 28)).pixels
        assert np.array_equal(row[0], whole[y])
    monkeypatch.setattr("umbrax.core.plan.evaluate.BAND_PIXELS", 120)
    assert np.array_equal(evaluate(step, WHOLE, PictureCache(1 << 28)).pixels, whole)


def test_eight_threads_get_what_one_gets() -> None:
    shot = shot_of([PLATE, graded_station(1.0), finish(exposure=0.4, contrast=1.2)])
    wants = [(frame, upto, n) for frame in (1, 2) for upto in ("sky", "station", "finish") for n in (1, 2, 4)]
    reader = scene()

    def one(want: tuple[int, str, int], cache: PictureCache) -> np.ndarray:
        step = ShotPlanner(shot, want[0], reader).picture(want[1], want[2])
        return evaluate(step, WHOLE.scaled(want[2]), cache).pixels

    alone = [one(want, PictureCache(1 << 28)) for want in wants]
    shared = PictureCache(2 << 20)  # small: entries come and go
    with ThreadPoolExecutor(8) as pool:
        together = list(pool.map(lambda want: one(want, shared), wants * 4))
    for index, pixels in enumerate(together):
        assert np.array_equal(pixels, alone[index % len(wants)])


def test_a_broken_card_is_named_and_the_others_still_compute() -> None:
    broken = {"id": "balloon", "picture": {"kind": "plate", "source": "balloon"}}
    shot = shot_of([PLATE, broken, STATION], sources={k: {"path": k} for k in ("station", "valley", "balloon")})
    with pytest.raises(UmbraxError) as told:
        ShotPlanner(shot, 7, scene()).picture()
    assert told.value.where.card == "balloon"
    assert told.value.where.frame == 7
    planner = ShotPlanner(shot, 7, scene(), keep_going=True)
    out = evaluate(planner.picture(), WHOLE, PictureCache(1 << 28))
    assert list(planner.broken) == ["balloon"]
    assert np.array_equal(out.pixels, make(shot_of([PLATE, STATION]), scene()).pixels)


def test_running_a_shot_adds_no_kernel_signature() -> None:
    from umbrax.core.kernels import KERNELS

    declared = {name: list(dispatcher.signatures) for name, dispatcher in KERNELS.items()}
    make(shot_of([PLATE, graded_station(1.0), finish(exposure=0.4, contrast=1.2, hue=20)]), scene())
    for name, dispatcher in KERNELS.items():
        assert dispatcher._can_compile is False, f"{name} may compile for anything"
        # what is compiled when it is first run has the one signature it was made for
        assert list(dispatcher.signatures) == declared.get(name, dispatcher.signatures[:1]), name


def picture(value: float, size: int = 10) -> Picture:
    return Picture(np.full((size, size, 1), value, np.float32), Window(0, 0, size, size))


def test_the_cache_stays_within_its_limit_and_keeps_what_is_dear() -> None:
    cache = PictureCache(4 * 400)
    cache.put("dear", picture(1), seconds=10.0)
    for number in range(20):
        cache.put(f"cheap {number}", picture(2), seconds=0.001)
        assert cache.size <= cache.limit
    assert cache.get("dear", Window(0, 0, 5, 5)) is not None
    assert cache.counters.evicted == 17
    cache.put("too large", picture(0, 100))
    assert cache.get("too large", Window(0, 0, 1, 1)) is None


def test_what_a_drag_needs_again_and_again_outlives_what_its_steps_leave_behind() -> None:
    cache = PictureCache(4 * 400)
    cache.put("needed", picture(1), seconds=0.006)
    for number in range(60):
        assert cache.get("needed", Window(0, 0, 5, 5)) is not None, f"gone after {number} steps"
        cache.put(f"step {number}", picture(2), seconds=0.03)
    # what was needed often gives way in time to what is needed now
    for number in range(4000):
        cache.put(f"later {number}", picture(3), seconds=0.03)
        cache.get(f"later {number}", Window(0, 0, 5, 5))
    assert cache.get("needed", Window(0, 0, 5, 5)) is None


def test_what_a_drag_needs_is_kept_soon_where_the_rest_of_a_long_session_fills_the_cache() -> None:
    cache = PictureCache(5 * 400)
    for number in range(3):
        cache.put(f"of before {number}", picture(1), seconds=10.0)
    made = 0
    for number in range(60):
        if cache.get("needed", Window(0, 0, 5, 5)) is None:
            cache.put("needed", picture(2), seconds=0.006)
            made += 1
        cache.put(f"step {number}", picture(3), seconds=0.03)
    assert made <= 6


def test_a_picture_that_is_made_anew_for_more_of_it_is_known_as_often_used() -> None:
    cache = PictureCache(1600 + 2 * 400)
    cache.put("needed", picture(1), seconds=0.006)
    for _ in range(15):
        cache.get("needed", Window(0, 0, 5, 5))
    cache.put("needed", picture(1, 20), seconds=0.024)
    for number in range(4):
        cache.put(f"step {number}", picture(2), seconds=0.03)
    assert cache.get("needed", Window(0, 0, 20, 20)) is not None


def test_a_cached_picture_answers_only_for_windows_inside_its_own() -> None:
    cache = PictureCache(1 << 20)
    cache.put("p", picture(1))
    assert cache.get("p", Window(2, 2, 8, 8)) is not None
    assert cache.get("p", Window(5, 5, 11, 8)) is None


@pytest.mark.parametrize("treatment", [{"kind": "soften", "size": 6.0}, {"kind": "smear", "length": 12.0}, {"kind": "warp", "k1": 0.2}])
def test_a_file_as_a_plate_and_as_a_pass_are_made_apart(treatment: dict[str, Any]) -> None:
    """The edge of a plate that does not fill the frame goes on, that of a pass does not: what is near it must not come from the other's."""
    treatments, a_pass = [{"id": "t", **treatment}], {"id": "sky", "picture": {"kind": "pass", "source": "valley"}}
    shots = [shot_of([card(one, treatments=treatments)], width=140) for one in (PLATE, a_pass)]
    cache = PictureCache(1 << 28)
    one_after_the_other = [make(shot, scene(), cache=cache).pixels for shot in (*shots, *shots)]
    alone = [make(shot, scene()).pixels for shot in shots]
    assert not np.array_equal(alone[0], alone[1])
    for got, expected in zip(one_after_the_other, alone * 2, strict=True):
        np.testing.assert_array_equal(got, expected)


def test_what_is_kept_of_another_scale_ends_where_this_one_does() -> None:
    """The alpha of a solid colour is the same at all scales but for where it ends: light past the frame is not hidden by it."""
    planner = ShotPlanner(shot_of([{"id": "s", "picture": {"kind": "solid"}}]), 1, scene())

    def alpha(scale: int) -> Step:
        own, around = last_channel(planner.card("s", scale)), WHOLE.scaled(scale).grown(10)
        return pointwise("around 1", scale, [own], lambda given: given[0].pixels, channels=1, domain=around)

    cache = PictureCache(1 << 28)
    evaluate(alpha(1), alpha(1).domain, cache)
    half = alpha(2)
    np.testing.assert_array_equal(evaluate(half, half.domain, cache).pixels, evaluate(half, half.domain, PictureCache(1 << 28)).pixels)
    assert evaluate(half, Window(60, 0, 61, 1), cache).pixels.item() == 0


def test_content_keys_tell_apart_what_differs() -> None:
    base = Step(content_key("read 1", ["a"], ()), "read", WHOLE, 4, (), lambda _: (), lambda w, _: picture(0))
    keys = {content_key("grade 1", {"exposure": e}, (base,)) for e in (0.0, 0.5)} | {content_key("grade 2", {"exposure": 0.0}, (base,))}
    assert len(keys) == 3


def test_ids_are_read_where_there_are_any_and_no_farther() -> None:
    """Of an object that is small in its frame that is nearly all: its mattes, and its depth told apart by them, stay as they were."""
    lens = {"id": "t2", "kind": "defocus", "radius": 3.0, "focus": 5.0}
    cards = [PLATE, card(STATION, cut=["ball"], treatments=[{"id": "t1", "kind": "grade", "exposure": 1.0, "through": "lamp"}, lens])]
    whole, part = scene(), scene()
    covered = np.argwhere(part.sources["station"].ids["object_ids"][1].sum(axis=0) > 0)
    (top, left), (bottom, right) = covered.min(axis=0).tolist(), (covered.max(axis=0) + 1).tolist()
    held = Window(left, top, right, bottom)
    assert held.area < 0.6 * WHOLE.area
    part.sources["station"].held["object_ids"] = held
    read: list[Window] = []
    plain = part.ranks
    part.ranks = lambda source, frame, layer, window: (read.append(window), plain(source, frame, layer, window))[1]  # type: ignore[method-assign]
    for scale in (1, 2):
        assert np.array_equal(make(shot_of(cards), part, scale=scale).pixels, make(shot_of(cards), whole, scale=scale).pixels)
    assert read
    assert all(held.contains(window) for window in read)
    part.sources["station"].held["object_ids"] = Window(0, 0, 0, 0)
    assert not np.array_equal(make(shot_of(cards), part).pixels, make(shot_of(cards), whole).pixels), "where nothing is held nothing is cut out"
