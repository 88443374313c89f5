"""All commands as one program."""

import io
import sys

import typer

from umbrax.core.errors import UmbraxError

from . import inspecting, people, remote, remote_renders, rendering, running
from .printing import print_json

app = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="Combine rendered 3D passes into finished shots.",
)
for part in (inspecting, rendering, running):
    app.add_typer(part.app)
remote.app.add_typer(remote_renders.app)
app.add_typer(remote.app, name="remote")
app.add_typer(people.app, name="people")


def main() -> None:
    """Run a command; an error is one line on standard error, or one JSON object with --json, and exit status 1."""
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            # a file's name need not be text: what is written always is
            stream.reconfigure(errors="backslashreplace")
    try:
        app(standalone_mode=False)
    except UmbraxError as error:
        _fail(error)
    except typer.Exit as stop:
        sys.exit(stop.exit_code)
    except (typer.Abort, KeyboardInterrupt):
        sys.exit(130)
    except Exception as error:
        if not hasattr(error, "format_message"):
            raise
        _fail(UmbraxError("bad-command", error.format_message()))


def _fail(error: UmbraxError) -> None:
    if "--json" in sys.argv:
        print_json({"error": error.payload()})
    typer.echo(f"umbrax: {error}", err=True)
    sys.exit(1)
