"""Commands that write files: frames and mattes of shot documents, and the demo."""

import json
import os
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError

from .documents import in_words, read_shot
from .engines import new_engine
from .printing import Frames, Json, Scale, print_json, scale_of

if TYPE_CHECKING:
    from collections.abc import Iterator

    from umbrax.render.output import Rendered

app = typer.Typer()


@app.command()
def render(
    shot: Path,
    out: Annotated[str, typer.Option(help="File name, with {frame:04d} for more than one frame; .mp4 or .mov for a movie.")],
    frames: Frames = "",
    scale: Scale = "1",
    upto: Annotated[str | None, typer.Option(help="Stop after this card.")] = None,
    matte: Annotated[str | None, typer.Option(help="Write this matte instead, as one channel.")] = None,
    view: Annotated[str | None, typer.Option(help="The view of PNG, TIFF, JPEG and movies: srgb or aces; that of the shot by default.")] = None,
    type_: Annotated[
        str | None, typer.Option("--type", help="half or float for EXR, 8 or 16 for PNG and TIFF; prores_422 or prores_4444 for .mov.")
    ] = None,
    raise_alpha: Annotated[
        bool, typer.Option(help="In PNG and TIFF, alpha is at least as large as the light is bright, so that glow stays.")
    ] = True,
    caption: Annotated[bool, typer.Option("--caption", help="Write the shot's name and the frame into the pictures of a movie.")] = False,
    space: Annotated[
        str | None, typer.Option(help="The primaries of EXR, lin_rec709 or lin_ap1 (ACEScg); what the shot works in by default.")
    ] = None,
    as_json: Json = False,
) -> None:
    """Render frames of a shot document to files, or to a movie."""
    from umbrax.core.views import VIEWS, View
    from umbrax.media.movie_writing import ends_as_movie
    from umbrax.media.sequences import frame_range
    from umbrax.render.lost import find_lost
    from umbrax.render.movie import render_movie
    from umbrax.render.output import RenderOrder, render_frames
    from umbrax.settings import read_settings

    chosen: View | None = next((known for known in VIEWS if known == view), None)
    if view is not None and chosen is None:
        raise UmbraxError("bad-view", f"unknown view {view!r}; use {' or '.join(VIEWS)}")
    document = read_shot(shot)
    settings = read_settings()
    numbers = frame_range(frames, document.format.first, document.format.last)
    order = RenderOrder(tuple(numbers), out, upto, matte, type_, scale_of(scale), raise_alpha, space, chosen, caption)
    engine, roots = new_engine(settings), [shot.resolve().parent, *settings.media]
    lost = find_lost(document, engine.reader(document, roots))
    for one in lost:
        typer.echo(f"umbrax: {one.message}", err=True)
    done, glow = 0, False
    write = render_movie if ends_as_movie(Path(out)) else render_frames
    for rendered in _in_words(document, write(engine, document, roots, order)):
        done += 1
        glow = glow or rendered.glow
        if as_json:
            print_json({"frame": rendered.frame, "file": str(rendered.file), "seconds": round(rendered.seconds, 3)})
        else:
            typer.echo(f"{rendered.file}  {rendered.seconds:.2f} s  ({done} of {len(numbers)})")
    if as_json:
        told = [{"noun": one.noun, "name": one.name, "source": one.source, "message": one.message} for one in lost]
        print_json({"done": done} | ({"note": order.glow_note} if glow else {}) | ({"lost": told} if lost else {}))
    elif glow:
        typer.echo(f"note: {order.glow_note}")


def _in_words(shot: Shot, frames: "Iterator[Rendered]") -> "Iterator[Rendered]":
    """The frames; an error among them names its card and treatment as people do."""
    with in_words(shot):
        yield from frames


@app.command()
def mattes(
    shot: Path,
    out: Annotated[str, typer.Option(help="File name with {frame:04d}; {matte} for single ones, {part} for several packs.")],
    matte: Annotated[list[str] | None, typer.Option(help="Which; again for each. All of the shot by default.")] = None,
    pack: Annotated[str, typer.Option(help="single, rgb, rgba, or named: all as channels of one EXR.")] = "single",
    frames: Frames = "",
    scale: Scale = "1",
    type_: Annotated[str | None, typer.Option("--type", help="half or float for EXR, 8 or 16 for PNG and TIFF.")] = None,
    as_json: Json = False,
) -> None:
    """Write mattes of a shot document to files: one by one, three or four to a picture, or by name in one file."""
    from umbrax.core.document.words import listed_mattes
    from umbrax.render.matte_files import WAYS

    if pack not in WAYS:
        raise UmbraxError("bad-pack", f"unknown way to pack {pack!r}; use {', '.join(WAYS[:-1])} or {WAYS[-1]}")
    document = read_shot(shot)
    wanted = tuple(matte or listed_mattes(document))
    _write_mattes(shot, document, wanted, out, pack, frames, type_, scale_of(scale), as_json)


@app.command()
def bake(
    shot: Path,
    folder: Annotated[Path, typer.Option(help="Where to: beside the shot, or in a folder that its sources may lie in.")],
    matte: Annotated[list[str] | None, typer.Option(help="Which; again for each. All of the shot by default.")] = None,
    frames: Annotated[str, typer.Option(help="1001-1048; the whole shot by default.")] = "",
    as_json: Json = False,
) -> None:
    """Write mattes once, for speed, and link them: the document reads them from there as long as they are what the mattes are."""
    from umbrax.core.document.bakes import link_bake
    from umbrax.core.document.edits import apply, plain_data
    from umbrax.core.document.words import listed_mattes

    document = read_shot(shot)
    wanted = tuple(document.matte(name) for name in (matte or listed_mattes(document)))
    out = folder / f"{shot.name.split('.')[0]}-mattes.{{frame:04d}}.exr"
    _write_mattes(shot, document, wanted, str(out), "baked", frames, "half", 1, as_json)
    place = out.resolve()
    beside = shot.resolve().parent
    path = str(place.relative_to(beside)) if place.is_relative_to(beside) else str(place)
    linked = apply(document, link_bake(document, wanted, path))
    temporary = shot.with_name(f".{shot.name}.new")
    temporary.write_text(json.dumps(plain_data(linked), indent=2, ensure_ascii=False) + "\n", "utf-8")
    os.replace(temporary, shot)
    if not as_json:
        typer.echo(f"{shot}: {len(wanted)} mattes are read from {path}")


def _write_mattes(
    shot: Path, document: Shot, wanted: tuple[str, ...], out: str, pack: Any, frames: str, type_: str | None, scale: int, as_json: bool
) -> None:
    from umbrax.media.sequences import frame_range
    from umbrax.render.matte_files import MatteOrder, write_frames
    from umbrax.settings import read_settings

    settings = read_settings()
    numbers = frame_range(frames, document.format.first, document.format.last)
    engine = new_engine(settings)
    order = MatteOrder(tuple(numbers), out, wanted, pack, type_, scale)
    done = 0
    for written in write_frames(engine, document, [shot.resolve().parent, *settings.media], order):
        done += 1
        for file in written.files:
            if as_json:
                channels = dict(zip(file.channels, file.mattes, strict=True))
                print_json({"frame": written.frame, "file": str(file.path), "channels": channels, "seconds": round(written.seconds, 3)})
            else:
                typer.echo(f"{file.path}  {', '.join(file.mattes)}  ({done} of {len(numbers)})")
    if as_json:
        print_json({"done": done})


@app.command()
def demo(folder: Path, frames: Annotated[str, typer.Option(help="Only these frames.")] = "", as_json: Json = False) -> None:
    """Write the demo renders and shots as plain files."""
    from umbrax.media.sequences import frame_range
    from umbrax.standin.demo import write_demo
    from umbrax.standin.shots import FIRST, LAST

    numbers = frame_range(frames, FIRST, LAST) if frames else None

    def progress(done: int, total: int) -> None:
        if as_json:
            print_json({"done": done, "of": total})
        else:
            typer.echo(f"demo: {done} of {total} frames", err=True)

    for path in write_demo(folder, frames=numbers, progress=progress):
        if not as_json:
            typer.echo(str(path))
