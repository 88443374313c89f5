"""What the path of a source means on disk: a still, numbered files, or a movie."""

from pathlib import Path

from .movies import frames_in, is_movie
from .sequences import any_frame_of, frames_of, is_pattern, numbered_file, path_of_frame


def moves(place: Path) -> bool:
    """Whether there is a picture for each frame: numbered files or a movie."""
    return is_pattern(place.name) or is_movie(place)


def frames_at(place: Path) -> list[int]:
    """The frames there are, in order; none for a still."""
    if is_movie(place):
        return list(frames_in(place))
    return frames_of(place)


def file_at(place: Path, frame: int) -> Path:
    """The file that holds a frame, whether or not it is there; numbers may be padded differently from file to file."""
    return place if is_movie(place) or "{" not in str(place) else _numbered(place, frame)[0]


def file_there(place: Path, frame: int) -> Path | None:
    """The file that holds a frame; None where it is not there."""
    if is_movie(place):
        return place if frame in frames_in(place) else None
    path, there = _numbered(place, frame)
    return path if there else None


def _numbered(place: Path, frame: int) -> tuple[Path, bool]:
    """The file of a frame, and whether it is there."""
    path = Path(path_of_frame(str(place), frame))
    if path.exists():
        return path, True
    padded = numbered_file(place, frame)
    return padded or path, padded is not None


def is_there(place: Path) -> bool:
    return any_frame_of(place) if is_pattern(place.name) else place.exists()
