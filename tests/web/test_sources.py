"""Sources of a shot come and go over HTTP: with a render that is not the demo, in versions, and a plate that was forgotten."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from bench_client import Bench
from flask.testing import FlaskClient

from own_render import write_hut, write_plate
from running import in_process, let_in, token_of
from umbrax.settings import Settings
from umbrax.store.database import Database


@pytest.fixture(scope="module")
def media(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("jobs")
    write_hut(folder)
    return folder


@pytest.fixture(scope="module")
def client(database: Database, database_address: str, media: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[FlaskClient]:
    with in_process(Settings(tmp_path_factory.mktemp("state"), (media,), database_address, 1 << 30, 4 << 30)) as client:
        yield let_in(client, token_of(database))


@pytest.fixture
def hut(client: FlaskClient, media: Path, request: pytest.FixtureRequest) -> Bench:
    """A shot of the first version, with mattes of two objects that treatments work through."""
    order = {"show": "Huts", "shot": request.node.name[:60], "paths": [str(media / "hut_v001")]}
    bench = Bench(client, client.post("/api/take-in", json=order).get_json()["id"])
    for name in ("dome_shell", "door"):
        bench.edit(["mattes", name], {"kind": "id", "source": "hut", "layer": "object_ids", "names": [name]})
        treatment = {"id": name, "kind": "grade", "exposure": 1.0, "through": name}
        insert(bench, ["build", "hut", "treatments"], treatment)
    return bench


def insert(bench: Bench, path: list[str], item: dict[str, Any]) -> Any:
    return apply(bench, [{"op": "insert", "path": path, "item": item}])


def apply(bench: Bench, edits: list[dict[str, Any]]) -> Any:
    bench.count += 1
    body = {"base": bench.state()["revision"], "edits": edits, "command": "c", "gesture": f"{bench.shot_id} apply {bench.count}"}
    answer = bench.client.post(f"/api/shots/{bench.shot_id}/edits", json=body)
    assert answer.status_code == 200, answer.get_json()
    return answer.get_json()


def add(bench: Bench, *paths: Path, **more: Any) -> Any:
    body = {"base": bench.state()["revision"], "paths": [str(path) for path in paths], "gesture": f"{bench.shot_id} add {paths}", **more}
    return bench.client.post(f"/api/shots/{bench.shot_id}/sources", json=body)


def ask(bench: Bench, what: str, **query: Any) -> Any:
    query = {"revision": bench.state()["revision"], **query}
    return bench.client.get(f"/api/shots/{bench.shot_id}/{what}", query_string=query).get_json()


def test_a_source_is_named_without_the_version_it_has_now(hut: Bench) -> None:
    assert set(hut.state()["document"]["sources"]) == {"hut"}


def test_a_forgotten_plate_goes_behind_everything_and_is_undone_as_one_step(hut: Bench, media: Path) -> None:
    before = hut.state()
    told = hut.client.post(
        f"/api/shots/{hut.shot_id}/arrived", json={"revision": before["revision"], "paths": [str(media / "plates")]}
    ).get_json()["arrived"]
    assert [(one["found"]["name"], one["plate"], one["alike"], one["used"]) for one in told] == [("evening", True, None, None)]
    after = add(hut, media / "plates" / "evening.png").get_json()
    assert [card["id"] for card in after["document"]["build"]] == ["evening", "hut shadow", "hut"]
    assert after["document"]["build"][0]["picture"] == {"kind": "plate", "source": "evening"}
    look = hut.look(frame=1, scale=8)
    assert "X-Problem" not in look.headers
    assert hut.travel("undo").get_json()["document"] == before["document"]


def test_adding_one_again_gives_it_a_number_and_without_a_build_only_a_source(hut: Bench, media: Path) -> None:
    add(hut, media / "plates" / "evening.png")
    again = add(hut, media / "plates", build=False).get_json()["document"]
    assert set(again["sources"]) == {"hut", "evening", "evening 2"}
    assert len(again["build"]) == 3


def test_frames_that_lie_elsewhere_are_laid_on_those_of_the_shot(hut: Bench, media: Path) -> None:
    for frame in (51, 52, 53):
        write_plate(media / "other" / f"clouds.{frame:04d}.png")
    document = add(hut, media / "other").get_json()["document"]
    assert document["sources"]["clouds"]["offset"] == -50
    assert "X-Problem" not in hut.look(frame=3, scale=8).headers


def test_what_cannot_be_read_is_refused_with_why_and_changes_nothing(hut: Bench, media: Path) -> None:
    (media / "broken").mkdir(exist_ok=True)
    (media / "broken" / "no.exr").write_bytes(b"not a picture")
    before = hut.state()
    refused = add(hut, media / "broken")
    assert (refused.status_code, refused.get_json()["error"]["code"]) == (400, "nothing-found")
    assert hut.state() == before
    outside = add(hut, Path("/etc/hostname"))
    assert "in none of the media folders" in outside.get_json()["error"]["message"]


def test_a_source_is_removed_with_what_uses_it_and_brought_back(hut: Bench, media: Path) -> None:
    add(hut, media / "plates" / "evening.png")
    before = hut.state()["document"]
    told = ask(hut, "sources/removal", source="hut")
    assert {"card hut", "card hut shadow", "matte door", "matte dome_shell"} <= set(told["with_it"])
    after = apply(hut, told["edits"])["document"]
    assert ([card["id"] for card in after["build"]], after.get("mattes", {}), set(after["sources"])) == (["evening"], {}, {"evening"})
    assert hut.travel("undo").get_json()["document"] == before


def replaced(hut: Bench, media: Path, *, follow: bool = True) -> dict[str, Any]:
    told = ask(hut, "versions/compare", source="hut", path=str(media / "late" / "hut_v002.{frame:04d}.exr"))
    edits = told["edits"] + ([edit for one in told["renamed"] for edit in one["edits"]] if follow else [])
    apply(hut, edits)
    return told


def test_a_later_version_is_found_by_its_name_wherever_it_lies(hut: Bench, media: Path) -> None:
    body = {"revision": hut.state()["revision"], "paths": [str(media / "late"), str(media / "hut_v001"), str(media / "plates")]}
    told = hut.client.post(f"/api/shots/{hut.shot_id}/arrived", json=body).get_json()["arrived"]
    assert [(one["found"]["name"], one["alike"], one["used"]) for one in told] == [
        ("hut_v002", "hut", None), ("hut_v001", None, "hut"), ("evening", None, None)
    ]  # fmt: skip


def test_a_version_that_lost_things_keeps_the_picture_and_marks_them(hut: Bench, media: Path) -> None:
    assert ask(hut, "lost")["lost"] == []
    told = replaced(hut, media, follow=False)
    assert [(one["matte"], one["old"], one["new"]) for one in told["renamed"]] == [("dome_shell", "dome_shell", "dome_skin")]
    marked = {(one["noun"], one["name"], one["card"] or one["matte"]) for one in ask(hut, "lost")["lost"]}
    assert marked == {("light", "ambient", "hut"), ("name", "door", "door"), ("name", "dome_shell", "dome_shell")}
    look = hut.look(frame=2, scale=2, format="png")
    assert (look.status_code, "X-Problem" in look.headers) == (200, False)
    # each is mended by one of what is offered
    for one in ask(hut, "lost")["lost"]:
        wanted = {"ambient": "Take the beauty's rest", "door": "Delete the matte and what uses it", "dome_shell": "Take dome_skin"}
        apply(hut, next(r["edits"] for r in one["remedies"] if r["label"] == wanted[one["name"]]))
    assert ask(hut, "lost")["lost"] == []
    card = next(one for one in hut.state()["document"]["build"] if one["id"] == "hut")
    assert set(card["picture"]["lights"]) == {"diffuse", "emission", "reflection", "specular"}
    assert "rest" in card["picture"]
    assert [one["through"] for one in card["treatments"]] == ["dome_shell"]


def test_mattes_follow_an_object_that_got_another_name(hut: Bench, media: Path) -> None:
    told = replaced(hut, media)
    assert [one["name"] for one in told["lost"]] == ["ambient", "door"], "what is lost is told before, as it will be after"
    assert hut.state()["document"]["mattes"]["dome_shell"]["names"] == ["dome_skin"]
    assert [one["name"] for one in ask(hut, "lost")["lost"]] == ["ambient", "door"]


def test_a_source_can_be_replaced_by_anything(hut: Bench, media: Path) -> None:
    still = ask(hut, "versions/compare", source="hut", path=str(media / "plates" / "evening.png"))
    assert any("a still" in finding["message"] for finding in still["findings"])
    apply(hut, still["edits"])
    assert hut.look(frame=2, scale=8).status_code == 200
    assert {one["noun"] for one in ask(hut, "lost")["lost"]} == {"light", "pass", "ID layer"}
    for frame in (71, 72, 73):
        write_plate(media / "later" / f"sky.{frame:04d}.png")
    moved = ask(hut, "versions/compare", source="hut", path=str(media / "later" / "sky.{frame:04d}.png"))
    assert {"op": "set", "path": ["sources", "hut", "offset"], "value": -70} in moved["edits"]


def test_a_source_whose_file_is_gone_can_be_replaced_all_the_same(hut: Bench, media: Path) -> None:
    write_plate(media / "old" / "dawn.png")
    add(hut, media / "old" / "dawn.png")
    (media / "old" / "dawn.png").unlink()
    told = ask(hut, "versions/compare", source="dawn", path=str(media / "plates" / "evening.png"))
    assert told["findings"] == []
    apply(hut, told["edits"])
    assert "X-Problem" not in hut.look(frame=1, scale=8).headers


def test_the_lights_of_a_rebuild_say_what_they_leave_of_the_beauty(hut: Bench, media: Path) -> None:
    assert ask(hut, "card-facts", frame=1, card="hut")["residue"]["share"] < 1e-3
    replaced(hut, media)
    left = ask(hut, "card-facts", frame=1, card="hut")["residue"]
    assert 0.02 < left["share"] < 0.6
    assert left["largest"] > left["mean"] > 0


def test_a_shadow_says_what_it_falls_on_and_what_hides_it(hut: Bench, media: Path) -> None:
    """Alone there is nothing that it could darken, on a plate it does, and behind that plate the plate hides it."""
    add(hut, media / "plates" / "evening.png")
    told = ask(hut, "card-facts", frame=1, card="hut shadow")["shadow"]
    assert told["falls"] > 0.01
    apply(hut, [{"op": "move", "path": ["build", "evening"], "before": "hut"}])
    hidden = ask(hut, "card-facts", frame=1, card="hut shadow")["shadow"]
    assert (hidden["falls"], hidden["behind"]) == (0, "evening")
    assert hidden["drawn"] > 0.01
    assert ask(hut, "card-facts", frame=1, card="hut")["shadow"] is None


def test_a_shadow_is_a_matte_where_it_falls(hut: Bench) -> None:
    hut.edit(["mattes", "falls"], {"kind": "channel", "source": "hut", "pass": "shadow", "channel": "luma", "black": 1, "white": 0})
    assert ask(hut, "areas", frame=1, names="falls")["areas"]["falls"] > 0.02


def test_shared_borders_of_a_crossed_matte_are_told(hut: Bench) -> None:
    hut.edit(["mattes", "brass"], {"kind": "id", "source": "hut", "layer": "material_ids", "names": ["brass"]})
    hut.edit(["mattes", "beside"], {"kind": "combined", "how": "all_of", "mattes": ["dome_shell", "brass"]})
    assert ask(hut, "borders", frame=1, matte="beside")["leak"] > 0.5, "the dome has no brass, it only stands beside some"
    assert ask(hut, "borders", frame=1, matte="brass")["leak"] is None
