"""A queue worker, on the server's machine or another: one chunk of frames at a time, and a check-up beside it that gives way to it. What
was lost is taken up again at its start and on a timer."""

import asyncio
import contextlib
import threading
import time
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numba
import procrastinate
import psycopg
import structlog

from umbrax.core.errors import UmbraxError
from umbrax.logs import configure_logs
from umbrax.media.fastcopies import FastCopies
from umbrax.media.openfiles import raise_limit
from umbrax.render.engine import Engine
from umbrax.settings import read_settings
from umbrax.store.database import Database
from umbrax.store.folders import by_name

from .checking import run_checkup
from .hands import Hands
from .mapping import FolderMap, folders_named
from .queue import CHECKUP, CHECKUPS, FRAMES, RENDER, Work, make_queue
from .rendering import run_render
from .reporting import WorkerReport
from .rescuing import STALLED_AFTER, rescue

HEARTBEAT = 2.0
LOOK_EVERY = 3.0
PATIENCE = 120.0  # seconds that work in hand waits for a database that is started anew
GONE = (procrastinate.exceptions.ConnectorException, psycopg.Error, UmbraxError, OSError)


class InHand:
    """The locks of the work this process is doing; the same work is done once at a time."""

    def __init__(self) -> None:
        self.locks: set[str] = set()
        self.ends = threading.Event()  # no more is to be begun
        self._changed = threading.Condition()

    @property
    def renders(self) -> bool:
        """Whether frames are being made."""
        return any(lock.startswith(f"{RENDER} ") for lock in tuple(self.locks))

    @contextlib.contextmanager
    def taking(self, work: Work) -> Iterator[None]:
        with self._changed:
            self._changed.wait_for(lambda: work.lock not in self.locks)
            self.locks.add(work.lock)
        try:
            yield
        finally:
            with self._changed:
                self.locks.discard(work.lock)
                self._changed.notify_all()


def run_worker(address: str | None = None, folders: Sequence[str] = ()) -> None:
    """Run until told to stop; a database that goes away is waited for.

    From another machine: `address` is the database's, `folders` say where the server's lie here, each as NAME=PATH.
    """
    configure_logs()
    raise_limit()
    settings = read_settings()
    if address is not None:
        settings = replace(settings, database=address)
    named = folders_named(list(folders))
    database = Database(settings.database, most=3, patience=PATIENCE)
    engine = Engine(FastCopies(settings.fast_copies, settings.fast_bytes), settings.cache_bytes // 2, settings.memory_bytes // 2)
    engine.keep_memory()
    report = WorkerReport(database, numba.get_num_threads())
    hands = Hands(database, engine, settings, FolderMap(by_name(database), named), report)
    in_hand = InHand()

    def app_with_tasks() -> procrastinate.App:
        app = make_queue(settings.database, for_worker=True)

        @app.task(name=RENDER)
        def render(render_id: int, frames: list[int] | None = None) -> None:
            with in_hand.taking(Work(RENDER, render_id, tuple(frames or ()))):
                run_render(hands, render_id, frames)

        @app.task(name=CHECKUP)
        def checkup(shot_id: int) -> None:
            with in_hand.taking(Work(CHECKUP, shot_id)):
                run_checkup(hands, shot_id, lambda: in_hand.renders, in_hand.ends.is_set)

        return app

    log = structlog.get_logger()
    try:
        while True:
            try:
                asyncio.run(_serve(app_with_tasks(), hands, in_hand))
                return
            except GONE as error:
                reason = str(error).splitlines()[0] if str(error) else type(error).__name__
                log.warning("the queue does not answer; trying again", reason=reason)
                time.sleep(1)
    finally:
        report.leave()


async def _serve(app: procrastinate.App, hands: Hands, in_hand: InHand) -> None:
    """Until a signal stops what takes frames, or anything fails; a chunk of frames comes to its end, a check-up leaves off."""
    in_hand.ends.clear()
    async with app.open_async():
        working = [asyncio.create_task(_taking_from(app, FRAMES, signals=True)), asyncio.create_task(_taking_from(app, CHECKUPS))]
        rescuing = asyncio.create_task(_rescue_forever(app, hands, in_hand))
        try:
            await asyncio.wait(working, return_when=asyncio.FIRST_COMPLETED)
        finally:
            in_hand.ends.set()
            for task in (*working, rescuing):
                task.cancel()
            ended = await asyncio.gather(*working, rescuing, return_exceptions=True)
    for error in ended:
        if isinstance(error, Exception):
            raise error


async def _taking_from(app: procrastinate.App, queue: str, signals: bool = False) -> None:
    await app.run_worker_async(
        queues=[queue],
        concurrency=1,
        fetch_job_polling_interval=LOOK_EVERY,
        update_heartbeat_interval=HEARTBEAT,
        stalled_worker_timeout=STALLED_AFTER,
        install_signal_handlers=signals,
    )


async def _rescue_forever(app: procrastinate.App, hands: Hands, in_hand: InHand) -> None:
    log = structlog.get_logger()
    while True:
        try:
            # the caches of all workers of a machine are no larger than those of two
            hands.engine.share_cache(min(1.0, 2 / await asyncio.to_thread(hands.report.here)))
            for lock in await rescue(app, hands.database, in_hand.locks):
                log.info("took up what was left undone", work=lock)
        except GONE as error:
            log.warning("could not look for what was left undone; trying again", reason=type(error).__name__)
        await asyncio.sleep(LOOK_EVERY)
