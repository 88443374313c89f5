"""Work that was lost: jobs of workers that died, and rows that should be worked at but have no job that lives.

A database that is started anew takes with it what a worker was about to write: its job stays `doing` for ever, or its row
stays queued without a job. Doing work twice does no harm, since it goes on with what is missing.
"""

import asyncio
from collections.abc import Collection
from datetime import UTC, datetime

import procrastinate
from procrastinate.jobs import Job

from umbrax.store import checkups, renders
from umbrax.store.database import Database

from .cutting import defer_render
from .queue import CHECKUP, RENDER, defer_checkup

STALLED_AFTER = 8.0  # seconds without a sign of its worker


async def rescue(app: procrastinate.App, database: Database, in_hand: Collection[str]) -> list[str]:
    """Take up everything that was lost and return its locks; what is `in_hand` in this process is left alone."""
    taken = []
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER):
        await app.job_manager.retry_job(job)
        taken.append(job.lock or str(job.id))
    for task, key, stranded in ((RENDER, "render_id", renders.stranded), (CHECKUP, "shot_id", checkups.stranded)):
        numbers = await asyncio.to_thread(stranded, database)
        if not numbers:
            continue
        jobs = [job for status in ("todo", "doing") for job in await app.job_manager.list_jobs_async(task=task, status=status)]
        for number in numbers:
            own = [job for job in jobs if str(job.task_kwargs.get(key)) == str(number)]
            if not any(job.status == "todo" or job.lock in in_hand for job in own):
                taken += await _taken_up(app, database, task, number, own)
    return taken


async def _taken_up(app: procrastinate.App, database: Database, task: str, number: int, own: list[Job]) -> list[str]:
    """Put work into the queue again that nobody does and nothing there stands for; `own` are its jobs of workers that are gone."""
    left = [job for job in own if job.id is not None]
    for job in left:
        assert job.id is not None
        await app.job_manager.retry_job_by_id_async(job.id, retry_at=datetime.now(UTC))
    if left:
        return [job.lock or str(job.id) for job in left]
    if task == RENDER:
        await asyncio.to_thread(defer_render, database, number)
    else:
        await asyncio.to_thread(defer_checkup, database.address, number)
    return [f"{task} {number}"]
