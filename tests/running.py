"""Processes of the program as `bin/start` runs them: the server and the queue worker."""

import contextlib
import io
import os
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from flask.testing import FlaskClient

from umbrax.commands.main import main
from umbrax.settings import Settings
from umbrax.store import credentials, people
from umbrax.store.database import Database
from umbrax.web.app import make_app
from umbrax.web.state import make_state

PROGRAM = (sys.executable, "-c", "from umbrax.commands.main import main; main()")


NO_DATABASE = "postgresql://nobody@127.0.0.1:1/none"


def command(*words: str, state: Path, database: str = NO_DATABASE, typed: str = "") -> subprocess.CompletedProcess[str]:
    """The command line with no server, and by default no database to lean on, in this process: to start one takes seconds."""
    out, err, status = io.StringIO(), io.StringIO(), 0
    with pytest.MonkeyPatch.context() as patch, contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        _alone(patch, state, database)
        patch.setattr(sys, "argv", ["umbrax", *words])
        patch.setattr(sys, "stdin", io.StringIO(typed))
        try:
            main()
        except SystemExit as stop:
            status = int(stop.code or 0)
    return subprocess.CompletedProcess(words, status, out.getvalue(), err.getvalue())


def program(*words: str, state: Path) -> subprocess.CompletedProcess[str]:
    """The same as a process of its own, as people call it."""
    with pytest.MonkeyPatch.context() as patch:
        _alone(patch, state, NO_DATABASE)
        return subprocess.run([*PROGRAM, *words], capture_output=True, text=True, timeout=240, check=False)


def _alone(patch: pytest.MonkeyPatch, state: Path, database: str) -> None:
    for key in [key for key in os.environ if key.startswith("UMBRAX")]:
        patch.delenv(key)
    patch.setenv("UMBRAX_STATE", str(state))
    patch.setenv("UMBRAX_DATABASE", database)


def free_port() -> int:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return int(free.getsockname()[1])


def launch(state: Path, database: str, *arguments: str, cache_bytes: int = 1 << 29, media: Path | None = None) -> subprocess.Popen[bytes]:
    """A process in its own group, so that a kill reaches its children too."""
    environment = os.environ | {"UMBRAX_DATABASE": database, "UMBRAX_STATE": str(state), "UMBRAX_CACHE_BYTES": str(cache_bytes)}
    environment |= {"UMBRAX_MEDIA": str(media)} if media else {}
    with (state / "log").open("ab") as log:
        return subprocess.Popen([*PROGRAM, *arguments], env=environment, stdout=log, stderr=log, start_new_session=True)


def token_of(database: Database, name: str = "") -> str:
    """What lets a program in as somebody, by default as the first administrator."""
    person = people.find_person(database, name) if name else people.first_admin(database)
    assert person is not None
    return credentials.issue(database, person.id, "token", lasts=None, name="tests")


def asked(address: str, token: str, data: bytes | None = None, **headers: str) -> urllib.request.Request:
    """A request of a program that was let in."""
    return urllib.request.Request(address, data, {"Authorization": f"Bearer {token}", **headers})


def let_in(client: FlaskClient, token: str) -> FlaskClient:
    """A client whose requests all carry a token."""
    client.environ_base["HTTP_AUTHORIZATION"] = f"Bearer {token}"
    return client


def wait_for_server(address: str, state: Path) -> None:
    for _ in range(300):
        try:
            urllib.request.urlopen(f"{address}/api/health", timeout=1)
            return
        except OSError:
            time.sleep(0.1)
    raise AssertionError((state / "log").read_text())


def stop(process: subprocess.Popen[bytes]) -> None:
    process.terminate()
    try:
        process.wait(15)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait(5)


@contextlib.contextmanager
def in_process(settings: Settings) -> Iterator[FlaskClient]:
    """A client of the application in this process, as yet of nobody; its connections to the database end with it."""
    shared = make_state(settings)
    try:
        yield make_app(shared=shared).test_client()
    finally:
        shared.database.close()
