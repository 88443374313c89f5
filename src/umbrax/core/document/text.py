"""A document as text: read and refused with one clear line, and written as its one canonical text."""

import hashlib
import json
import math
from collections.abc import Iterator
from typing import Any

from pydantic import ValidationError

from ..errors import UmbraxError
from ..mattes import MATTES
from ..pictures import PICTURES
from ..treatments import TREATMENTS
from .migrations import VERSION, migrate
from .references import check
from .shot import Shot


def _refuse_constant(text: str) -> Any:
    raise UmbraxError("not-finite", f"{text} is not allowed in a shot document; use a finite number")


def _refuse_not_finite(value: Any, path: tuple[str, ...]) -> None:
    """At any depth, whatever the place is for: a number too large for a float arrives as infinity."""
    if isinstance(value, float) and not math.isfinite(value):
        raise UmbraxError("not-finite", f"{'.'.join(path)}: {value} is not a finite number; give one")
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list | tuple) else ()
    for key, item in items:
        _refuse_not_finite(item, (*path, str(key)))


def read_text(text: str) -> Shot:
    """A document from JSON text of any version; one clear line where it is refused."""
    try:
        data = json.loads(text, parse_constant=_refuse_constant)
    except (json.JSONDecodeError, RecursionError) as error:
        raise UmbraxError("not-json", f"not a shot document: {error}") from None
    return read_data(data)


def read_data(data: Any) -> Shot:
    """A document from JSON data of any version, references checked."""
    shot = read_parts(data)
    check(shot)
    return shot


def read_parts(data: Any) -> Shot:
    """The same, whatever its parts refer to."""
    if not isinstance(data, dict) or "umbrax" not in data:
        raise UmbraxError("not-a-shot", f'not a shot document: expected an object with "umbrax": {VERSION}')
    _refuse_not_finite(data, ())
    try:
        return Shot.model_validate(migrate(data))
    except ValidationError as error:
        raise UmbraxError("invalid", first_problem(error)) from None


def first_problem(error: ValidationError) -> str:
    """`build.2.treatments.0.size: input should be ...` for the first thing wrong, and how many more there are."""
    found = error.errors(include_url=False, include_context=False)
    first = found[0]
    path = ".".join(_named_parts(first["loc"]))
    text = first["msg"].removeprefix("Value error, ")
    if first["type"] == "extra_forbidden":
        text = "unknown key; remove it or correct its name"
    text = text[:1].lower() + text[1:]
    return f"{path}: {text}" + (f" (and {len(found) - 1} more)" if len(found) > 1 else "")


def _named_parts(place: tuple[int | str, ...]) -> Iterator[str]:
    """The parts of a place that a document has; pydantic also names which of several models it tried."""
    for index, part in enumerate(place):
        tried = part in _KIND_TAGS and (place[index - 1] == "picture" or (index > 1 and place[index - 2] in ("mattes", "treatments")))
        if not (tried or part in ("plain", "keys") or str(part).startswith(("float", "constrained-", "tuple["))):
            yield str(part)


_KIND_TAGS = (*PICTURES.kinds(), *MATTES.kinds(), *TREATMENTS.kinds())


def canonical(shot: Shot) -> str:
    """The one text of a document: sorted keys, no spaces, shortest floats."""
    return canonical_json(shot.model_dump(mode="json", by_alias=True, exclude_none=True))


def canonical_json(data: Any) -> str:
    return json.dumps(data, sort_keys=True, separators=(",", ":"), ensure_ascii=False, allow_nan=False)


def digest(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()
