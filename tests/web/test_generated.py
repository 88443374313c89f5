"""Requests that are generated from our own description of the API: none ends in an error that nobody foresaw."""

import itertools
import json
import time
from pathlib import Path

import pytest
import schemathesis
from flask.testing import FlaskClient
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from jsonschema_rs import meta
from schemathesis import Case
from schemathesis.schemas import APIOperation

from umbrax.core.document.text import read_data
from umbrax.store.database import Database
from umbrax.store.shots import add_shot
from umbrax.store.shows import put_show
from umbrax.web.api_description import description

EXAMPLES = 10  # of each address
LONGEST = 60.0  # seconds: what hangs, however busy the machine is
COUNT = itertools.count()


def operations() -> list[APIOperation]:
    schema = schemathesis.openapi.from_dict(json.loads(description()))
    return [found.ok() for found in schema.get_all_operations()]


def test_the_description_is_valid() -> None:
    """OpenAPI 3.1: every schema in it is one of JSON Schema 2020-12, and every reference leads somewhere."""
    told = json.loads(description())
    assert told["openapi"].startswith("3.1")
    schemas = told["components"]["schemas"]
    for name, schema in schemas.items():
        assert meta.is_valid(schema | {"$schema": "https://json-schema.org/draft/2020-12/schema"}), name
    text = json.dumps(told)
    for part in text.split('"$ref": "')[1:]:
        address = part.split('"', 1)[0]
        assert address.startswith("#/components/schemas/"), address
        assert address.rsplit("/", 1)[1] in schemas, address


def _about_what_is_there(case: Case, shot_id: int) -> None:
    """Let a request be about a shot that exists, and its first revision and frame: others mostly end at that."""
    there = {"shot_id": shot_id, "revision": 1, "frame": 1001, "source": "station", "card": "station", "name": "beauty"}
    for told in (case.path_parameters, case.query, case.body):
        if isinstance(told, dict):
            told.update({key: value for key, value in there.items() if key in told})


@pytest.fixture
def own_shot(client: FlaskClient, database: Database, demo: Path) -> int:
    shot = read_data(json.loads((demo / "dome-at-dusk.umbrax.json").read_text()))
    show = put_show(database, f"generated {next(COUNT)}", str(demo))
    made = add_shot(database, show, shot)
    assert made is not None
    return made


@pytest.mark.parametrize("operation", operations(), ids=lambda one: f"{one.method} {one.path}")
def test_no_generated_request_fails_unforeseen(client: FlaskClient, own_shot: int, operation: APIOperation) -> None:
    @given(st.data())
    @settings(max_examples=EXAMPLES, deadline=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck), derandomize=True)
    def ask(data: st.DataObject) -> None:
        case = data.draw(operation.as_strategy())
        if data.draw(st.booleans()):
            _about_what_is_there(case, own_shot)
        sent = case.as_transport_kwargs(base_url="http://localhost")
        start = time.monotonic()
        body = {"json": sent["json"]} if "json" in sent else {"data": sent["data"]} if sent.get("data") else {}
        with client.open(sent["url"], method=sent["method"], query_string=sent.get("params"), **body) as answer:
            assert answer.status_code < 500 or answer.status_code == 503, (sent, answer.text[:300])
        assert time.monotonic() - start < LONGEST, sent

    ask()
