"""How commands answer, for people or for machines, and the options that several of them take."""

import json
from typing import Annotated, Any

import typer

Frames = Annotated[str, typer.Option(help="1001-1048, 1001,1005 or 1001-1048x2; the whole shot by default.")]
Scale = Annotated[str, typer.Option(help="1, 1/2, 1/4 or 1/8.")]
Json = Annotated[bool, typer.Option("--json", help="Machine-readable output.")]


def print_json(value: Any) -> None:
    """One line that a machine reads."""
    typer.echo(json.dumps(value, ensure_ascii=False))
