"""Room on a disk: what is written, what it takes, and what to say where there is none."""

import errno
import os
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from umbrax.core.errors import UmbraxError

FULL = (errno.ENOSPC, errno.EDQUOT)


def is_full(error: BaseException) -> bool:
    return isinstance(error, OSError) and error.errno in FULL


def disk_full(what: str) -> UmbraxError:
    """`what` could not be written; nothing of it is left behind."""
    return UmbraxError("disk-full", f"the disk is full: {what} could not be written; make room on it and try again", status=503)


def write_at(file: BinaryIO, at: int, values: NDArray[Any]) -> None:
    """Write a row of numbers, as they lie in memory, from the byte `at` of a file on; OSError where the disk is full."""
    data = values.view(np.uint8).data
    while data:
        written = os.pwrite(file.fileno(), data, at)
        data, at = data[written:], at + written


def room_taken(folder: Path) -> int:
    """The bytes that the files of a folder take on the disk; holes in them take none."""
    return sum(file.stat().st_blocks * 512 for file in folder.iterdir())
