"""Recipes: the treatments of a card kept by themselves, and laid on another card, of another shot too, with their mattes found again.

A matte is found by its name; else one like it is made: an ID matte where its names and patterns mean something in a layer of the
card's sources, others where there is such a pass. What is found nowhere is asked for.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from pydantic import Field

from ..errors import UmbraxError
from ..mattes import MATTES
from ..mattes.ids import IdMatte, ids_of_names
from ..plan.reader import FrameInfo
from ..registry import unknown
from ..treatments import TREATMENTS
from ..treatments.base import ALPHA, MATTE_KEYS
from .cards import Card
from .edits import Edit, InsertItem, fresh_id, fresh_treatment_id, plain_data
from .parameters import Parameters
from .references import build_with, card_sources, lamps_for, stage_end, treatment_mattes, with_parts
from .shot import Shot


class Recipe(Parameters):
    """Treatments as document data, and the mattes they work through or are fed by, with those these are made of."""

    treatments: tuple[dict[str, Any], ...] = Field(min_length=1)
    mattes: dict[str, dict[str, Any]] = Field(default_factory=dict)


@dataclass(frozen=True)
class Missing:
    """A matte of a recipe that the shot has nothing for: its id in the recipe, its name, and the treatments that want it."""

    matte: str
    name: str
    treatments: tuple[str, ...]


@dataclass
class Laid:
    """The edits that lay a recipe on a card, or what is missing for them; `left_out` are treatments that the card cannot have."""

    edits: list[Edit] = field(default_factory=list)
    missing: list[Missing] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)


def kept(shot: Shot, card_id: str) -> Recipe:
    """The treatments of a card as a recipe."""
    card = shot.card(card_id)
    if not card.treatments:
        raise UmbraxError("no-treatments", f"card {card.shown_name!r} has no treatments to keep; add one first")
    wanted = [matte for one in card.treatments for matte in treatment_mattes(one)]
    mattes = {name: {"name": name, **plain_data(shot.mattes[name].apart())} for name in with_parts(shot.mattes, wanted)}
    return Recipe(treatments=tuple(plain_data(one) for one in card.treatments), mattes=mattes)


def laid_on(
    recipe: Recipe, shot: Shot, card_id: str, infos: Mapping[str, FrameInfo], chosen: Mapping[str, str | None]
) -> Laid:  # fmt: skip
    """A recipe on a card of a shot. `infos` tell what its sources hold; `chosen` are mattes of the shot for some of the recipe's, None
    for everywhere. Nothing is laid while something is missing."""
    for matte in chosen.values():
        if matte is not None and matte not in shot.mattes:
            raise UmbraxError("unknown-matte", unknown("matte", matte, list(shot.mattes)))
    binder = _Binder(recipe, shot, shot.card(card_id), infos, dict(chosen))
    return binder.laid()


@dataclass
class _Binder:
    """One laying of a recipe: what it found so far, and the edits for what it made."""

    recipe: Recipe
    shot: Shot
    card: Card
    infos: Mapping[str, FrameInfo]
    bound: dict[str, str | None]
    made: list[Edit] = field(default_factory=list)

    def laid(self) -> Laid:
        result = Laid()
        taken = self.shot.treatment_ids()
        wanted: dict[str, list[str]] = {}
        treatments: list[dict[str, Any]] = []
        for data in self.recipe.treatments:
            treatment = TREATMENTS.get(data["kind"])
            title = data.get("name") or treatment.title
            if self.card.treat and treatment.elements_only:
                result.left_out.append(title)
                continue
            if (lamp := _use_in(data, "feed", "card")) is not None and lamp not in lamps_for(build_with(self.shot, self.card.id), self.card.id):
                result.left_out.append(title)
                continue
            missing = [matte for matte in _mattes_of(data) if not self._bind(matte)]
            for matte in missing:
                wanted.setdefault(matte, []).append(title)
            if not missing:
                taken.append(fresh_treatment_id(taken))
                treatments.append(self._rewritten(data, taken[-1]))
        if wanted:
            result.missing = [Missing(name, self.recipe.mattes[name].get("name", name), tuple(of)) for name, of in wanted.items()]
            return result
        path = (*self.shot.path_of(self.card.id), "treatments")
        places = (stage_end(self.card, TREATMENTS.get(item["kind"]).stage) for item in treatments)
        added = (InsertItem(op="insert", path=path, item=item, before=place) for item, place in zip(treatments, places, strict=True))
        result.edits = [*self.made, *added]
        return result

    def _rewritten(self, data: dict[str, Any], new_id: str) -> dict[str, Any]:
        item = {**data, "id": new_id}
        for key in (key for key in MATTE_KEYS if _use_in(data, key) is not None):
            use = item.pop(key)
            if (found := self.bound[_id_of(_use_in(data, key))]) is not None:
                item[key] = {"matte": _renamed(use["matte"], found)} if key == "feed" else _renamed(use, found)
        if item.get("source") not in (None, *self.shot.sources):
            item.pop("source")
        return item

    def _bind(self, name: str) -> bool:
        """Find or make the matte of the shot for one of the recipe; whether there is one."""
        if name in self.bound:
            return True
        data = self.recipe.mattes[name]
        for matte_id, params in self.shot.mattes.items():
            if (params.name or matte_id) == data.get("name", name):
                self.bound[name] = matte_id
                return True
        made = self._like(data)
        if made is None:
            return False
        used = [*self.shot.mattes, *(str(edit.item["id"]) for edit in self.made if isinstance(edit, InsertItem))]
        new_id = fresh_id(used, data.get("name", name))
        self.made.append(InsertItem(op="insert", path=("mattes",), item={"id": new_id, **made}))
        self.bound[name] = new_id
        return True

    def _like(self, data: dict[str, Any]) -> dict[str, Any] | None:
        """A matte like one of the recipe's, of what this shot has; None where it has nothing like it."""
        params = MATTES.get(data["kind"]).params.model_validate(data)
        kind, item = MATTES.get(params.kind), {key: value for key, value in data.items() if key != "name"}
        if kind.cards(params):
            return None
        if parts := kind.uses(params):
            if not all(self._bind(part) and self.bound[part] is not None for part in parts):
                return None
            item["mattes"] = [_renamed(one, str(self.bound[_id_of(one)])) for one in data["mattes"]]
            return item
        if isinstance(params, IdMatte):
            found = next(self._layers_with(params), None)
            return None if found is None else item | {"source": found[0], "layer": found[1]}
        if not kind.sources(params):
            return item
        wanted = getattr(params, "pass_", None) or "beauty"
        source = next((name for name in self._sources() if self.infos[name].has(wanted)), None)
        return None if source is None else item | {"source": source}

    def _layers_with(self, params: IdMatte) -> Iterator[tuple[str, str]]:
        """Layers in which the names of an ID matte mean something: those of its own name first, then of any."""
        layers = [(name, layer) for name in self._sources() for layer in self.infos[name].ids.values()]
        for name, layer in sorted(layers, key=lambda one: one[1].name != params.layer):
            if layer.names is not None and ids_of_names(params.names, layer) & set(layer.names.values()):
                yield name, layer.name

    def _sources(self) -> list[str]:
        """The sources of the shot, those of the card first."""
        own = [name for name, _ in card_sources(self.card)]
        return [name for name in (*own, *(one for one in self.shot.sources if one not in own)) if name in self.infos]


def _use_in(data: Mapping[str, Any], key: str, noun: str = "matte") -> Any:
    """How a treatment uses a matte, or what else its feed names, under a key; None where that names none."""
    use = data.get(key)
    if key == "feed":
        return use.get(noun) if isinstance(use, Mapping) else None
    return None if use == ALPHA else use


def _mattes_of(data: Mapping[str, Any]) -> list[str]:
    return [_id_of(use) for key in MATTE_KEYS if (use := _use_in(data, key)) is not None]


def _id_of(use: Any) -> str:
    return str(use["matte"]) if isinstance(use, Mapping) else str(use)


def _renamed(use: Any, matte: str) -> Any:
    """The same use of another matte; what it stood on belongs to its shot."""
    return {"matte": matte, "invert": True} if isinstance(use, Mapping) and use.get("invert") else matte
