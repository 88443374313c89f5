"""Commands that run the parts of the application itself."""

from typing import Annotated

import typer

from .printing import Json

app = typer.Typer()


@app.command()
def measure(
    rows: Annotated[list[str] | None, typer.Argument(help="Only rows whose name holds one of these.")] = None,
    as_json: Json = False,
) -> None:
    """The benchmark table: every row a ratio against a reference in the same run. Exits 1 on a missed row."""
    from umbrax.measure.table import run_rows

    raise typer.Exit(run_rows(rows or [], as_json))


@app.command()
def migrate() -> None:
    """Bring the database schema up to date."""
    from umbrax.settings import read_settings
    from umbrax.store.migrating import migrate as run

    for name in run(read_settings().database):
        typer.echo(f"applied {name}")


@app.command()
def serve(host: str = "127.0.0.1", port: int = 8460) -> None:
    """The server behind the page."""
    from umbrax.web.serving import serve as run

    run(host, port)


@app.command()
def worker(
    database: Annotated[str | None, typer.Argument(help="The address of the database, from another machine.")] = None,
    folder: Annotated[list[str] | None, typer.Option(help="A folder of the server and where it lies here, as NAME=PATH.")] = None,
) -> None:
    """A queue worker: chunks of renders and check-ups, one at a time."""
    from umbrax.jobs.worker import run_worker

    run_worker(database, folder or [])
