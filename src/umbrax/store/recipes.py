"""Recipes of a show: treatments kept under a name."""

from dataclasses import dataclass
from datetime import datetime

from psycopg.rows import class_row
from psycopg.types.json import Jsonb

from umbrax.core.document.recipes import Recipe

from .database import Database
from .refusals import conflicting, gone


@dataclass(frozen=True)
class RecipeRow:
    id: int
    name: str
    data: dict[str, object]
    changed_at: datetime

    @property
    def recipe(self) -> Recipe:
        return Recipe.model_validate(self.data)


OF_SHOT = "select r.id, r.name, r.data, r.changed_at from recipes r join shots s on s.show_id = r.show_id where s.id = %s "


def list_recipes(database: Database, shot_id: int) -> list[RecipeRow]:
    """The recipes of the show a shot belongs to, by name."""
    with database.transaction() as connection, connection.cursor(row_factory=class_row(RecipeRow)) as cursor:
        return cursor.execute(OF_SHOT + "order by r.name", (shot_id,)).fetchall()


def get_recipe(database: Database, shot_id: int, recipe_id: int) -> RecipeRow:
    with database.transaction() as connection, connection.cursor(row_factory=class_row(RecipeRow)) as cursor:
        row = cursor.execute(OF_SHOT + "and r.id = %s", (shot_id, recipe_id)).fetchone()
    if row is None:
        raise gone("no-recipe", "this recipe is not there any more; open the list of recipes again")
    return row


def keep_recipe(database: Database, shot_id: int, name: str, recipe: Recipe, *, replace: bool) -> int:
    """Keep a recipe in the show of a shot; one of the same name is refused, or replaced."""
    data = Jsonb(recipe.model_dump(mode="json"))
    query = "insert into recipes (show_id, name, data) select show_id, %s, %s from shots where id = %s on conflict (show_id, name) "
    query += "do update set data = excluded.data, changed_at = now() returning id" if replace else "do nothing returning id"
    with database.transaction() as connection:
        row = connection.execute(query, (name, data, shot_id)).fetchone()
    if row is None:
        raise conflicting("recipe-exists", f"there is a recipe {name!r} already; replace it, or choose another name")
    return int(row[0])


def delete_recipe(database: Database, shot_id: int, recipe_id: int) -> None:
    query = "delete from recipes r using shots s where r.show_id = s.show_id and s.id = %s and r.id = %s"
    with database.transaction() as connection:
        connection.execute(query, (shot_id, recipe_id))
