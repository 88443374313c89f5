"""A client on the application with its own database and the demo's first frames."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from bench_client import Bench
from flask.testing import FlaskClient

from demo_shot import plain_shot
from running import free_port, in_process, launch, let_in, stop, token_of, wait_for_server
from umbrax.settings import Settings
from umbrax.store import shots
from umbrax.store.database import Database
from umbrax.web.demo_show import bring_in


@pytest.fixture(scope="module")
def settings(database_address: str, demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Settings:
    """A state of their own, and the demo as a media folder."""
    return Settings(tmp_path_factory.mktemp("state"), (demo,), database_address, 1 << 30, 4 << 30)


@pytest.fixture(scope="module")
def client(settings: Settings, database: Database, demo: Path) -> Iterator[FlaskClient]:
    bring_in(database, str(demo))
    with in_process(settings) as client:
        yield let_in(client, token_of(database))


@pytest.fixture
def shot_id(client: FlaskClient, database: Database, request: pytest.FixtureRequest) -> int:
    """A fresh shot a test, a copy of the demo's."""
    demo = next(row for row in shots.list_shots(database) if row.name == "Dome at dusk")
    shot = plain_shot(shots.get_revision(database, demo.id, 1).shot).model_copy(update={"name": request.node.name[:60]})
    made = shots.add_shot(database, demo.show_id, shot)
    assert made is not None
    return made


@pytest.fixture
def bench(client: FlaskClient, shot_id: int) -> Bench:
    return Bench(client, shot_id)


@pytest.fixture(scope="module")
def served(database_address: str, database: Database, demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """The address of a server as it is started for people."""
    bring_in(database, str(demo))
    state, port = tmp_path_factory.mktemp("served"), free_port()
    process = launch(state, database_address, "serve", "--port", str(port), media=demo)
    wait_for_server(f"http://127.0.0.1:{port}", state)
    yield f"http://127.0.0.1:{port}"
    stop(process)
    assert process.returncode == 0, "asked to stop, it ends in order"
