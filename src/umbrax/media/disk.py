"""A disk that is full: what to say of it, and room that is taken before anything is written into it."""

import errno
import os
from typing import BinaryIO

from umbrax.core.errors import UmbraxError

FULL = (errno.ENOSPC, errno.EDQUOT)


def is_full(error: BaseException) -> bool:
    return isinstance(error, OSError) and error.errno in FULL


def disk_full(what: str) -> UmbraxError:
    """`what` could not be written; nothing of it is left behind."""
    return UmbraxError("disk-full", f"the disk is full: {what} could not be written; make room on it and try again", status=503)


def take_room(file: BinaryIO, size: int) -> None:
    """Let a file be `size` bytes long, with all of them really there; OSError now, and not where they are written, if they are not."""
    if size:
        os.posix_fallocate(file.fileno(), 0, size)
