"""The engine and the fast copies of a command. The engine takes what memory the machine has, since nothing else is served from this process."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from umbrax.media.fastcopies import FastCopies
    from umbrax.render.engine import Engine
    from umbrax.settings import Settings


def new_copies(settings: "Settings") -> "FastCopies":
    from umbrax.media.fastcopies import FastCopies

    return FastCopies(settings.fast_copies, settings.fast_bytes)


def new_engine(settings: "Settings") -> "Engine":
    from umbrax.media.openfiles import raise_limit
    from umbrax.render.engine import Engine
    from umbrax.settings import physical_memory

    raise_limit()
    return Engine(new_copies(settings), settings.cache_bytes, physical_memory())
