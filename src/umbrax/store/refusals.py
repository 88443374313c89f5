"""What the tables refuse, in words: names that are taken, things that are gone, changes that meet others."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import psycopg

from umbrax.core.errors import UmbraxError


def gone(code: str, message: str) -> UmbraxError:
    return UmbraxError(code, message, status=404)


def conflicting(code: str, message: str, detail: dict[str, Any] | None = None) -> UmbraxError:
    return UmbraxError(code, message, detail=detail, status=409)


@contextmanager
def free_name(noun: str, name: str) -> Iterator[None]:
    """Refuse in words what an index refuses: two shots of one name in a show, two shows or two people of one name."""
    try:
        yield
    except psycopg.errors.UniqueViolation:
        where = "the show has another shot" if noun == "shot" else f"there is another {noun}"
        raise conflicting(f"{noun}-exists", f"{where} {name!r} already; give one of them another name first") from None
