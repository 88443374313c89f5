"""A queue worker: one job at a time; jobs of a worker that died are taken up again at its start and on a timer."""

import asyncio
import contextlib

import structlog

from umbrax.media.fastcopies import FastCopies
from umbrax.render.engine import Engine
from umbrax.settings import read_settings
from umbrax.store.database import Database

from .checking import run_checkup
from .queue import CHECKUP, RENDER, make_queue
from .rendering import run_render

HEARTBEAT = 2.0
STALLED_AFTER = 8.0


def run_worker() -> None:
    """Run until told to stop."""
    settings = read_settings()
    database = Database(settings.database, most=3)
    engine = Engine(FastCopies(settings.fast_copies, settings.fast_bytes), settings.cache_bytes // 2)
    app = make_queue(settings.database, for_worker=True)

    @app.task(name=RENDER)
    def render(render_id: int) -> None:
        run_render(database, engine, settings, render_id)

    @app.task(name=CHECKUP)
    def checkup(shot_id: int) -> None:
        run_checkup(database, engine, settings, shot_id)

    async def serve() -> None:
        async with app.open_async():
            rescue = asyncio.create_task(_rescue_forever(app))
            try:
                await app.run_worker_async(
                    concurrency=1,
                    update_heartbeat_interval=HEARTBEAT,
                    stalled_worker_timeout=STALLED_AFTER,
                    install_signal_handlers=True,
                )
            finally:
                rescue.cancel()
                with contextlib.suppress(asyncio.CancelledError):
                    await rescue

    asyncio.run(serve())


async def _rescue_forever(app: object) -> None:
    log = structlog.get_logger()
    while True:
        stalled = await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER)  # type: ignore[attr-defined]
        for job in stalled:
            await app.job_manager.retry_job(job)  # type: ignore[attr-defined]
            log.info("took up a job of a worker that died", job=job.id)
        await asyncio.sleep(3)
