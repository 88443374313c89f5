"""The libraries that read and write files use as many processors as the process was given, and are asked by many threads at once."""

import gc
import os
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest

from umbrax.media.copyfiles import mapped_numbers

SAY = """
import cv2, OpenEXR, OpenImageIO as oiio
import umbrax.media.decoding
print(OpenEXR.global_thread_count(), oiio.get_int_attribute("exr_threads"), oiio.get_int_attribute("threads"), cv2.getNumThreads())
"""


@pytest.mark.parametrize("given", [1, 2])
def test_all_use_what_the_loops_were_given(given: int) -> None:
    environment = os.environ | {"NUMBA_NUM_THREADS": str(given)}
    done = subprocess.run([sys.executable, "-c", SAY], env=environment, capture_output=True, text=True, check=True)
    assert done.stdout.split() == [str(given)] * 4


class _Litter:
    """What the collector has to finish, and lets another thread go on meanwhile."""

    def __init__(self) -> None:
        self.itself = self

    def __del__(self) -> None:
        time.sleep(0.0002)


def test_kept_numbers_are_mapped_by_many_threads_while_the_collector_runs(tmp_path: Path) -> None:
    """Python before 3.11.5 counts how deep it is in the headers of such files for all threads together."""
    path, numbers = tmp_path / "kept.npy", np.arange(64, dtype=np.float32).reshape(4, 4, 4)
    np.save(path, numbers)

    def read(_: int) -> bool:
        _Litter()
        return bool(np.array_equal(mapped_numbers(path), numbers))

    before = gc.get_threshold()
    gc.set_threshold(20, 2, 2)
    try:
        with ThreadPoolExecutor(8) as threads:
            assert all(threads.map(read, range(2000)))
    finally:
        gc.set_threshold(*before)
