"""How many processors the libraries use that read and write files: as many as the loops of the core."""

import cv2
import numba
import OpenEXR
import OpenImageIO as oiio


def use_threads(count: int) -> None:
    """OpenEXR on its own decodes with one; OpenImageIO writes with all, also where a worker was given one."""
    OpenEXR.set_global_thread_count(count)
    oiio.attribute("threads", count)
    oiio.attribute("exr_threads", count)
    cv2.setNumThreads(count)


use_threads(numba.get_num_threads())
