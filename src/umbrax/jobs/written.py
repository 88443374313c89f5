"""What a render has written: the files of its frames, what is left to do, and what killed workers left behind."""

from pathlib import Path

from umbrax.media.movie_writing import CODINGS
from umbrax.media.sequences import path_of_frame
from umbrax.media.writing import is_unfinished
from umbrax.store.renders import RenderRow


def files_of(row: RenderRow, frame: int, folder: Path | None = None) -> list[Path]:
    """The files of a frame that was noted as done; `folder` is where this machine has the render's."""
    names = row.written[row.done.index(frame)] if frame in row.done else []
    return _named(row, frame, names, folder)


def _named(row: RenderRow, frame: int, names: list[str], folder: Path | None) -> list[Path]:
    place = folder or Path(row.folder)
    return [place / name for name in names] or [Path(path_of_frame(str(place / row.file_name), frame))]


def is_whole(row: RenderRow, frame: int, names: list[str] | None, folder: Path | None = None) -> bool:
    """Whether a frame is done: it was noted, with its files' `names`, and all of these are there."""
    return names is not None and all(file.exists() for file in _named(row, frame, names, folder))


def left_of(row: RenderRow, folder: Path | None = None) -> list[int]:
    """The frames still to do."""
    noted = dict(zip(row.done, row.written, strict=True))
    return [frame for frame in row.frames if not is_whole(row, frame, noted.get(frame), folder)]


def movie_of(row: RenderRow, folder: Path | None = None) -> Path:
    """The movie of a render that asks for one."""
    assert row.movie is not None
    return (folder or Path(row.folder)) / (row.file_name.split(".", 1)[0] + CODINGS[row.movie].ending)  # type: ignore[index]


def sweep(folder: Path) -> None:
    """Remove files that somebody began and was killed over."""
    if folder.is_dir():
        for path in folder.iterdir():
            if is_unfinished(path):
                path.unlink(missing_ok=True)
