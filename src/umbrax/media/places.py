"""What the path of a source means on disk: a still, numbered files, or a movie."""

from pathlib import Path

from .movies import frames_in, is_movie
from .sequences import frames_of, is_pattern, numbered_file, path_of_frame


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
    if is_movie(place) or "{" not in str(place):
        return place
    path = Path(path_of_frame(str(place), frame))
    if not is_pattern(place.name) or path.exists():
        return path
    return numbered_file(place, frame) or path


def is_there(place: Path) -> bool:
    return bool(frames_of(place)) if is_pattern(place.name) else place.exists()
