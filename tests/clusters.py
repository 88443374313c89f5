"""A PostgreSQL cluster of a test's own, which it may kill."""

import os
import shutil
import signal
import subprocess
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg

from running import free_port

PROGRAMS = max(Path("/usr/lib/postgresql").glob("*/bin"), key=lambda path: int(path.parent.name))
AS_POSTGRES = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []


class Cluster:
    """On loopback, without passwords; `address` names a database that is not there yet."""

    def __init__(self, folder: Path):
        self.folder, self.port = folder, free_port()
        self.address = f"postgresql://umbrax@127.0.0.1:{self.port}/umbrax"

    def _run(self, program: str, *words: str) -> None:
        subprocess.run([*AS_POSTGRES, str(PROGRAMS / program), *words], cwd="/", check=True, stdout=subprocess.DEVNULL, timeout=60)

    def make(self) -> None:
        self._run("initdb", "-D", str(self.folder / "data"), "-U", "umbrax", "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8", "--no-sync")

    def start(self) -> None:
        told = f"-p {self.port} -c listen_addresses=127.0.0.1 -c unix_socket_directories='{self.folder}' -c fsync=on"
        for attempt in range(20):
            try:
                self._run("pg_ctl", "-D", str(self.folder / "data"), "-w", "-t", "20", "-l", str(self.folder / "log"), "-o", told, "start")
                return
            except subprocess.CalledProcessError:
                if attempt == 19:
                    raise
                time.sleep(0.3)  # what is left of a killed one still holds its memory

    def kill(self) -> None:
        """As a machine does that runs out of memory: at once, without a word to anybody."""
        os.kill(self._first(), signal.SIGKILL)

    def _first(self) -> int:
        """The process that all others of it come from."""
        return int((self.folder / "data" / "postmaster.pid").read_text().splitlines()[0])

    def processes(self) -> list[int]:
        first = self._first()
        below = subprocess.run(["pgrep", "-P", str(first)], capture_output=True, text=True, check=False).stdout
        return [first, *map(int, below.split())]

    @contextmanager
    def stopped(self) -> Iterator[None]:
        """Within, it does nothing at all, but its connections stand."""
        held = self.processes()
        for process in held:
            os.kill(process, signal.SIGSTOP)
        try:
            yield
        finally:
            for process in held:
                os.kill(process, signal.SIGCONT)

    def answers(self) -> bool:
        try:
            psycopg.connect(self.address, connect_timeout=2).close()
        except psycopg.OperationalError:
            return False
        return True


@contextmanager
def running_cluster() -> Iterator[Cluster]:
    folder = Path(tempfile.mkdtemp(prefix="umbrax-cluster-", dir="/var/tmp"))
    if AS_POSTGRES:
        shutil.chown(folder, "postgres")
    cluster = Cluster(folder)
    try:
        cluster.make()
        cluster.start()
        yield cluster
    finally:
        subprocess.run([*AS_POSTGRES, str(PROGRAMS / "pg_ctl"), "-D", str(folder / "data"), "-m", "immediate", "stop"], cwd="/", check=False)
        shutil.rmtree(folder, ignore_errors=True)
