"""Small commands on a shot document, and what of a document two revisions differ in.

A path addresses lists by the ids in them: `["build", "station", "treatments", "t2", "exposure"]`; lists of things without ids
by place, from 0.
"""

from collections.abc import Iterable
from typing import Annotated, Any, Literal, TypeVar

from pydantic import BaseModel, Field

from ..errors import UmbraxError
from .parameters import Parameters, defaults_of
from .references import check
from .shot import Shot
from .text import read_parts
from .ties import refers_as

Path = tuple[str, ...]
Part = TypeVar("Part")
ORDER = "#order"


class SetValue(Parameters):
    """Give a key a value; null takes the key away, so that its default holds again."""

    op: Literal["set"]
    path: Path = Field(min_length=1)
    value: Any = None


class InsertItem(Parameters):
    """Put an item with an id into a list, before another one or at the end."""

    op: Literal["insert"]
    path: Path = Field(min_length=1)
    item: dict[str, Any]
    before: str | None = None


class RemoveItem(Parameters):
    """Take an item out of a list, or a key away."""

    op: Literal["remove"]
    path: Path = Field(min_length=1)


class MoveItem(Parameters):
    """Move an item of a list before another one, or to the end."""

    op: Literal["move"]
    path: Path = Field(min_length=2)
    before: str | None = None


Edit = Annotated[SetValue | InsertItem | RemoveItem | MoveItem, Field(discriminator="op")]


def plain_data(part: Parameters) -> dict[str, Any]:
    """A document, or a part of one, as JSON data, with nothing left out that was set."""
    data: dict[str, Any] = part.model_dump(mode="json", by_alias=True, exclude_none=True)
    return data


def apply(shot: Shot, edits: Iterable[Edit]) -> Shot:
    """The document after some edits, checked as a whole; the given one stays as it is."""
    data = _unopened(shot)
    for edit in edits:
        _applied(data, edit)
    changed = sharing(read_parts(data), shot)
    if not refers_as(changed, shot):
        check(changed)
    return changed


def _unopened(part: Parameters) -> dict[str, Any]:
    """A part of a document as data, with what it is made of still as it was read: reading it again costs what is opened on the way to an
    edit."""
    fields, defaults = type(part).model_fields, defaults_of(type(part))
    set_ones = ((name, value) for name, value in vars(part).items() if name not in defaults or value != defaults[name])
    return {
        fields[name].alias or name: dict(value) if isinstance(value, dict) else list(value) if isinstance(value, tuple) else value
        for name, value in set_ones
    }  # fmt: skip


def sharing(changed: Shot, before: Shot) -> Shot:
    """A document with the cards, mattes and sources that it has in common with another one as the same objects: what is remembered of them is
    found again."""
    cards = {card.id: card for card in before.build}
    build = tuple(_known(card, cards.get(card.id)) for card in changed.build)
    mattes = {name: _known(one, before.mattes.get(name)) for name, one in changed.mattes.items()}
    sources = {name: _known(one, before.sources.get(name)) for name, one in changed.sources.items()}
    return changed.model_copy(update={"build": build, "mattes": mattes, "sources": sources})


def _known(part: Part, before: Part | None) -> Part:
    return part if part is before or before is None or part != before else before


def _applied(data: dict[str, Any], edit: Edit) -> None:
    parent, last = _walk(data, edit.path[:-1]), edit.path[-1]
    if isinstance(edit, SetValue):
        if edit.value is None:
            _take(parent, last, edit.path)
        elif isinstance(parent, list):
            parent[_index(parent, last, edit.path)] = edit.value
        else:
            parent[last] = edit.value
    elif isinstance(edit, InsertItem):
        if isinstance(parent, dict):
            parent.setdefault(last, {} if last in _CONTAINERS else [])
        items = _opened(parent, last) if isinstance(parent, dict) else _walk(data, edit.path)
        if not isinstance(items, list | dict):
            raise _gone(edit.path)
        if isinstance(items, dict):
            items[str(edit.item.get("id"))] = {key: value for key, value in edit.item.items() if key != "id"}
        else:
            items.insert(len(items) if edit.before is None else _index(items, edit.before, edit.path), edit.item)
    elif isinstance(edit, RemoveItem):
        _take(parent, last, edit.path)
    elif not isinstance(parent, list):
        raise _gone(edit.path)
    else:
        item = parent.pop(_index(parent, last, edit.path))
        parent.insert(len(parent) if edit.before is None else _index(parent, edit.before, edit.path), item)


def _walk(data: Any, path: Path) -> Any:
    place = data
    for step in path:
        if isinstance(place, list):
            place = _opened(place, _index(place, step, path))
        elif isinstance(place, dict):
            if step in _CONTAINERS:
                place.setdefault(step, {})
            place = _opened(place, step) if step in place else None
        else:  # within a number or a name is nothing
            raise _gone(path)
        if place is None:
            raise _gone(path)
    if not isinstance(place, list | dict):
        raise _gone(path)
    return place


def _opened(parent: Any, key: Any) -> Any:
    """What lies there, as data to be changed."""
    part = parent[key]
    if isinstance(part, Parameters):
        parent[key] = _unopened(part)
    elif isinstance(part, BaseModel):
        parent[key] = part.model_dump(mode="json", by_alias=True, exclude_none=True)
    elif isinstance(part, dict | list | tuple):
        parent[key] = dict(part) if isinstance(part, dict) else list(part)
    return parent[key]


# tables by name that a document may leave out; everything else that items are inserted into is a list
_CONTAINERS = ("refine", "colour", "mattes", "sources", "lights", "placing", "time", "camera")


def _index(items: list[Any], wanted: str, path: Path) -> int:
    ids = [vars(item) if isinstance(item, Parameters) else item for item in items]
    for index, item in enumerate(ids):
        if isinstance(item, dict) and item.get("id") == wanted:
            return index
    # items that have ids are never meant by their place: "1" is the card called 1, or no card
    if wanted.isdecimal() and int(wanted) < len(items) and not any(isinstance(item, dict) and "id" in item for item in ids):
        return int(wanted)
    raise _gone((*path, wanted))


def _take(parent: Any, last: str, path: Path) -> None:
    if isinstance(parent, list):
        parent.pop(_index(parent, last, path))
    else:
        parent.pop(last, None)


def _gone(path: Path) -> UmbraxError:
    return UmbraxError("gone", f"there is no {'/'.join(path)} any more; look at what changed and try again")


def touched(edits: Iterable[Edit]) -> set[Path]:
    """The paths that edits read or write."""
    paths: set[Path] = set()
    for edit in edits:
        if isinstance(edit, InsertItem):
            paths.add((*edit.path, str(edit.item.get("id"))))
            if edit.before is not None:
                paths.add((*edit.path, edit.before, "id"))
        elif isinstance(edit, MoveItem):
            paths |= {(*edit.path[:-1], ORDER), (*edit.path, "id")}
        else:
            paths.add(edit.path)
    return paths


_ABSENT = object()


def changed(old: Any, new: Any, path: Path = ()) -> set[Path]:
    """The paths at which two documents differ, as deep as they can be told apart."""
    if old == new:
        return set()
    if isinstance(old, dict) and isinstance(new, dict):
        return set().union(*(changed(old.get(key, _ABSENT), new.get(key, _ABSENT), (*path, key)) for key in {*old, *new}))
    if _keyed(old) and _keyed(new):
        mine, other = {item["id"]: item for item in old}, {item["id"]: item for item in new}
        found: set[Path] = set().union(*(changed(mine.get(key, _ABSENT), other.get(key, _ABSENT), (*path, key)) for key in {*mine, *other}))
        if [key for key in mine if key in other] != [key for key in other if key in mine]:
            found.add((*path, ORDER))
        return found
    return {path}


def _keyed(value: Any) -> bool:
    return isinstance(value, list) and all(isinstance(item, dict) and "id" in item for item in value)


def conflicts(edits: Iterable[Edit], differences: set[Path]) -> set[Path]:
    """The differences that lie in the way of some edits: one path is within the other."""
    wanted = touched(edits)
    return {d for d in differences for t in wanted if d[: len(t)] == t or t[: len(d)] == d}


def fresh_id(taken: Iterable[str], stem: str) -> str:
    """`stem`, or `stem 2`, `stem 3` ... whichever is not taken yet."""
    used = set(taken)
    if stem not in used:
        return stem
    return next(f"{stem} {number}" for number in range(2, len(used) + 3) if f"{stem} {number}" not in used)


def fresh_treatment_id(taken: Iterable[str]) -> str:
    """t and the number after the largest that is taken."""
    return f"t{1 + max([int(one[1:]) for one in taken if one[:1] == 't' and one[1:].isdigit()], default=0)}"
