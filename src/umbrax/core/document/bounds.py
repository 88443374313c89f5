"""Bounds of a setting as its field says them: keys may go past them on their way, as eases that overshoot do, and values may not."""

import math
from collections.abc import Iterator
from functools import cache
from typing import Any, cast, get_args

from annotated_types import Ge, Le
from pydantic import BaseModel
from pydantic.fields import FieldInfo


def within_bounds(model: type[BaseModel], name: str, value: Any) -> Any:
    """A number, or several, held between the least and the largest that the field `name` takes."""
    if isinstance(value, tuple) and all(isinstance(one, float | int) for one in value):
        return tuple(within_bounds(model, name, one) for one in value)
    if not isinstance(value, float | int):
        return value
    low, high = _bounds(model, name)
    return min(max(value, low), high)


@cache
def _bounds(model: type[BaseModel], name: str) -> tuple[float, float]:
    field = model.model_fields[name]
    told = [*field.metadata, *_told(field.annotation)]
    low = max((cast(float, one.ge) for one in told if isinstance(one, Ge)), default=-math.inf)
    return low, min((cast(float, one.le) for one in told if isinstance(one, Le)), default=math.inf)


def _told(annotation: Any) -> Iterator[Any]:
    """What is said of a type, or of the parts it is made of."""
    for part in get_args(annotation):
        yield from part.metadata if isinstance(part, FieldInfo) else _told(part)
