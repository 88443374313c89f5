"""Processes of the program as `bin/start` runs them: the server and the queue worker."""

import os
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

PROGRAM = (sys.executable, "-c", "from umbrax.cli import main; main()")


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
