"""Workers of one machine take turns on its processors, whatever becomes of one of them."""

import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

from umbrax.core.errors import Cancelled
from umbrax.jobs.processors import Processors

HOLDING = """
import sys, time
from pathlib import Path
from umbrax.jobs.processors import Processors
with Processors(Path(sys.argv[1]), 1).one(lambda: None):
    print("held", flush=True)
    time.sleep(60)
"""


def never() -> None:
    pytest.fail("nothing was to be waited for")


def stop() -> None:
    raise Cancelled


def test_no_more_compute_at_once_than_there_are_processors(tmp_path: Path) -> None:
    at_once, most, lock = [0], [0], threading.Lock()

    def work() -> None:
        for _ in range(5):
            # each worker has its own
            with Processors(tmp_path, 2).one(lambda: None):
                with lock:
                    at_once[0] += 1
                    most[0] = max(most[0], at_once[0])
                time.sleep(0.01)
                with lock:
                    at_once[0] -= 1

    threads = [threading.Thread(target=work) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert most[0] == 2


def test_who_waits_can_be_cancelled_and_does_not_wait_for_ever(tmp_path: Path) -> None:
    with Processors(tmp_path, 1).one(never):
        with pytest.raises(Cancelled), Processors(tmp_path, 1).one(stop):
            pytest.fail("there is one processor, and it is taken")
        start, other = time.monotonic(), Processors(tmp_path, 1, patience=0.3)
        with other.one(lambda: None):
            assert 0.3 <= time.monotonic() - start < 5
        with other.one(never):
            pass
    with other.one(never), pytest.raises(Cancelled), Processors(tmp_path, 1).one(stop):
        pytest.fail("it waits again for those that go on")


def test_what_is_killed_lets_go(tmp_path: Path) -> None:
    process = subprocess.Popen([sys.executable, "-c", HOLDING, tmp_path], stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    with process:
        assert process.stdout.readline() == "held\n"
        with pytest.raises(Cancelled), Processors(tmp_path, 1).one(stop):
            pytest.fail("another process has it")
        process.kill()
    with Processors(tmp_path, 1).one(never):
        pass


def test_where_nothing_can_be_locked_nobody_waits(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    with Processors(tmp_path / "file", 1).one(never), Processors(tmp_path / "file", 1).one(never):
        pass
