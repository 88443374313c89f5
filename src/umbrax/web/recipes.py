"""Recipes: a card's treatments kept for the show, and laid on another card."""

from typing import Annotated, Any

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field, StringConstraints

from umbrax.core.document.recipes import Recipe, kept, laid_on
from umbrax.core.document.shot import Shot
from umbrax.core.plan.reader import FrameInfo
from umbrax.core.treatments import TREATMENTS
from umbrax.render.lost import described
from umbrax.store.recipes import RecipeRow, delete_recipe, get_recipe, keep_recipe, list_recipes

from .shots import ShotPath, answered
from .state import state

api = APIBlueprint("recipes", __name__, url_prefix="/api", abp_tags=[Tag(name="recipes")])


class RecipeData(BaseModel):
    """A recipe of the show, with what it does and the mattes it wants."""

    id: int
    name: str
    treatments: list[str]
    mattes: list[str]


class RecipeList(BaseModel):
    recipes: list[RecipeData]


class KeepOrder(BaseModel):
    """Keep the treatments of a card under a name; `replace` one of the same name."""

    revision: int
    card: str
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200)]
    replace: bool = False


class RecipePath(ShotPath):
    recipe_id: int


class LayOrder(BaseModel):
    """Lay a recipe on a card; `chosen` are mattes of the shot for some of the recipe's, null for everywhere."""

    revision: int
    frame: int
    card: str
    chosen: dict[str, str | None] = Field(default_factory=dict)


class MissingData(BaseModel):
    """A matte that the shot has nothing for, and the treatments that want it."""

    matte: str
    name: str
    treatments: list[str]


class LaidData(BaseModel):
    """The edits that lay a recipe on a card; none while mattes are missing."""

    edits: list[dict[str, Any]]
    missing: list[MissingData]
    left_out: list[str] = Field(description="treatments that a treat card cannot have")


def _data(row: RecipeRow) -> RecipeData:
    recipe = row.recipe
    titles = [str(one.get("name") or TREATMENTS.get(one["kind"]).title) for one in recipe.treatments]
    return RecipeData(id=row.id, name=row.name, treatments=titles, mattes=[str(one.get("name", key)) for key, one in recipe.mattes.items()])


def _listed(shot_id: int) -> Response:
    return answered(RecipeList(recipes=[_data(row) for row in list_recipes(state().database, shot_id)]))


@api.get("/shots/<int:shot_id>/recipes", responses={200: RecipeList})
def recipes(path: ShotPath) -> Response:
    """The recipes of the show."""
    return _listed(path.shot_id)


@api.post("/shots/<int:shot_id>/recipes", responses={200: RecipeList})
def keep(path: ShotPath, body: KeepOrder) -> Response:
    """Keep a card's treatments as a recipe."""
    recipe: Recipe = kept(state().shot(path.shot_id, body.revision), body.card)
    keep_recipe(state().database, path.shot_id, body.name, recipe, replace=body.replace)
    return _listed(path.shot_id)


@api.delete("/shots/<int:shot_id>/recipes/<int:recipe_id>", responses={200: RecipeList})
def delete(path: RecipePath) -> Response:
    """Delete a recipe; what was laid of it stays."""
    delete_recipe(state().database, path.shot_id, path.recipe_id)
    return _listed(path.shot_id)


@api.post("/shots/<int:shot_id>/recipes/<int:recipe_id>/laying", responses={200: LaidData})
def laying(path: RecipePath, body: LayOrder) -> Response:
    """The edits that lay a recipe on a card, or the mattes that are missing for it."""
    shared = state()
    shot = shared.shot(path.shot_id, body.revision)
    recipe = get_recipe(shared.database, path.shot_id, path.recipe_id).recipe
    found = laid_on(recipe, shot, body.card, infos_of(shot, path.shot_id, body.frame), body.chosen)
    return answered(
        LaidData(
            edits=[edit.model_dump(mode="json") for edit in found.edits],
            missing=[MissingData(matte=one.matte, name=one.name, treatments=list(one.treatments)) for one in found.missing],
            left_out=found.left_out,
        )
    )


def infos_of(shot: Shot, shot_id: int, frame: int) -> dict[str, FrameInfo]:
    """What the sources of a shot hold on a frame, as far as they can be read."""
    reader = state().reader(shot_id, shot)
    return {name: info for name in shot.sources if (info := described(reader, name, frame)) is not None}
