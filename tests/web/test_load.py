"""Under load: nobody waits for long, quick answers never wait behind slow ones, and what nobody waits for is not computed."""

import http.client
import json
import socket
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable

import pytest

from running import asked, token_of
from umbrax.core.errors import Cancelled, UmbraxError
from umbrax.store.database import Database
from umbrax.store.shots import list_shots
from umbrax.web import gate as gates
from umbrax.web.gate import MOST_WAITING, Gate


def together(jobs: list[Callable[[], None]]) -> None:
    threads = [threading.Thread(target=job) for job in jobs]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)
        assert not thread.is_alive()


def until(met: Callable[[], bool]) -> None:
    end = time.monotonic() + 10
    while not met():
        assert time.monotonic() < end
        time.sleep(0.005)


def test_only_so_many_wait_and_others_are_told_to_come_again() -> None:
    gate, answers, go = Gate(), [], threading.Event()

    def ask(priority: str) -> None:
        try:
            with gate.enter("", 0, priority):
                go.wait(20)
                answers.append("served")
        except UmbraxError as error:
            answers.append(error.code if (error.status, error.again) == (503, True) else "another")

    with gate.enter("", 0, "look"), gate.enter("", 0, "look"):
        crowd = [threading.Thread(target=ask, args=("thumbnail",)) for _ in range(MOST_WAITING[2] + 7)]
        for one in crowd:
            one.start()
        until(lambda: answers.count("busy") == 7)
        go.set()
    for one in crowd:
        one.join(30)
    assert answers.count("served") + answers.count("busy") == len(crowd)
    assert answers.count("served") == MOST_WAITING[2]


def test_who_waits_too_long_is_told_so(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(gates, "PATIENCE", 0.2)
    gate = Gate(slots=1)
    with gate.enter("", 0, "look"), pytest.raises(UmbraxError, match="more to compute") as told, gate.enter("", 0, "refine"):
        pass
    assert told.value.again
    with gate.enter("", 0, "refine"):
        pass  # and the place is free again


def test_who_waited_in_vain_goes_before_those_who_came_meanwhile(monkeypatch: pytest.MonkeyPatch) -> None:
    gate, order = Gate(slots=1), []

    def look(viewer: str) -> None:
        with gate.enter(viewer, 1, "look"):
            order.append(viewer)

    with gate.enter("", 0, "look"):
        monkeypatch.setattr(gates, "PATIENCE", 0.05)
        with pytest.raises(UmbraxError):
            look("first")
        monkeypatch.setattr(gates, "PATIENCE", 60.0)
        waiting = []
        for count, viewer in enumerate(("later", "first", "last"), 1):
            waiting.append(threading.Thread(target=look, args=(viewer,)))
            waiting[-1].start()
            until(lambda count=count: len(gate._waiting) == count)
    for one in waiting:
        one.join(10)
    assert order == ["first", "later", "last"]


def test_small_pictures_come_though_looks_never_end(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(gates, "AGED", 0.1)
    gate, came = Gate(slots=2), threading.Event()

    def looks() -> None:
        while not came.is_set():
            with gate.enter("", 0, "look"):
                time.sleep(0.01)

    def thumbnail() -> None:
        with gate.enter("", 0, "thumbnail"):
            came.set()

    together([looks] * 4 + [thumbnail])
    assert came.is_set()


def test_turns_of_one_request_keep_its_place() -> None:
    gate, order = Gate(slots=1), []
    first = gate.ticket("", 0, "thumbnail")
    held = gate.ticket("", 0, "look")

    def later() -> None:
        with gate.enter("", 0, "thumbnail"):
            order.append("later")

    with gate.turn(held):
        waiting = threading.Thread(target=later)
        waiting.start()
        until(lambda: len(gate._waiting) == 1)

        def again() -> None:
            with gate.turn(first):
                order.append("first")

        second = threading.Thread(target=again)
        second.start()
        until(lambda: len(gate._waiting) == 2)
    waiting.join(10)
    second.join(10)
    assert order == ["first", "later"]


def test_what_is_overtaken_or_left_is_dropped() -> None:
    gate = Gate()
    with gate.enter("v", 1, "look") as old:
        old.watch()
        gate.ticket("v", 2, "look")
        with pytest.raises(Cancelled):
            old.watch()
    left = gate.ticket("", 0, "thumbnail")
    left.gone = lambda: True
    with pytest.raises(Cancelled), gate.turn(left):
        pass


def test_quick_answers_come_beside_sheets_and_half_sent_requests(served: str, database: Database) -> None:
    address, port = served, int(served.rsplit(":", 1)[1])
    shot = next(row for row in list_shots(database) if row.name == "Dome at dusk").id
    halves, token = [], token_of(database)
    for text in (b"GET /api/health HTT", b"POST /api/shots/1/look HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 900\r\n\r\n{") * 60:
        half = socket.create_connection(("127.0.0.1", port))
        half.sendall(text)
        halves.append(half)
    with urllib.request.urlopen(asked(f"{address}/api/shots/{shot}", token), timeout=10) as answer:
        revision = json.load(answer)["revision"]
    codes: list[int] = []

    def sheet(frame: int) -> None:
        query = f"revision={revision}&frame={frame}&part=passes&key=k{frame}"
        try:
            with urllib.request.urlopen(asked(f"{address}/api/shots/{shot}/sheet?{query}", token), timeout=60) as answer:
                codes.append(answer.status)
        except urllib.error.HTTPError as error:
            codes.append(error.code if error.headers["Retry-After"] else 0)

    crowd = [threading.Thread(target=sheet, args=(1001 + number % 3,)) for number in range(60)]
    for one in crowd:
        one.start()
    for _ in range(10):
        with urllib.request.urlopen(asked(f"{address}/api/shots/{shot}", token), timeout=5) as answer:
            assert json.load(answer)["revision"] == revision
    for one in crowd:
        one.join(60)
    assert len(codes) == 60
    assert set(codes) <= {200, 503}
    assert 200 in codes
    for half in halves:
        half.close()


def test_pieces_of_uploads_are_put_aside_beside_them_and_gone_after(served: str, database: Database) -> None:
    port = int(served.rsplit(":", 1)[1])
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
    size = (33 << 20) + 5
    tus = {"Tus-Resumable": "1.0.0", "Authorization": f"Bearer {token_of(database)}"}
    connection.request("POST", "/api/uploads", headers={**tus, "Upload-Length": str(size), "Upload-Metadata": "filename YS5iaW4="})
    begun = connection.getresponse()
    begun.read()
    connection.request("PATCH", begun.headers["Location"], bytes(size), {**tus, "Upload-Offset": "0"})
    ended = connection.getresponse()
    ended.read()
    assert (ended.status, ended.headers["Upload-Offset"]) == (204, str(size))
