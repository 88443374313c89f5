"""Following a render on a server until it ends."""

import time
from collections.abc import Callable
from typing import Any

from umbrax.core.errors import UmbraxError

from .server import Server

ASK_EVERY = 1.0  # seconds
PATIENCE = 300.0  # seconds without any answer: a server that is started anew goes on with its renders
ENDED = frozenset({"done", "failed", "cancelled"})


def follow(server: Server, render: dict[str, Any], moved: Callable[[dict[str, Any]], None]) -> dict[str, Any]:
    """Ask after a render until it is done, failed or cancelled; `moved` is told whenever frames or its state are others than before.

    A server that does not answer is asked again for five minutes.
    """
    moved(render)
    heard = time.monotonic()
    while render["state"] not in ENDED:
        time.sleep(ASK_EVERY)
        try:
            now = server.get(f"/renders/{render['id']}")
        except UmbraxError as error:
            if error.code not in ("no-server", "no-database") or time.monotonic() - heard > PATIENCE:
                raise
            continue
        heard = time.monotonic()
        if (now["state"], now["done"], now["failed"]) != (render["state"], render["done"], render["failed"]):
            moved(now)
        render = now
    return render
