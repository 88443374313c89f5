"""A closed list of kinds: refuses duplicates, knows aliases (saved documents outlive names), suggests near misses."""

from collections.abc import Iterator
from difflib import get_close_matches
from typing import Generic, Protocol, TypeVar

from .errors import UmbraxError


class Kind(Protocol):
    @property
    def kind(self) -> str: ...

    @property
    def aliases(self) -> tuple[str, ...]: ...


Registered = TypeVar("Registered", bound=Kind)


class Registry(Generic[Registered]):
    """Entries by kind, in the order they were registered."""

    def __init__(self, noun: str):
        self.noun = noun
        self._entries: dict[str, Registered] = {}
        self._aliases: dict[str, str] = {}

    def register(self, entry: Registered) -> Registered:
        for name in (entry.kind, *entry.aliases):
            if name in self._entries or name in self._aliases:
                raise ValueError(f"expected a new {self.noun}, got {name!r} again")
        self._entries[entry.kind] = entry
        self._aliases.update(dict.fromkeys(entry.aliases, entry.kind))
        return entry

    def canonical(self, kind: str) -> str:
        return self._aliases.get(kind, kind)

    def get(self, kind: str) -> Registered:
        found = self._entries.get(kind) or self._entries.get(self.canonical(kind))
        if found is None:
            raise UmbraxError(f"unknown-{self.noun}", unknown(self.noun, kind, self._entries))
        return found

    def kinds(self) -> list[str]:
        return list(self._entries)

    def __iter__(self) -> Iterator[Registered]:
        return iter(self._entries.values())


def unknown(noun: str, got: str, known: "list[str] | dict[str, Registered]") -> str:
    """`unknown grade 'blom', did you mean 'bloom'?` or the list of what is known."""
    near = get_close_matches(str(got), list(known), n=1)
    if near:
        return f"unknown {noun} {got!r}, did you mean {near[0]!r}?"
    listed = ", ".join(list(known)[:12]) or "none"
    return f"unknown {noun} {got!r}; expected one of: {listed}"
