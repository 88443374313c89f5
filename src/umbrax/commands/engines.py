"""The engine of a command: it takes what memory the machine has, since nothing else is served from this process."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from umbrax.render.engine import Engine
    from umbrax.settings import Settings


def new_engine(settings: "Settings") -> "Engine":
    from umbrax.media.fastcopies import FastCopies
    from umbrax.media.openfiles import raise_limit
    from umbrax.render.engine import Engine
    from umbrax.settings import physical_memory

    raise_limit()
    return Engine(FastCopies(settings.fast_copies, settings.fast_bytes), settings.cache_bytes, physical_memory())
