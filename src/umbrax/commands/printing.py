"""How commands answer: for people, or for machines."""

import json
from typing import Annotated, Any

import typer

Json = Annotated[bool, typer.Option("--json", help="Machine-readable output.")]


def print_json(value: Any) -> None:
    """One line that a machine reads."""
    typer.echo(json.dumps(value, ensure_ascii=False))
