"""Recipes over HTTP: of the show and of no other, one of a name, laid by edits that the server takes."""

from typing import Any

from bench_client import Bench
from flask.testing import FlaskClient

from umbrax.core.document.text import read_data
from umbrax.store.database import Database
from umbrax.store.shots import add_shot, get_shot
from umbrax.store.shows import add_show


def ask(bench: Bench, path: str = "", **body: Any) -> Any:
    address = f"/api/shots/{bench.shot_id}/recipes{path}"
    return bench.client.post(address, json=body) if body else bench.client.get(address)


def names(bench: Bench) -> list[str]:
    return [one["name"] for one in ask(bench).get_json()["recipes"]]


def test_a_recipe_is_kept_once_replaced_laid_and_deleted(bench: Bench) -> None:
    order = {"revision": 1, "card": "station", "name": f"dusk {bench.shot_id}"}
    kept = next(one for one in ask(bench, **order).get_json()["recipes"] if one["name"] == order["name"])
    assert (kept["treatments"], kept["mattes"]) == (["Grade"], ["dome"])
    again = ask(bench, **order)
    assert again.status_code == 409
    assert "already" in again.get_json()["error"]["message"]
    assert ask(bench, **order, replace=True).status_code == 200
    assert names(bench).count(order["name"]) == 1

    laid = ask(bench, f"/{kept['id']}/laying", revision=1, frame=1001, card="finish").get_json()
    assert not laid["missing"]
    body = {"base": 1, "edits": laid["edits"], "command": "lay", "gesture": f"lay {bench.shot_id}", "tab": "one"}
    assert bench.client.post(f"/api/shots/{bench.shot_id}/edits", json=body).status_code == 200
    finish = next(card for card in bench.state()["document"]["build"] if card["id"] == "finish")
    assert [one["kind"] for one in finish["treatments"]] == ["grade", "bloom"]
    assert finish["treatments"][0]["through"] == "dome"

    assert bench.client.delete(f"/api/shots/{bench.shot_id}/recipes/{kept['id']}").status_code == 200
    assert order["name"] not in names(bench)
    gone = ask(bench, f"/{kept['id']}/laying", revision=1, frame=1001, card="finish")
    assert gone.status_code == 404


def test_another_show_has_its_own(bench: Bench, client: FlaskClient, database: Database) -> None:
    order = {"revision": 1, "card": "station", "name": f"ours {bench.shot_id}"}
    kept = next(one for one in ask(bench, **order).get_json()["recipes"] if one["name"] == order["name"])
    show = add_show(database, f"elsewhere {bench.shot_id}", get_shot(database, bench.shot_id).folder)
    layout = {"width": 64, "height": 36, "first": 1, "last": 2}
    made = add_shot(database, show, read_data({"umbrax": 1, "name": "other", "format": layout, "build": [{"id": "all", "treat": True}]}))
    assert made is not None
    other = Bench(client, made)
    assert names(other) == []
    assert ask(other, f"/{kept['id']}/laying", revision=1, frame=1, card="all").status_code == 404
    copied = {"revision": 1, "origin": bench.shot_id, "origin_revision": 1, "cards": ["sky"]}
    refused = client.post(f"/api/shots/{made}/cards/bringing", json=copied)
    assert refused.status_code == 400
    assert "within a show" in refused.get_json()["error"]["message"]
