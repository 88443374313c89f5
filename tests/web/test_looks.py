"""Looking and touching through the preview protocol."""

import json
import threading
from pathlib import Path

import cv2
import numba
import numpy as np
import OpenEXR
import pytest
from bench_client import Bench, patiently, picture
from flask.testing import FlaskClient

from running import command, let_in, token_of
from umbrax.core.document.shot import Shot
from umbrax.core.document.text import read_text
from umbrax.core.errors import Cancelled
from umbrax.core.views import exact_codes
from umbrax.render.engine import Engine, Want
from umbrax.render.threads import sharing
from umbrax.standin.shots import SHOTS
from umbrax.store.database import Database
from umbrax.store.shots import add_shot, get_revision, list_shots
from umbrax.web import gate as gates
from umbrax.web.gate import Gate

LAMP = (985, 147)


def shot_of(bench: Bench) -> Shot:
    return get_revision(bench.shared.database, bench.shot_id, bench.state()["revision"]).shot


def test_an_exact_look_is_the_engines_picture_through_the_view(bench: Bench) -> None:
    engine: Engine = bench.shared.engine
    made = engine.make(shot_of(bench), bench.shared.roots(bench.shot_id), 1001, Want(), scale=2).picture.pixels
    shown = picture(bench.look(scale=2, format="png"))
    assert np.array_equal(shown, exact_codes(made[..., :3], 255))


@pytest.mark.parametrize("name", SHOTS)
def test_every_demo_shot_is_the_same_picture_on_the_page_and_from_the_command_line(
    name: str, demo: Path, client: FlaskClient, database: Database, tmp_path: Path
) -> None:
    shot = read_text((demo / f"{name}.umbrax.json").read_text()).model_copy(update={"name": f"{name} looked at"})
    made_of = add_shot(database, list_shots(database)[0].show_id, shot)
    assert made_of is not None
    answer = Bench(client, made_of).look(scale=4, format="png")
    assert "X-Problem" not in answer.headers
    words = ("--frames", "1001", "--scale", "1/4", "--out", str(tmp_path / "f.exr"))
    made = command("render", str(demo / f"{name}.umbrax.json"), *words, state=tmp_path)
    assert made.returncode == 0, made.stderr
    assert not made.stderr, "nothing to report"
    with OpenEXR.File(str(tmp_path / "f.exr"), separate_channels=True) as file:
        written = np.stack([file.channels()[letter].pixels for letter in "RGB"], axis=2).astype(np.float32)
    assert picture(answer).std() > 20
    assert np.abs(picture(answer) - exact_codes(written, 255)).max() <= 1, "half floats are the only difference"


def test_a_window_is_that_part_and_says_where_it_lies(bench: Bench) -> None:
    whole = picture(bench.look(scale=1, format="png"))
    part = bench.look(scale=1, format="png", window=[300, 200, 500, 310])
    assert part.headers["X-Window"] == "300,200,500,310"
    assert np.array_equal(picture(part), whole[200:310, 300:500])


def test_unsaved_edits_are_shown_without_being_kept(bench: Bench) -> None:
    before = picture(bench.look())
    override = {"op": "set", "path": ["build", "station", "enabled"], "value": False}
    assert np.abs(picture(bench.look(overrides=[override])) - before).max() > 60
    assert np.array_equal(picture(bench.look()), before)
    assert bench.state()["revision"] == 1


def test_mattes_passes_ids_and_channels_can_be_looked_at(bench: Bench) -> None:
    matte = picture(bench.look(kind="matte", name="dome", format="png"))
    assert matte.max() == 255
    assert matte.min() == 0
    ids = picture(bench.look(kind="ids", source="station", name="object_ids"))
    assert len(np.unique(ids.reshape(-1, 3), axis=0)) > 40
    depth = picture(bench.look(kind="pass", source="station", name="depth"))
    assert depth[:40, :40].max() < 60, "nothing there is hatched dark"
    assert depth[:40, :40].std() > 3
    cut = picture(bench.look(kind="cut", name="dome", format="png"))
    assert not cut[matte[..., 0] == 0].any()
    tint = picture(bench.look(kind="tint", name="dome", format="png"))
    plain = picture(bench.look(format="png"))
    assert np.array_equal(tint[matte[..., 0] == 0], plain[matte[..., 0] == 0])
    red = picture(bench.look(channel="red", format="png"))
    assert np.array_equal(red[..., 1], plain[..., 0])


def test_the_residue_of_the_demo_is_rounding_and_of_a_light_that_is_off_that_light(bench: Bench) -> None:
    """Five halves are added: each is off by at most 2^-11 of itself (IEEE 754 binary16)."""
    engine: Engine = bench.shared.engine

    def looked(want: Want) -> np.ndarray:
        return engine.make(shot_of(bench), bench.shared.roots(bench.shot_id), 1001, want).picture.pixels[..., :3]

    beauty, left = looked(Want("pass", source="station", name="beauty")), looked(Want("residue", card="station"))
    rounding = 6 * 2.0**-11 * np.maximum(np.abs(beauty), 0.01)
    assert (left <= rounding).all()
    assert bench.edit(["build", "station", "picture", "lights", "specular", "enabled"], False).status_code == 200
    specular = looked(Want("pass", source="station", name="specular"))
    assert specular.max() > 0.1
    assert (np.abs(looked(Want("residue", card="station")) - specular) <= rounding).all()
    assert bench.look(kind="residue", card="sky").status_code == 400


def test_a_look_goes_through_the_view_of_the_shot_and_what_is_no_light_does_not(bench: Bench) -> None:
    shared = bench.shared
    shot, roots = get_revision(shared.database, bench.shot_id, 1).shot, shared.roots(bench.shot_id)
    others = [{"kind": "ids", "source": "station", "name": "object_ids"}, {"kind": "matte", "name": "dome"},
              {"kind": "pass", "source": "station", "name": "depth"}, {"less": {"without": "t3"}}]  # fmt: skip
    before = [picture(bench.look(format="png", **what)) for what in others]
    sheets = [bench.client.get(f"/api/shots/{bench.shot_id}/contents?revision=1&frame=1001").get_json()["sheets"]]
    assert bench.edit(["colour", "view"], "aces").status_code == 200
    light = shared.engine.make(shot, roots, 1001, Want(), scale=4).picture.pixels[..., :3]
    exact = picture(bench.look(format="png"))
    assert np.array_equal(exact, exact_codes(light, 255, "aces"))
    assert np.abs(exact.astype(int) - exact_codes(light, 255, "srgb")).mean() > 10
    assert np.abs(picture(bench.look()).astype(int) - exact).mean() < 2, "a quick look is the same"
    beauty = shared.engine.make(shot, roots, 1001, Want("pass", source="station", name="beauty"), scale=4).picture.pixels
    assert np.array_equal(
        picture(bench.look(kind="pass", source="station", name="beauty", format="png")), exact_codes(beauty[..., :3], 255, "aces")
    )
    for what, seen in zip(others, before, strict=True):
        assert np.array_equal(picture(bench.look(format="png", **what)), seen), what
    sheets.append(bench.client.get(f"/api/shots/{bench.shot_id}/contents?revision=2&frame=1001").get_json()["sheets"])
    assert sheets[0]["passes"] != sheets[1]["passes"], "the tray shows light as well"


def test_before_a_treatment_is_the_picture_without_it(bench: Bench) -> None:
    without = picture(bench.look(without="t3", format="png"))
    bench.edit(["build", "finish", "enabled"], False)
    assert np.array_equal(picture(bench.look(format="png")), without)


def test_a_broken_source_is_reported_and_the_rest_is_shown(bench: Bench) -> None:
    answer = bench.look(frame=1020)
    assert "no frame 1020" in answer.headers["X-Problem"]
    assert picture(answer).mean() > 20, "the plate is still there"


def test_thumbnails_have_addresses_that_browsers_keep(bench: Bench) -> None:
    address = f"/api/shots/{bench.shot_id}/thumb?kind=picture&revision=1&frame=1001"
    first = bench.client.get(address)
    assert picture(first).shape == (90, 160, 3)
    again = bench.client.get(address, headers={"If-None-Match": first.headers["ETag"]})
    assert again.status_code == 304


def test_thumbnails_have_the_shape_that_pixels_have(bench: Bench) -> None:
    plain = picture(bench.client.get(f"/api/shots/{bench.shot_id}/thumb?kind=picture&revision=1&frame=1001"))
    for aspect, wide in ((2.0, 320), (0.5, 80)):
        bench.edit(["format", "pixel_aspect"], aspect)
        shown = picture(bench.client.get(f"/api/shots/{bench.shot_id}/thumb?kind=picture&revision={bench.state()['revision']}&frame=1001"))
        assert shown.shape == (90, wide, 3)
        assert np.abs(cv2.resize(shown.astype(np.uint8), (160, 90)).astype(int) - plain).mean() < 6


def test_the_probe_gives_true_values_and_surroundings(bench: Bench) -> None:
    body = {"revision": 1, "frame": 1001, "x": LAMP[0], "y": LAMP[1], "radius": 4}
    found = bench.client.post(f"/api/shots/{bench.shot_id}/probe", json=body).get_json()
    made = bench.shared.engine.make(shot_of(bench), bench.shared.roots(bench.shot_id), 1001, Want()).picture.pixels
    assert found["value"] == pytest.approx([float(v) for v in made[LAMP[1], LAMP[0]]])
    assert found["value"][0] > 3, "true light, not what the screen can show"
    assert len(found["pixels"]) == 81
    outside = bench.client.post(f"/api/shots/{bench.shot_id}/probe", json=body | {"x": -5}).get_json()
    assert outside["inside"] is False


def test_touching_a_lamp_makes_matte_and_bloom_in_one_revision(bench: Bench) -> None:
    under = bench.client.get(f"/api/shots/{bench.shot_id}/under?revision=1&frame=1001&x={LAMP[0]}&y={LAMP[1]}").get_json()
    assert under["object"]["name"] == "mast_2_lamp"
    assert under["material"]["name"] == "lamp_glass"
    assert under["card"] == "station"
    depth = bench.client.post(
        f"/api/shots/{bench.shot_id}/probe",
        json={"kind": "pass", "source": "station", "name": "depth", "revision": 1, "frame": 1001, "x": LAMP[0], "y": LAMP[1]},
    ).get_json()
    assert under["depth"] == pytest.approx(depth["value"][0])
    before = picture(bench.look(format="png", scale=1))
    body = {
        "revision": 1,
        "frame": 1001,
        "x": LAMP[0],
        "y": LAMP[1],
        "on": "object",
        "action": "bloom",
        "gesture": "g1 " + str(bench.shot_id),
        "tab": "one",
    }
    made = bench.client.post(f"/api/shots/{bench.shot_id}/touch", json=body).get_json()
    assert made["shot"]["revision"] == 2
    assert made["matte"] in made["shot"]["document"]["mattes"]
    after = picture(bench.look(format="png", scale=1))
    assert after[LAMP[1] + 20, LAMP[0], 0] > before[LAMP[1] + 20, LAMP[0], 0], "brighter beyond the lamp's own matte"
    bench.travel("undo")
    assert np.array_equal(picture(bench.look(format="png", scale=1)), before)


def test_the_light_over_an_object_has_its_shape(bench: Bench) -> None:
    under = bench.client.get(f"/api/shots/{bench.shot_id}/under?revision=1&frame=1001&x=470&y=300").get_json()
    parts = under["offers"][0]["parts"]
    where = {"revision": 1, "frame": 1001}
    lit = bench.client.get(f"/api/shots/{bench.shot_id}/lit", query_string={**where, "parts": json.dumps(parts)})
    rgba = cv2.imdecode(np.frombuffer(lit.data, np.uint8), cv2.IMREAD_UNCHANGED)
    x0, y0, x1, y1 = map(int, lit.headers["X-Window"].split(","))
    assert rgba.shape == (y1 - y0, x1 - x0, 4)
    assert rgba[300 - y0, 470 - x0, 3] > 0
    assert rgba[:, 0, 3].any(), "the box is tight"
    assert rgba[0, :, 3].any()
    parts[0]["names"] = ["#00000001"]
    assert bench.client.get(f"/api/shots/{bench.shot_id}/lit", query_string={**where, "parts": json.dumps(parts)}).status_code == 204
    wrong = bench.client.get(f"/api/shots/{bench.shot_id}/lit", query_string={**where, "parts": '[{"kind": "id"}]'})
    assert wrong.status_code == 400


def test_whatever_computes_waits_at_the_gate_and_nothing_else_does(bench: Bench, demo: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(gates, "PATIENCE", 0.02)
    shot, where = f"/api/shots/{bench.shot_id}", {"revision": 1, "frame": 1001}
    parts = json.dumps(bench.client.get(f"{shot}/under", query_string={**where, "x": 470, "y": 300}).get_json()["offers"][0]["parts"])
    later = demo / "station" / "station.{frame:04d}.exr"
    computing = (
        ("thumb", {"scale": 8}), ("sheet", {"part": "passes", "key": "k"}), ("proposals", {"x": 470, "y": 300}), ("lit", {"parts": parts}),
        ("ids", {"source": "station", "layer": "object_ids"}), ("versions/compare", {"source": "station", "path": str(later)}),
    )  # fmt: skip
    plates = [str(demo / "plates")]
    orders = (
        (f"{shot}/attachable", {"revision": 1, "source": "station", "paths": plates}), ("/api/take-in", {"show": "Waiting", "paths": plates}),
        (f"{shot}/sources", {"base": 1, "gesture": "g", "command": "add", "paths": plates}),
    )  # fmt: skip
    gate = bench.shared.gate
    with gate.enter("", 0, "look"), gate.enter("", 0, "look"):
        for address, query in computing:
            assert bench.client.get(f"{shot}/{address}", query_string={**where, **query}).status_code == 503, address
        for address, order in orders:
            assert bench.client.post(address, json=order).status_code == 503, address
        assert "Waiting" not in bench.client.get("/api/shows").get_data(as_text=True), "nothing was made"
        assert bench.look(scale=8).status_code == 503
        for quick in ("", "/head", "/renders", "/comments", "/contents?revision=1&frame=1001"):
            assert bench.client.get(f"{shot}{quick}").status_code == 200, quick
    for address, query in computing:
        assert bench.client.get(f"{shot}/{address}", query_string={**where, **query}).status_code == 200, address


def test_a_newer_request_of_a_viewer_overtakes_an_older_one() -> None:
    gate = Gate(slots=1)
    order: list[str] = []
    inside, go_on = threading.Event(), threading.Event()

    def running() -> None:
        with gate.enter("v", 1, "look") as ticket:
            inside.set()
            go_on.wait(5)
            try:
                ticket.watch()
            except Cancelled:
                order.append("1 stopped")

    def waiting(sequence: int) -> None:
        try:
            with gate.enter("v", sequence, "look"):
                order.append(f"{sequence} ran")
        except Cancelled:
            order.append(f"{sequence} overtaken")

    threads = [threading.Thread(target=running)]
    threads[0].start()
    inside.wait(5)
    for sequence in (2, 3):
        threads.append(threading.Thread(target=waiting, args=(sequence,)))
        threads[-1].start()
        threading.Event().wait(0.15)
    go_on.set()
    for thread in threads:
        thread.join(5)
    assert order == ["2 overtaken", "1 stopped", "3 ran"]


def test_what_is_computed_at_the_same_time_shares_the_processors(bench: Bench) -> None:
    gate = Gate(slots=2)
    with gate.enter("one", 1, "look") as alone:
        with gate.enter("other", 1, "look") as second:
            assert (alone.beside, second.beside) == (0, 1)
        with gate.enter("third", 1, "look") as after:
            assert after.beside == 1, "the first still runs"
    with gate.enter("one", 2, "look") as again:
        assert again.beside == 0

    every = numba.get_num_threads()
    shot, roots = shot_of(bench), bench.shared.roots(bench.shot_id)
    made = []
    for beside in (0, 1, 100):
        with sharing(beside):
            assert numba.get_num_threads() == max(1, every // (beside + 1))
            engine = Engine(bench.shared.engine.copies)
            made.append(engine.make(shot, roots, 1001, Want(), scale=4).picture.pixels)
    assert numba.get_num_threads() == every
    assert np.array_equal(made[0], made[1])
    assert np.array_equal(made[0], made[2])


def test_looks_go_before_thumbnails() -> None:
    gate = Gate(slots=2)
    done: list[str] = []
    hold = threading.Event()

    def enter(name: str, priority: str) -> None:
        with gate.enter("", 0, priority):
            if name.startswith("first"):
                hold.wait(5)
            done.append(name)

    first = [threading.Thread(target=enter, args=(f"first {n}", "look")) for n in range(2)]
    for thread in first:
        thread.start()
    threading.Event().wait(0.1)
    later = [threading.Thread(target=enter, args=("thumb", "thumbnail"))]
    later[0].start()
    threading.Event().wait(0.1)
    later.append(threading.Thread(target=enter, args=("look", "look")))
    later[1].start()
    threading.Event().wait(0.1)
    hold.set()
    for thread in [*first, *later]:
        thread.join(5)
    assert done.index("look") < done.index("thumb")


def test_eight_threads_get_the_same_pictures_as_one(bench: Bench) -> None:
    orders = [
        {"frame": frame, "card": card, "scale": scale, "format": "png"}
        for frame in (1001, 1002) for card in (None, "shadow", "station") for scale in (2, 8)
    ]  # fmt: skip
    bench.shared.engine.cache.clear()
    alone = [bench.look(**order).data for order in orders]
    bench.shared.engine.cache.clear()
    results: dict[int, bytes] = {}
    token = token_of(bench.shared.database)

    def ask(number: int) -> None:
        tab = Bench(let_in(bench.client.application.test_client(), token), bench.shot_id)
        results[number] = patiently(lambda: tab.look(**orders[number % len(orders)])).data

    threads = [threading.Thread(target=ask, args=(n,)) for n in range(24)]
    for start in range(0, 24, 8):
        for thread in threads[start : start + 8]:
            thread.start()
        for thread in threads[start : start + 8]:
            thread.join()
    assert all(results[n] == alone[n % len(orders)] for n in range(24))
