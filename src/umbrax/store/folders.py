"""Folders by name, as the server has them: a worker on another machine says by these names where it finds them."""

from pathlib import Path

from .database import Database
from .media_folders import list_folders


def publish(database: Database, folders: dict[str, Path]) -> None:
    """Say where the folders of this server are; others that were published are forgotten."""
    with database.transaction() as connection:
        connection.execute("delete from folders")
        for name, path in folders.items():
            connection.execute("insert into folders (name, path) values (%s, %s)", (name, str(path)))


def by_name(database: Database) -> dict[str, Path]:
    """The server's folders, and those that were added in the page under their own names."""
    with database.transaction() as connection:
        found = {name: Path(path) for name, path in connection.execute("select name, path from folders order by name").fetchall()}
    return found | {path.name: path for path in list_folders(database) if path.name not in found}
