"""A render as the worker sees that makes its frames."""

import time
from dataclasses import dataclass, field
from pathlib import Path

from umbrax.core.document.shot import Shot
from umbrax.core.errors import Cancelled
from umbrax.render.matte_files import MatteOrder, write_frames
from umbrax.render.output import RenderOrder, render_frames
from umbrax.store import renders

from .hands import Hands

LOOK_EVERY = 0.5


@dataclass(frozen=True)
class Done:
    """A frame that was written, in one file or several."""

    files: tuple[Path, ...]
    seconds: float
    note: str = ""


@dataclass
class Order:
    """A render as this worker sees it: the shot with its files where they are on this machine."""

    hands: Hands
    row: renders.RenderRow
    shot: Shot
    roots: list[Path]
    folder: Path
    looked: float = field(default_factory=time.monotonic)

    def watch(self) -> None:
        """Say twice a second that the render is being worked at; raises Cancelled where it is to stop."""
        if time.monotonic() - self.looked > LOOK_EVERY:
            self.looked = time.monotonic()
            if renders.stop_asked(self.hands.database, self.row.id):
                raise Cancelled

    def write(self, frame: int) -> Done:
        engine, row, out = self.hands.engine, self.row, str(self.folder / self.row.file_name)
        if row.pack is not None:
            mattes = MatteOrder((frame,), out, tuple(row.mattes), row.pack, row.pixel_type, row.scale)  # type: ignore[arg-type]
            matte = next(iter(write_frames(engine, self.shot, self.roots, mattes, watch=self.watch)))
            return Done(tuple(file.path for file in matte.files), matte.seconds)
        order = RenderOrder((frame,), out, row.upto, None, row.pixel_type, row.scale, row.raise_alpha, row.space)
        written = next(iter(render_frames(engine, self.shot, self.roots, order, watch=self.watch)))
        return Done((written.file,), written.seconds, order.glow_note if written.glow else "")
