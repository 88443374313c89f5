"""Folders that pictures may be taken from, as they were added in the page."""

from pathlib import Path

from .database import Database


def list_folders(database: Database) -> list[Path]:
    with database.transaction() as connection:
        return [Path(row[0]) for row in connection.execute("select path from media_folders order by added_at, path").fetchall()]


def add_folder(database: Database, path: Path) -> None:
    """Add a folder; one that is there already stays as it is."""
    with database.transaction() as connection:
        connection.execute("insert into media_folders (path) values (%s) on conflict do nothing", (str(path),))


def remove_folder(database: Database, path: Path) -> None:
    """Leave a folder out from now on; shots that use what lies in it cannot read it any more."""
    with database.transaction() as connection:
        connection.execute("delete from media_folders where path = %s", (str(path),))
