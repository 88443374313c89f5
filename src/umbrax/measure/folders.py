"""Folders that what is measured reads and writes; they go with the program."""

import atexit
import shutil
import tempfile
from pathlib import Path


def passing_folder() -> Path:
    """A new folder, removed when the program ends."""
    folder = Path(tempfile.mkdtemp(prefix="umbrax-measure-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    return folder
