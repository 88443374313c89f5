"""How commands answer, for people or for machines, and the options that several of them take."""

import json
import re
from typing import Annotated, Any

import typer

from umbrax.core.errors import UmbraxError

Frames = Annotated[str, typer.Option(help="1001-1048, 1001,1005 or 1001-1048x2; the whole shot by default.")]
Scale = Annotated[str, typer.Option(help="1, 1/2, 1/4 or 1/8.")]
Json = Annotated[bool, typer.Option("--json", help="Machine-readable output.")]


def print_json(value: Any) -> None:
    """One line that a machine reads."""
    typer.echo(json.dumps(value, ensure_ascii=False))


def scale_of(text: str) -> int:
    """1, 1/2, 1/4 or 1/8 as the number under the line."""
    match = re.fullmatch(r"1(?:/([1248]))?", text.strip())
    if not match:
        raise UmbraxError("bad-scale", f"cannot make a picture at scale {text!r}; use 1, 1/2, 1/4 or 1/8")
    return int(match[1] or 1)
