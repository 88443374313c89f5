"""Brings the demo show into the database: run by bin/start, safe to repeat; shots that are there stay as they are."""

import sys

from umbrax.core.document.text import read_data
from umbrax.settings import read_settings
from umbrax.standin.demo import SHOW
from umbrax.standin.shots import SHOTS
from umbrax.store.database import Database
from umbrax.store.shots import add_shot, put_show, put_sources


def bring_in(database: Database, folder: str) -> list[str]:
    """The names of the shots that were new."""
    show = put_show(database, SHOW, folder)
    added = []
    for make in SHOTS.values():
        shot = read_data(make())
        put_sources(database, show, shot)
        if add_shot(database, show, shot) is not None:
            added.append(shot.name)
    return added


if __name__ == "__main__":
    settings = read_settings()
    database = Database(settings.database, most=2)
    for name in bring_in(database, str(settings.demo.resolve())):
        print(f"demo: brought in {name!r}", file=sys.stderr)
    database.close()
