"""What people name IDs: one display name for each ID of a show, found wherever the ID turns up in it."""

from .database import Database


def display_names_of(database: Database, shot_id: int) -> dict[int, str]:
    """The display names of the show a shot belongs to, by ID."""
    query = "select d.id, d.name from display_names d join shots s on s.show_id = d.show_id where s.id = %s order by d.id"
    with database.transaction() as connection:
        return {int(row[0]): str(row[1]) for row in connection.execute(query, (shot_id,)).fetchall()}


def set_display_name(database: Database, shot_id: int, value: int, name: str | None) -> None:
    """Give an ID a display name in the show of a shot; None takes it away."""
    with database.transaction() as connection:
        if name is None:
            connection.execute(
                "delete from display_names d using shots s where d.show_id = s.show_id and s.id = %s and d.id = %s", (shot_id, value)
            )
        else:
            connection.execute(
                "insert into display_names (show_id, id, name) select show_id, %s, %s from shots where id = %s "
                "on conflict (show_id, id) do update set name = excluded.name",
                (value, name, shot_id),
            )
