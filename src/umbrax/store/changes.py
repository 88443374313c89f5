"""Who changed what, as the database noted it with each change."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.rows import class_row

from .database import Database

AT_ONCE = 100


@dataclass(frozen=True)
class ChangeRow:
    """`of`: which row of the table `subject` it was; `about`, `show`: the person and the show that it names."""

    id: int
    made_at: datetime
    person: str | None
    subject: str
    way: str
    of: dict[str, Any]
    detail: dict[str, Any]
    about: str | None
    show: str | None


def list_changes(database: Database, before: int | None = None) -> list[ChangeRow]:
    """Newest first, at most a hundred."""
    older = "where c.id < %(before)s" if before is not None else ""
    query = f"""
    select c.id, c.made_at, p.name as person, c.subject, c.way, c.of, c.detail, about.name as about, w.name as show
    from changes c
    left join people about on about.id = (c.of ->> 'person_id')::bigint
    left join shows w on w.id = (c.of ->> 'show_id')::bigint
    -- whoever comes in is not known before
    left join people p on p.id = coalesce(c.person_id, case when c.subject = 'credentials' then about.id end)
    {older} order by c.id desc limit %(most)s
    """
    with database.transaction() as connection, connection.cursor(row_factory=class_row(ChangeRow)) as cursor:
        return cursor.execute(query, {"before": before, "most": AT_ONCE}).fetchall()
