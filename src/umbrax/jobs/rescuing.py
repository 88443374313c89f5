"""Work that was lost: jobs of workers that died, and rows that should be worked at but have no job that lives.

A database that is started anew takes with it what a worker was about to write: its job stays `doing` for ever, or its row
stays queued without a job. Doing work twice does no harm, since it goes on with what is missing.
"""

import asyncio
from collections.abc import Collection
from datetime import UTC, datetime

import procrastinate

from umbrax.store import checkups, renders
from umbrax.store.database import Database

from .queue import CHECKUP, RENDER, Work

STALLED_AFTER = 8.0  # seconds without a sign of its worker


async def rescue(app: procrastinate.App, database: Database, in_hand: Collection[str]) -> list[str]:
    """Take up everything that was lost and return its locks; what is `in_hand` in this process is left alone."""
    taken = []
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER):
        await app.job_manager.retry_job(job)
        taken.append(job.lock or str(job.id))
    for work in await asyncio.to_thread(_stranded, database):
        if work.lock not in in_hand and await _taken_up(app, work):
            taken.append(work.lock)
    return taken


def _stranded(database: Database) -> list[Work]:
    return [Work(RENDER, number) for number in renders.stranded(database)] + [Work(CHECKUP, number) for number in checkups.stranded(database)]


async def _taken_up(app: procrastinate.App, work: Work) -> bool:
    """Put work into the queue again, unless it waits there already."""
    jobs = list(await app.job_manager.list_jobs_async(lock=work.lock))
    if any(job.status == "todo" for job in jobs):
        return False
    left = [job for job in jobs if job.status == "doing" and job.id is not None]
    for job in left:
        assert job.id is not None
        await app.job_manager.retry_job_by_id_async(job.id, retry_at=datetime.now(UTC))
    if not left:
        await work.configured(app).defer_async(**work.arguments)
    return True
