"""What a shot asks of its sources in vain, by what these hold on some frames of the shot."""

from umbrax.core.document.bakes import bake_sources
from umbrax.core.document.lost import Lost, lost_in, seen_in
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.plan.reader import FrameInfo
from umbrax.media.reader import MediaReader


def find_lost(shot: Shot, reader: MediaReader) -> list[Lost]:
    """Looked at on the first, the middle and the last frame: an object may be absent from some, and is lost when it is in none."""
    first, last = shot.format.first, shot.format.last
    frames = sorted({first, (first + last) // 2, last})
    sources, bakes = {}, bake_sources(shot)
    for name in (one for one in shot.sources if one not in bakes):
        infos = [info for frame in frames if (info := described(reader, name, frame)) is not None]
        if infos:
            sources[name] = seen_in(infos)
    return lost_in(shot, sources)


def described(reader: MediaReader, source: str, frame: int) -> FrameInfo | None:
    """None where the frame cannot be read, which is told elsewhere."""
    try:
        return reader.describe(source, frame)
    except UmbraxError:
        return None
