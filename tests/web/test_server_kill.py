"""The server is killed in the middle of work: what was saved is there again, and what was being rendered finishes."""

import contextlib
import json
import os
import signal
import threading
import time
import urllib.request
from pathlib import Path
from typing import Any

from running import asked, free_port, launch, stop, token_of, wait_for_server
from umbrax.store import renders
from umbrax.store.database import Database
from umbrax.store.shots import list_shots
from umbrax.web.demo_show import bring_in


def call(where: tuple[str, str], path: str, body: dict[str, Any] | None = None) -> Any:
    """Ask a server, given by its address and a token."""
    data = None if body is None else json.dumps(body).encode()
    request = asked(f"{where[0]}/api{path}", where[1], data, **{"Content-Type": "application/json"})
    with urllib.request.urlopen(request, timeout=60) as answer:
        return json.loads(answer.read() or b"null") if answer.headers.get_content_type() == "application/json" else answer.read()


def edit(address: tuple[str, str], shot: int, base: int, value: float) -> Any:
    change = {"op": "set", "path": ["build", "station", "opacity"], "value": value}
    return call(address, f"/shots/{shot}/edits", {"base": base, "edits": [change], "command": "opacity", "gesture": f"g{base}", "tab": "a"})


def test_server_and_worker_killed_at_work_lose_nothing(database_address: str, database: Database, demo: Path, tmp_path: Path) -> None:
    bring_in(database, str(demo))
    for left in renders.list_queue(database):  # of other tests: nothing is to be waited for
        renders.ask_to_cancel(database, left.id)
    shot = next(row.id for row in list_shots(database) if row.name == "Dome at dusk")
    port = free_port()
    address = (f"http://127.0.0.1:{port}", token_of(database))
    commands = (("serve", "--port", str(port)), ("worker",))
    first = [launch(tmp_path, database_address, *command, media=demo) for command in commands]
    try:
        wait_for_server(address[0], tmp_path)
        revision = edit(address, shot, call(address, f"/shots/{shot}")["revision"], 0.9)["revision"]
        ordered = call(address, f"/shots/{shot}/renders", {"revision": revision, "frames": "1001-1003"})
        look = {"revision": revision, "frame": 1002, "scale": 1}
        looking = threading.Thread(target=lambda: _ignored(call, address, f"/shots/{shot}/look", look))
        looking.start()
        time.sleep(0.3)
    finally:
        for process in first:
            os.killpg(process.pid, signal.SIGKILL)
            process.wait(10)
    looking.join(60)
    second = [launch(tmp_path, database_address, *command, media=demo) for command in commands]
    try:
        wait_for_server(address[0], tmp_path)
        state = call(address, f"/shots/{shot}")
        assert state["revision"] == revision
        assert next(card for card in state["document"]["build"] if card["id"] == "station")["opacity"] == 0.9
        assert call(address, f"/shots/{shot}/look", look)[:3] == b"\xff\xd8\xff", "and it still looks"
        for _ in range(600):
            row = next(r for r in call(address, f"/shots/{shot}/renders")["renders"] if r["id"] == ordered["id"])
            if row["state"] not in ("queued", "running"):
                break
            time.sleep(0.1)
        assert row["state"] == "done", row["message"]
        assert sorted(row["done"]) == [1001, 1002, 1003]
    finally:
        for process in second:
            stop(process)


def _ignored(work: Any, *arguments: Any) -> None:
    with contextlib.suppress(OSError):
        work(*arguments)
