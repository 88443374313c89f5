"""Commands that look into files: what is inside, what is wrong with it, and what a document may hold."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

from umbrax.core.document.shot import Shot

from .documents import in_words, read_shot
from .engines import new_copies, new_engine
from .printing import Json, print_json

app = typer.Typer()


@app.command()
def passes(file: str, as_json: Json = False) -> None:
    """What is inside a picture file, a {frame:04d} pattern, or a folder with one sequence or one file per pass."""
    from umbrax.media.listing import list_passes, list_together
    from umbrax.settings import read_settings

    found = list_together(file, new_copies(read_settings())) or list_passes(file)
    if as_json:
        print_json(found)
        return
    console = Console()
    table = Table("pass", "kind", "type", "channels", "why", title=f"{found['file']}  {found['size'][0]} x {found['size'][1]}")
    for entry in found["passes"]:
        table.add_row(entry["name"], entry["kind"], entry["type"], " ".join(entry["channels"]), entry["why"])
    console.print(table)
    for layer in found["ids"]:
        names = "no manifest" if layer["names"] is None else f"{len(layer['names'])} names"
        console.print(f"IDs [bold]{layer['layer']}[/]: {layer['kind']}, {layer['ranks']} ranks, {names}")


@app.command()
def checkup(targets: list[str], as_json: Json = False) -> None:
    """Examine picture files, {frame:04d} patterns, folders, or all sources of a shot, and say what is wrong with them."""
    from umbrax.media.examining import check_up_all, sequence_of_source, sequences_of
    from umbrax.media.reader import MediaReader
    from umbrax.settings import read_settings

    settings = read_settings()
    copies, sequences = new_copies(settings), []
    for target in targets:
        if target.endswith(".json"):
            shot = read_shot(Path(target))
            roots = [Path(target).resolve().parent, *settings.media]
            reader = MediaReader(shot.sources, roots, copies, shot.colour.view, shot.colour.working)
            sequences += [sequence_of_source(reader, name) for name in shot.sources]
        else:
            sequences += sequences_of(target, copies)
    findings = check_up_all(sequences, copies)
    if as_json:
        print_json({"findings": [finding.payload() for finding in findings]})
        return
    console = Console(highlight=False)
    for finding in findings:
        where = " ".join(part for part in (finding.source, finding.pass_, _frames_told(finding.frames)) if part)
        colour = {"error": "red", "warning": "yellow", "note": "dim"}[finding.severity]
        console.print(f"[{colour}]{finding.severity}[/]  [bold]{finding.rule}[/]  {where}: {finding.message}", soft_wrap=True)
    console.print(f"{len(findings)} findings" if findings else "nothing found")


def _frames_told(frames: tuple[int, ...]) -> str:
    if not frames or frames == (0,):
        return ""
    return str(frames[0]) if len(frames) == 1 else f"{frames[0]}–{frames[-1]} ({len(frames)} frames)"


@app.command()
def validate(shot: Path, as_json: Json = False) -> None:
    """Check a shot document against the schema and its references."""
    document = read_shot(shot)
    summary = {
        "file": str(shot),
        "name": document.name,
        "cards": len(document.build),
        "mattes": len(document.mattes),
        "ok": True,
    }
    if as_json:
        print_json(summary)
    else:
        typer.echo(f"{shot}: {document.name}, {len(document.build)} cards, {len(document.mattes)} mattes, no problems")


@app.command()
def seat(
    shot: Path,
    card: str,
    frame: Annotated[int | None, typer.Option(help="Measured on this frame; the first of the shot by default.")] = None,
    as_json: Json = False,
) -> None:
    """Measure whether an element card, by its id or name, sits in what is behind it: blacks, grain, sharpness, fringe, light from behind."""
    from umbrax.core.measuring.seat import seat_check
    from umbrax.core.plan.evaluate import never_cancelled
    from umbrax.render.seat import seated
    from umbrax.settings import read_settings

    document = read_shot(shot)
    settings = read_settings()
    engine = new_engine(settings)
    card_id = next((one.id for one in document.cards() if card in (one.id, one.name)), card)
    number = document.format.first if frame is None else frame
    with in_words(document):
        answers = seat_check(seated(engine, document, [shot.resolve().parent, *settings.media], number, card_id, never_cancelled))
    if as_json:
        print_json({"frame": number, "answers": [asdict(one) for one in answers]})
        return
    console = Console(highlight=False)
    for one in answers:
        told = {True: "sits", False: "[yellow]look[/]", None: "[dim]?   [/]"}[one.sits]
        sides = [f"{_figures(values)} {side}" for values, side in ((one.own, "of it"), (one.behind, "behind")) if values]
        figures = f"  ({', '.join([*sides, one.unit])})" if sides else ""
        console.print(f"{told}  [bold]{one.title}[/]: {one.message}{figures}", soft_wrap=True)


def _figures(values: tuple[float, ...]) -> str:
    return " ".join(f"{value:.3g}" for value in values)


@app.command()
def schema() -> None:
    """The JSON Schema of the shot document."""
    typer.echo(json.dumps(Shot.model_json_schema(by_alias=True), indent=2))
