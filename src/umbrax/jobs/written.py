"""What a render has written: the files of its frames, what is left to do, and what killed workers left behind."""

from pathlib import Path

from umbrax.media.sequences import path_of_frame
from umbrax.media.writing import is_unfinished
from umbrax.store.renders import RenderRow


def files_of(row: RenderRow, frame: int, folder: Path | None = None) -> list[Path]:
    """The files of a frame that was noted as done; `folder` is where this machine has the render's."""
    names = row.written[row.done.index(frame)] if frame in row.done else []
    place = folder or Path(row.folder)
    return [place / name for name in names] or [Path(path_of_frame(str(place / row.file_name), frame))]


def left_of(row: RenderRow, folder: Path | None = None) -> list[int]:
    """The frames still to do: a frame counts as done when it is noted and all its files are there."""
    done = set(row.done)
    return [frame for frame in row.frames if frame not in done or not all(file.exists() for file in files_of(row, frame, folder))]


def sweep(folder: Path) -> None:
    """Remove files that somebody began and was killed over."""
    if folder.is_dir():
        for path in folder.iterdir():
            if is_unfinished(path):
                path.unlink(missing_ok=True)
