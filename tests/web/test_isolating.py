"""Isolating over HTTP: offers and proposals, boxes, areas, leaks and sums, IDs of a frame, and what people call them."""

from typing import Any

import cv2
import numpy as np
import pytest
from bench_client import Bench

from umbrax.standin.exr import PACKED

LAMP, DOME = (985, 147), (470, 300)


def ask(bench: Bench, what: str, **query: Any) -> Any:
    return bench.client.get(f"/api/shots/{bench.shot_id}/{what}", query_string={"revision": 1, "frame": 1001, **query}).get_json()


def test_a_packed_pass_that_is_looked_at_says_which_channel_is_under_the_cursor(bench: Bench) -> None:
    assert "white_enamel" in PACKED[0], "the stand-in packs it into the red channel"
    told = ask(bench, "under", x=DOME[0], y=DOME[1], source="station", name="rgb_matte")
    first = told["offers"][0]
    assert first["parts"][0] == {"kind": "channel", "source": "station", "pass": "rgb_matte", "channel": "red"}
    index = ask(bench, "under", x=DOME[0], y=DOME[1], source="station", name="material_index")["offers"][0]
    assert index["parts"][0]["kind"] == "index"
    plain = ask(bench, "under", x=DOME[0], y=DOME[1])["offers"]
    assert [(offer["titles"], offer["place"]) for offer in plain[:2]] == [(["dome_shell"], "object_ids"), (["white_enamel"], "material_ids")]


def test_an_offer_becomes_a_matte_or_a_treatment_in_one_revision(bench: Bench) -> None:
    told = ask(bench, "proposals", x=DOME[0], y=DOME[1])["proposals"]
    assert len(told) >= 5
    assert [one["leak"] for one in told[:3]] == pytest.approx([0, 0, 0], abs=0.6)
    assert {"id", "depth", "key"} <= {one["kind"] for one in told}
    assert all(one["picture"].startswith("data:image/jpeg;base64,") for one in told)
    chosen = next(one for one in told if one["kind"] == "depth")
    offer = {key: chosen[key] for key in ("titles", "parts")}
    where = {"revision": 1, "frame": 1001, "x": DOME[0], "y": DOME[1]}
    made = bench.client.post(f"/api/shots/{bench.shot_id}/touch", json={**where, "offer": offer, "action": "matte", "gesture": "m1"}).get_json()
    assert made["shot"]["revision"] == 2
    assert made["treatment"] is None
    assert made["shot"]["document"]["mattes"][made["matte"]]["kind"] == "depth"
    again = {**where, "revision": 2, "offer": offer, "action": "grade", "gesture": "m2"}
    graded = bench.client.post(f"/api/shots/{bench.shot_id}/touch", json=again).get_json()
    assert graded["matte"] == made["matte"], "the same matte is used again"
    through = [t.get("through") for card in graded["shot"]["document"]["build"] for t in card.get("treatments", [])]
    assert made["matte"] in through


def test_the_sky_answers_with_its_plate(bench: Bench) -> None:
    told = ask(bench, "under", x=40, y=40)
    assert (told["card"], told["object"]) == ("sky", None)
    assert [one["kind"] for one in ask(bench, "proposals", x=40, y=40)["proposals"]] == ["key"]


def test_a_box_gathers_the_objects_in_it(bench: Bench) -> None:
    body = {"revision": 1, "frame": 1001, "box": [LAMP[0] - 12, LAMP[1] - 12, LAMP[0] + 12, LAMP[1] + 12]}
    found = bench.client.post(f"/api/shots/{bench.shot_id}/gather", json=body).get_json()
    assert "mast_2_lamp" in found["names"]
    assert "mast_2" not in found["names"], "of the mast only the top lies in it"


def coverage(bench: Bench, name: str) -> np.ndarray:
    data = bench.look(kind="matte", name=name, scale=1, format="png").data
    return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_GRAYSCALE) / 255


def test_areas_are_those_of_the_mattes_and_one_that_cannot_be_pulled_spoils_no_other(bench: Bench) -> None:
    told = ask(bench, "areas")["areas"]
    assert set(told) == {"dome", "brass", "mast lamps"}
    for name, area in told.items():
        assert area == pytest.approx(coverage(bench, name).mean(), abs=1e-3)
    bench.edit(["mattes", "lost"], {"kind": "channel", "source": "station", "pass": "shadow", "channel": "alpha"})
    told = ask(bench, "areas", revision=2)["areas"]
    assert told["lost"] is None
    assert told["dome"] > 0.01


def test_large_frames_are_not_decoded_for_areas_by_the_way(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    frame = 1003
    monkeypatch.setattr("umbrax.media.decoding.WHOLE_BYTES", 1000)
    assert ask(bench, "areas", frame=frame, by_the_way=True)["areas"] == {}
    told = ask(bench, "areas", frame=frame)["areas"]
    assert told["dome"] > 0.01
    assert ask(bench, "areas", frame=frame, by_the_way=True)["areas"] == told


def test_leaks_and_sums_are_measured_and_shown(bench: Bench) -> None:
    told = ask(bench, "trust", names="mast lamps", x=LAMP[0], y=LAMP[1])
    assert told["leak"] > 0.5, "one of several lamps"
    assert ask(bench, "trust", names="dome", x=DOME[0], y=DOME[1])["leak"] < 0.3
    shown = bench.look(kind="leaks", name="mast lamps", at=LAMP, scale=1, format="png").data
    picture = cv2.imdecode(np.frombuffer(shown, np.uint8), cv2.IMREAD_COLOR)[..., ::-1].astype(int)
    here, m = picture[LAMP[1], LAMP[0]], coverage(bench, "mast lamps")
    assert here[2] > here[0] > here[1], "lilac where it was touched"
    y, x = np.argwhere((m > 0.9) & (np.hypot(*np.mgrid[-LAMP[1] : 720 - LAMP[1], -LAMP[0] : 1280 - LAMP[0]]) > 60))[0]
    assert picture[y, x, 0] > picture[y, x, 2] + 60, "coral where it leaks"
    bench.edit(["mattes", "all"], {"kind": "alpha", "source": "station"})
    head = bench.edit(["mattes", "rest"], {"kind": "combined", "how": "except", "mattes": ["all", "dome"]}).get_json()["revision"]
    whole = ask(bench, "trust", revision=head, names=["dome", "rest"])
    assert whole["once"] > 0.97
    twice = ask(bench, "trust", revision=head, names=["dome", "all"])
    assert twice["over"] > 0.05
    grey = bench.look(kind="sum", names=["dome", "rest"], scale=1, format="png").data
    exact = cv2.imdecode(np.frombuffer(grey, np.uint8), cv2.IMREAD_COLOR).astype(int)
    assert np.ptp(exact[DOME[1], DOME[0]]) <= 2, "covered once is grey"
    edges = bench.look(kind="edges", name="dome", scale=1, format="png").data
    rim = cv2.imdecode(np.frombuffer(edges, np.uint8), cv2.IMREAD_GRAYSCALE)
    m = coverage(bench, "dome")
    assert rim[(m > 0.3) & (m < 0.7)].min() > rim[m >= 1].max()


def test_ids_of_a_frame_are_listed_and_called_by_another_name_in_the_whole_show(bench: Bench) -> None:
    ids = ask(bench, "ids", source="station", layer="object_ids")["ids"]
    areas = {one["name"]: one["area"] for one in ids}
    assert areas["dome_shell"] > areas["mast_2_lamp"] > 0
    assert [one["area"] for one in ids] == sorted(areas.values(), reverse=True)
    call = f"/api/shots/{bench.shot_id}/display-names"
    value = next(one["id"] for one in ids if one["name"] == "dome_shell")
    given = bench.client.post(call, json={"id": "dome_shell", "name": " the big dome "}).get_json()
    assert given == {"display_names": {f"#{value}": "the big dome"}}
    station = next(source for source in ask(bench, "contents")["sources"] if source["name"] == "station")
    layer = next(one for one in station["ids"] if one["name"] == "object_ids")
    assert "names" not in layer, "they may be very many, and are asked for by themselves"
    names = ask(bench, "id-names", source="station", layer="object_ids")["names"]
    assert (names, layer["named"], layer["first"]) == (sorted(names), len(names), names[0])
    assert set(areas) < set(names)
    assert layer["display_names"] == {"dome_shell": "the big dome", f"#{value}": "the big dome"}
    assert bench.client.post(call, json={"id": f"#{value}"}).get_json() == {"display_names": {}}
    assert bench.client.post(call, json={"id": ""}).status_code == 400
