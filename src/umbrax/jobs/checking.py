"""The work of a check-up job: every frame of every source of a shot; making fast copies on the way."""

import time
from collections.abc import Callable

import structlog

from umbrax.core.errors import Cancelled, UmbraxError
from umbrax.media.examining import check_up_all, sequence_of_source
from umbrax.store import checkups

from .failing import unexpected
from .hands import Hands
from .queue import defer_checkup

RESTS, LONGEST = 2.0, 3.0  # times as long as it works, while frames are being made, and seconds at the most: it is seen to be alive


def never() -> bool:
    return False


class LeftOff(Exception):
    """The worker is to end: another begins anew."""


def run_checkup(hands: Hands, shot_id: int, gives_way: Callable[[], bool] = never, leaves_off: Callable[[], bool] = never) -> None:
    """Examine what the ordered revision reads; the row says how it ended. Safe to run again at any time.

    While it `gives_way` it does a third of what it could; when it `leaves_off` it is put into the queue again.
    """
    database, engine = hands.database, hands.engine
    row = checkups.get_checkup(database, shot_id)
    if row is None or row.state not in ("queued", "running"):
        return
    log = structlog.get_logger().bind(shot=shot_id)
    hands.report.checking(True)
    try:
        shot = hands.shot_of(shot_id, row.revision)
        reader = engine.reader(shot, hands.roots_of(shot_id))
        sequences = [sequence_of_source(reader, name) for name in shot.sources]
        total, done = sum(len(sequence.frames) for sequence in sequences), 0
        begun = time.monotonic()

        def watch() -> None:
            nonlocal done, begun
            if leaves_off():
                raise LeftOff
            if gives_way():
                time.sleep(min(RESTS * (time.monotonic() - begun), LONGEST))
            if checkups.set_progress(database, shot_id, row.revision, done, total):
                raise Cancelled
            done += 1
            begun = time.monotonic()

        findings = check_up_all(sequences, engine.copies, watch)
        checkups.set_progress(database, shot_id, row.revision, total, total)
        checkups.finish(database, shot_id, row.revision, "done", [finding.payload() for finding in findings])
        log.info("check-up done", findings=len(findings))
    except LeftOff:
        defer_checkup(database.address, shot_id)
    except Cancelled:
        checkups.finish(database, shot_id, row.revision, "cancelled", None)
    except UmbraxError as error:
        if error.code == "no-database":
            raise  # its row cannot be written either: it stays as it is, and is taken up again
        checkups.finish(database, shot_id, row.revision, "failed", None, error.payload())
    except Exception as error:
        checkups.finish(database, shot_id, row.revision, "failed", None, unexpected(error, "check-up").payload())
        log.exception("check-up failed unexpectedly")
    finally:
        hands.report.checking(False)
