"""What the page is drawn from: the models it gets say everything a control needs."""

from typing import Any

import pytest
from bench_client import Bench

from umbrax.core.joins.base import JOINS
from umbrax.core.mattes import MATTES
from umbrax.core.pictures import PICTURES
from umbrax.core.treatments import STAGES, TREATMENTS


@pytest.fixture
def models(bench: Bench) -> dict[str, Any]:
    return bench.client.get("/api/models").get_json()


def test_everything_registered_is_told(models: dict[str, Any]) -> None:
    assert [t["kind"] for t in models["treatments"]] == [t.kind for t in TREATMENTS]
    assert {j["kind"] for j in models["joins"]} == set(JOINS.kinds())
    assert {p["kind"] for p in models["pictures"]} == set(PICTURES.kinds())
    assert {m["kind"] for m in models["mattes"]} == set(MATTES.kinds())
    assert models["stages"] == list(STAGES)
    assert {t["stage"] for t in models["treatments"]} <= set(STAGES)
    assert all(t["summary"] for t in models["treatments"])


def test_a_page_that_has_them_is_not_sent_them_again(bench: Bench) -> None:
    first = bench.client.get("/api/models")
    again = bench.client.get("/api/models", headers={"If-None-Match": first.headers["ETag"]})
    assert (again.status_code, again.data) == (304, b"")
    other = bench.client.get("/api/models", headers={"If-None-Match": '"another version"'})
    assert (other.status_code, other.data) == (200, first.data)


def numbers(models: dict[str, Any]) -> list[tuple[str, str, dict[str, Any]]]:
    owners = [(t["kind"], t["schema"]) for t in models["treatments"]] + [(p["kind"], p["schema"]) for p in models["pictures"]]
    fields = [(owner, name, field) for owner, schema in owners for name, field in schema["properties"].items()]
    return [(owner, name, field) for owner, name, field in fields if field.get("animated")]


def test_every_number_has_a_title_a_range_to_drag_in_and_keys(models: dict[str, Any]) -> None:
    assert models["placing"]["properties"]["turn"]["soft"]
    found = [(owner, name, field) for owner, name, field in numbers(models) if field.get("oneOf", [{}])[0].get("type") == "number"]
    assert len(found) > 10
    for owner, name, field in found:
        where = f"{owner}.{name}"
        assert field["title"], where
        plain = field["oneOf"][0]
        low, high = field["soft"]
        assert low < high, where
        assert plain.get("minimum", low) <= low, where
        assert plain.get("maximum", high) >= high, where
        default = field.get("default")
        assert default is None or plain.get("minimum", default) <= default <= plain.get("maximum", default), where


def test_titles_are_words_and_formulas_are_told(models: dict[str, Any]) -> None:
    told = [field for _, _, field in numbers(models) if field.get("formula")]
    assert len(told) > 8
    for _, name, field in numbers(models):
        assert field["title"][0].isupper(), name
        assert "_" not in field["title"], name
    assert all(join["formula"] for join in models["joins"])


def test_documents_with_defaults_only_are_valid(bench: Bench) -> None:
    from umbrax.core.document.text import read_data

    treatments = [{"id": f"t{n}", "kind": t.kind} for n, t in enumerate(TREATMENTS)]
    build = [{"id": "all", "picture": {"kind": "solid"}, "treatments": treatments}]
    shot = read_data({"umbrax": 1, "name": "n", "format": {"width": 8, "height": 8, "first": 1, "last": 2}, "build": build})
    assert [t.kind for t in shot.build[0].treatments] == TREATMENTS.kinds()
