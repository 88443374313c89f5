"""What a tab does, over HTTP, in few words."""

import time
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
from flask.testing import FlaskClient

from umbrax.web.state import State

TRIES = 6


def patiently(ask: Callable[[], Any]) -> Any:
    """An answer, asked for again as the page does where the server has no room for it just now."""
    for _ in range(TRIES - 1):
        answer = ask()
        if answer.status_code != 503 or "Retry-After" not in answer.headers:
            return answer
        time.sleep(float(answer.headers["Retry-After"]))
    return ask()


def picture(answer: Any) -> np.ndarray:
    """The picture of an answer, as `int[h, w, 3]`."""
    assert answer.status_code == 200, answer.data
    return cv2.imdecode(np.frombuffer(answer.data, np.uint8), cv2.IMREAD_COLOR)[..., ::-1].astype(int)


class Bench:
    """What a tab does, in few words."""

    def __init__(self, client: FlaskClient, shot_id: int, tab: str = "one"):
        self.client, self.shot_id, self.tab, self.count = client, shot_id, tab, 0

    @property
    def shared(self) -> State:
        """What the server's views share."""
        return self.client.application.extensions["umbrax"]

    def state(self) -> dict[str, Any]:
        answer = patiently(lambda: self.client.get(f"/api/shots/{self.shot_id}"))
        assert answer.status_code == 200, answer.text
        return answer.get_json()

    def edit(self, path: list[str], value: Any, base: int | None = None) -> Any:
        self.count += 1
        body = {
            "base": self.state()["revision"] if base is None else base, "edits": [{"op": "set", "path": path, "value": value}],
            "command": "set " + path[-1], "gesture": f"{self.tab} {self.shot_id} {self.count}", "tab": self.tab,
        }  # fmt: skip
        return self.client.post(f"/api/shots/{self.shot_id}/edits", json=body)

    def travel(self, way: str, force: bool = False) -> Any:
        return self.client.post(f"/api/shots/{self.shot_id}/{way}", json={"tab": self.tab, "force": force})

    def look(self, **order: Any) -> Any:
        body = {"revision": self.state()["revision"], "frame": 1001, "scale": 4, **order}
        return self.client.post(f"/api/shots/{self.shot_id}/look", json=body)
