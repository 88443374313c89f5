"""Brings the demo show into the database: run by bin/start, safe to repeat; what was made of it, or deleted, stays so."""

import sys
from collections.abc import Container

from umbrax.core.document.text import read_data
from umbrax.settings import read_settings
from umbrax.standin.demo import SHOW
from umbrax.standin.shots import SHOTS
from umbrax.store import shows
from umbrax.store.database import Database
from umbrax.store.shots import add_shot


def bring_in(database: Database, folder: str, only: Container[str] = SHOTS) -> list[str]:
    """The names of the shots that were new; none where the show was ever brought in before. `only` these of them, by their files' names."""
    if shows.was_there(database, SHOW, folder):
        shows.point_at(database, SHOW, folder)
        return []
    return bring_back(database, folder, only)


def bring_back(database: Database, folder: str, only: Container[str] = SHOTS) -> list[str]:
    """The demo show with all its shots, whatever became of it; the names of the shots that were new."""
    for row in shows.list_deleted(database):
        if row.show == SHOW and row.shot_id is None and all(show.name != SHOW for show in shows.list_shows(database)):
            shows.restore_show(database, row.show_id)
    show = shows.put_show(database, SHOW, folder)
    made = (read_data(make()) for name, make in SHOTS.items() if name in only)
    return [shot.name for shot in made if add_shot(database, show, shot) is not None]


if __name__ == "__main__":
    settings = read_settings()
    database = Database(settings.database, most=2)
    for name in bring_in(database, str(settings.demo.resolve())):
        print(f"demo: brought in {name!r}", file=sys.stderr)
    database.close()
