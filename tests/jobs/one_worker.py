"""A worker without its queue."""

from pathlib import Path

from umbrax.jobs.hands import Hands as Tools
from umbrax.jobs.rendering import run_render
from umbrax.jobs.written import files_of
from umbrax.media.fastcopies import FastCopies
from umbrax.media.sequences import frame_range
from umbrax.render.engine import Engine
from umbrax.settings import Settings
from umbrax.store import renders
from umbrax.store.database import Database
from umbrax.store.shots import add_shot, get_revision, list_shots
from umbrax.web.demo_show import bring_in


def first_of(row: renders.RenderRow, frame: int) -> Path:
    return files_of(row, frame)[0]


class Hands:
    """One worker's hands: a database, a shot of their own, an engine and a folder."""

    def __init__(self, database: Database, address: str, state: Path, demo: Path):
        bring_in(database, str(demo))
        self.database = database
        demo_shot = next(row for row in list_shots(database) if row.name == "Dome at dusk")
        made = add_shot(
            database, demo_shot.show_id, get_revision(database, demo_shot.id, 1).shot.model_copy(update={"name": f"of {state.name}"})
        )
        assert made is not None
        self.shot = made
        self.settings = Settings(state, (demo,), address, 1 << 29, 4 << 30)
        self.engine = Engine(FastCopies(state / "fast"))

    def order(self, frames: str, matte: str | None = "dome") -> int:
        name = str(self.settings.state / "out")
        found = frame_range(frames, 1001, 1048)
        return renders.add_render(
            self.database,
            self.shot,
            1,
            found,
            name,
            "dome.{frame:04d}.exr",
            "half",
            None,
            [matte] if matte else [],
            "single" if matte else None,
        )

    def run(self, number: int) -> renders.RenderRow:
        run_render(Tools(self.database, self.engine, self.settings), number)
        return renders.get_render(self.database, number)
