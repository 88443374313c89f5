"""What the scripts think of a process they started: alive while it becomes another program, gone when it has ended; and how it yields."""

import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
# as `umbrax serve` becomes the server, many times over so that the moment without a command line comes up
BECOMING = """
import os, sys, time
left = int(sys.argv[1])
if left:
    os.execv(sys.executable, [sys.executable, *sys.orig_argv[1:-1], str(left - 1)])
time.sleep(30)
"""
ASKING = 'source "$1/bin/lib/environment.sh"; while running "$2"; do :; done; echo lost'


def asked(script: str, pid_file: Path, state: Path, seconds: float) -> str | None:
    """What the shell said within *seconds*; nothing where it still went on."""
    environment = os.environ | {"UMBRAX_STATE": str(state)}
    command = ["bash", "-c", script, "bash", str(ROOT), str(pid_file)]
    try:
        done = subprocess.run(command, env=environment, capture_output=True, text=True, timeout=seconds)
    except subprocess.TimeoutExpired:
        return None
    return done.stdout.strip()


def test_a_process_that_becomes_another_program_is_alive(tmp_path: Path) -> None:
    process = subprocess.Popen([sys.executable, "-c", BECOMING, "60"])
    (tmp_path / "pid").write_text(str(process.pid))
    try:
        assert asked(ASKING, tmp_path / "pid", tmp_path / "state", 3) is None
    finally:
        process.kill()
        # not waited for yet: an ended process whose parent has not asked for it has no command line either
        ended = asked(ASKING, tmp_path / "pid", tmp_path / "state", 3)
        process.wait()
    assert ended == "lost"
    assert asked(ASKING, tmp_path / "pid", tmp_path / "state", 3) == "lost"


def test_what_yields_does_so_to_other_sessions_as_well() -> None:
    """Where Linux shares the processors among sessions, a nice process in a session of its own would still get as much as all of another."""
    telling = (
        "import os; print(os.nice(0)); print(open('/proc/self/autogroup').read() if os.path.exists('/proc/self/autogroup') else 'nice 19')"
    )
    command = [ROOT / "bin/lib/yielding", sys.executable, "-c", telling]
    own = subprocess.run(command, start_new_session=True, capture_output=True, text=True, check=True).stdout
    assert own.startswith("19\n")
    assert own.strip().endswith("nice 19")
    # whoever starts it by hand keeps the rest of their session as it was
    mine = Path("/proc/self/autogroup")
    before = mine.read_text() if mine.exists() else ""
    assert subprocess.run(command, capture_output=True, text=True, check=True).stdout.startswith("19\n")
    assert (mine.read_text() if before else "") == before


STOPPING = """
source "$1/bin/lib/environment.sh"; source "$1/bin/lib/postgres.sh"
mkdir -p "$RUN"; echo "$STATE/postgres" >"$RUN/pg.folder"; touch "$RUN/pg.started"
trap pg_stop EXIT
false
"""


def test_what_was_started_is_stopped_though_a_command_failed(tmp_path: Path) -> None:
    """As at the end of tests of which one fails: in a trap, a bare return in what it asks fails as well, and ended it."""
    asked(STOPPING, tmp_path / "pid", tmp_path / "state", 20)
    assert not (tmp_path / "state" / "run" / "pg.started").exists()
