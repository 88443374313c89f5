"""What the views share: settings, database, engine, gate, and recently read revisions."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from pathlib import Path
from threading import Lock
from typing import Any, TypeVar

from flask import current_app

from umbrax.core.document import edits
from umbrax.core.document.shot import Shot
from umbrax.media.fastcopies import FastCopies
from umbrax.media.reader import MediaReader
from umbrax.media.roots import roots_of_show
from umbrax.render.engine import Engine
from umbrax.settings import Settings
from umbrax.store.database import Database
from umbrax.store.media_folders import list_folders
from umbrax.store.shots import get_revision, get_shot

from .gate import Gate
from .people.attempts import FREE_OF_PLACE, Attempts

KEPT = 256  # revisions in memory
SUMMED_UP = 20_000  # of which a few facts are: the list of shots asks for the newest of each again and again

Facts = TypeVar("Facts")


@dataclass
class State:
    settings: Settings
    database: Database
    engine: Engine
    gate: Gate = field(default_factory=Gate)
    names_tried: Attempts = field(default_factory=Attempts)
    places_tried: Attempts = field(default_factory=lambda: Attempts(FREE_OF_PLACE))
    _revisions: "OrderedDict[tuple[int, int], Shot]" = field(default_factory=OrderedDict)
    _facts: "OrderedDict[tuple[int, int, Hashable], Any]" = field(default_factory=OrderedDict)
    _folders: dict[int, str] = field(default_factory=dict)
    _added: list[Path] | None = None
    _lock: Lock = field(default_factory=Lock)

    def shot(self, shot_id: int, revision: int, overrides: list[edits.Edit] | None = None) -> Shot:
        """A revision's document (revisions never change, so they are remembered), with unsaved edits on top."""
        key = (shot_id, revision)
        found = self._kept(self._revisions, KEPT, key, lambda: self._read(shot_id, revision))
        return edits.apply(found, overrides) if overrides else found

    def _read(self, shot_id: int, revision: int) -> Shot:
        """A revision from the database, sharing what it can with the one of the shot that was asked for last."""
        found = get_revision(self.database, shot_id, revision).shot
        with self._lock:
            before = next((shot for (one, _), shot in reversed(self._revisions.items()) if one == shot_id), None)
        return found if before is None else edits.sharing(found, before)

    def facts(self, shot_id: int, revision: int, what: Hashable, made: Callable[[Shot], Facts]) -> Facts:
        """What is made of a revision for a list, remembered by `what` it is and much longer than the document."""
        found: Facts = self._kept(self._facts, SUMMED_UP, (shot_id, revision, what), lambda: made(self.shot(shot_id, revision)))
        return found

    def _kept(self, kept: "OrderedDict[Any, Any]", most: int, key: Hashable, made: Callable[[], Any]) -> Any:
        with self._lock:
            if key in kept:
                kept.move_to_end(key)
                return kept[key]
        found = made()
        with self._lock:
            kept[key] = found
            while len(kept) > most:
                kept.popitem(last=False)
        return found

    def roots(self, shot_id: int) -> list[Path]:
        with self._lock:
            folder = self._folders.get(shot_id)
        if folder is None:
            folder = get_shot(self.database, shot_id).folder
            with self._lock:
                self._folders[shot_id] = folder
        return roots_of_show(self.settings, folder, self.added_folders())

    def added_folders(self) -> list[Path]:
        """The media folders that were added in the page; read once, and again after they changed."""
        with self._lock:
            known = self._added
        if known is None:
            known = list_folders(self.database)
            with self._lock:
                self._added = known
        return known

    def known_folders(self) -> list[Path]:
        """The folders of this server as far as they are known, without asking the database, which may be what is missing."""
        with self._lock:
            added = self._added or []
        return [folder.resolve() for folder in (*self.settings.roots, *added, self.settings.state)]

    def forget_folders(self) -> None:
        with self._lock:
            self._added = None

    def reader(self, shot_id: int, shot: Shot) -> MediaReader:
        """What reads the sources of a shot."""
        return self.engine.reader(shot, self.roots(shot_id))


def make_state(settings: Settings) -> State:
    engine = Engine(FastCopies(settings.fast_copies, settings.fast_bytes), settings.cache_bytes, settings.memory_bytes)
    return State(settings, Database(settings.database), engine)


def state() -> State:
    found: State = current_app.extensions["umbrax"]
    return found
