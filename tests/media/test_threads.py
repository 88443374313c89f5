"""The libraries that read and write files use as many processors as the process was given."""

import os
import subprocess
import sys

import pytest

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
