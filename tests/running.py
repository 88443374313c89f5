"""Processes of the program as `bin/start` runs them: the server and the queue worker."""

import os
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from flask.testing import FlaskClient

from umbrax.store import credentials, people
from umbrax.store.database import Database

PROGRAM = (sys.executable, "-c", "from umbrax.commands.main import main; main()")


def command(*words: str, state: Path) -> subprocess.CompletedProcess[str]:
    """The command line as people call it, with no database or server to lean on."""
    environment = {key: value for key, value in os.environ.items() if not key.startswith("UMBRAX")}
    environment |= {"UMBRAX_STATE": str(state), "UMBRAX_DATABASE": "postgresql://nobody@127.0.0.1:1/none"}
    return subprocess.run([*PROGRAM, *words], capture_output=True, text=True, env=environment, timeout=240, check=False)


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
