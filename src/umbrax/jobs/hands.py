"""What a worker works with, whatever it does."""

from dataclasses import dataclass, field
from pathlib import Path

from umbrax.core.document.shot import Shot
from umbrax.media.roots import roots_of_show
from umbrax.render.engine import Engine
from umbrax.settings import Settings
from umbrax.store.database import Database
from umbrax.store.media_folders import list_folders
from umbrax.store.shots import get_revision, get_shot

from .mapping import SAME, FolderMap
from .processors import Processors
from .reporting import NOBODY, Report


@dataclass(frozen=True)
class Hands:
    """A worker's database, engine and folders, and whom it tells what it does."""

    database: Database
    engine: Engine
    settings: Settings
    folders: FolderMap = SAME
    report: Report = NOBODY
    processors: Processors = field(default_factory=Processors)

    def shot_of(self, shot_id: int, revision: int) -> Shot:
        """A revision with its files where they are on this machine."""
        return self.folders.localised(get_revision(self.database, shot_id, revision).shot)

    def roots_of(self, shot_id: int) -> list[Path]:
        """Where the sources of a shot are looked for on this machine."""
        added = [self.folders.local(path) for path in [*list_folders(self.database), *self.folders.paths]]
        return roots_of_show(self.settings, str(self.folders.local(get_shot(self.database, shot_id).folder)), added)
