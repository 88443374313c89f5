"""Commands for renders on a server that is asked from elsewhere: ordering, following and fetching them, and its queue."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from umbrax.core.errors import UmbraxError

from .printing import Frames, Json, Scale, print_json, scale_of
from .remote import ShotName, find_shot, server_here

if TYPE_CHECKING:
    from umbrax.remote.server import Server

app = typer.Typer()
Number = Annotated[int, typer.Argument(metavar="RENDER", help="The number of the render.")]


@app.command()
def render(
    context: typer.Context,
    shot: ShotName,
    frames: Frames = "",
    format_: Annotated[str, typer.Option("--format", help="exr, png, tiff or jpeg.")] = "exr",
    type_: Annotated[str | None, typer.Option("--type", help="half or float for EXR, 8 or 16 for PNG and TIFF.")] = None,
    scale: Scale = "1",
    upto: Annotated[str | None, typer.Option(help="Stop after this card.")] = None,
    matte: Annotated[list[str] | None, typer.Option(help="Write this matte instead; again for each.")] = None,
    pack: Annotated[str, typer.Option(help="Several mattes: single, rgb, rgba, or named.")] = "single",
    movie: Annotated[str | None, typer.Option(help="Make a movie of the frames as well: h264, prores_422 or prores_4444.")] = None,
    caption: Annotated[bool, typer.Option("--caption", help="Write shot, frame and revision into the pictures of the movie.")] = False,
    space: Annotated[
        str | None, typer.Option(help="The primaries of EXR, lin_rec709 or lin_ap1 (ACEScg); what the shot works in by default.")
    ] = None,
    priority: Annotated[int, typer.Option(min=-9, max=9, help="Renders of a higher one are done first.")] = 0,
    follow: Annotated[bool, typer.Option(help="Wait until it is done; exits 1 where it is not.")] = False,
    into: Annotated[Path | None, typer.Option(help="Fetch its frames into this folder as they are done; follows it.")] = None,
    as_json: Json = False,
) -> None:
    """Put a render of a shot into the server's queue."""
    server = server_here(context)
    found = find_shot(server, shot)
    order = {"revision": found["revision"], "frames": frames, "format": format_, "type": type_, "upto": upto, "mattes": matte or []}
    order |= {"scale": scale_of(scale)}
    ordered = server.post(f"/shots/{found['id']}/renders", order | {"pack": pack, "movie": movie, "space": space, "caption": caption})
    if priority:
        ordered = server.post(f"/renders/{ordered['id']}/priority", {"priority": priority})
    if as_json:
        print_json({"render": ordered["id"], "shot": found["id"], "revision": ordered["revision"], "frames": ordered["total"]})
    else:
        typer.echo(f"render {ordered['id']}: {ordered['total']} frames of {found['show']}/{found['name']}, revision {ordered['revision']}")
    if follow or into:
        _follow(server, ordered, into, as_json)


@app.command()
def follow(
    context: typer.Context,
    render: Number,
    into: Annotated[Path | None, typer.Option(help="Fetch its frames into this folder as they are done.")] = None,
    as_json: Json = False,
) -> None:
    """Wait until a render is done; exits 1 where it fails or is stopped."""
    server = server_here(context)
    _follow(server, server.get(f"/renders/{render}"), into, as_json)


@app.command()
def fetch(context: typer.Context, render: Number, folder: Path, as_json: Json = False) -> None:
    """Bring the frames of a render that are done into a folder; those that are there already are left as they are."""
    server = server_here(context)
    row = server.get(f"/renders/{render}")
    if not row["done"]:
        raise UmbraxError("no-file", f"no frame of render {render} is done yet; follow it with --into")
    _fetch(server, row, row["done"], folder, as_json)
    _fetch_movie(server, row, folder, as_json)


@app.command()
def queue(context: typer.Context, as_json: Json = False) -> None:
    """What waits, what is being made, and by which workers."""
    told = server_here(context).get("/queue")
    if as_json:
        print_json(told)
        return
    for row in told["renders"]:
        left = f", {_duration(row['seconds_left'])} left" if row["seconds_left"] is not None else ""
        typer.echo(f"{row['id']:5}  {row['show']}/{row['shot']}  {row['what']}  {_state(row)}{left}")
    for one in told["workers"]:
        doing = f"frame {one['frame']} of render {one['render_id']}" if one["render_id"] else "a check-up" if one["checkup"] else "nothing"
        speed = f", {one['seconds_a_frame']:.1f} s a frame" if one["seconds_a_frame"] else ""
        typer.echo(f"       worker {one['name']}  {doing if one['here'] else 'gone'}{speed}")
    if not told["renders"]:
        typer.echo("no render waits")


@app.command()
def cancel(context: typer.Context, render: Number, as_json: Json = False) -> None:
    """Stop a render; the frames that are done stay."""
    _order(context, render, "cancel", as_json)


@app.command()
def pause(context: typer.Context, render: Number, as_json: Json = False) -> None:
    """Let a render rest."""
    _order(context, render, "pause", as_json)


@app.command()
def retry(context: typer.Context, render: Number, as_json: Json = False) -> None:
    """Go on with a render that rests, failed or was stopped: only what is missing is made."""
    _order(context, render, "retry", as_json)


def _order(context: typer.Context, render: int, what: str, as_json: bool) -> None:
    row = server_here(context).post(f"/renders/{render}/{what}")
    if as_json:
        print_json(_told(row))
    else:
        typer.echo(f"render {row['id']}: {_state(row)}")


def _follow(server: "Server", row: dict[str, Any], into: Path | None, as_json: bool) -> None:
    from umbrax.remote.following import follow

    fetched: set[int] = set()

    def moved(now: dict[str, Any]) -> None:
        if as_json:
            print_json(_told(now))
        else:
            typer.echo(f"render {now['id']}: {_state(now)}", err=True)
        if into:
            _fetch(server, now, [frame for frame in now["done"] if frame not in fetched], into, as_json)
            fetched.update(now["done"])

    try:
        ended = follow(server, row, moved)
    except KeyboardInterrupt:
        typer.echo(f"umbrax: render {row['id']} goes on; 'umbrax remote cancel {row['id']}' stops it", err=True)
        raise
    if into:
        _fetch_movie(server, ended, into, as_json)
    if ended["state"] != "done":
        raise UmbraxError("render-ended", f"render {ended['id']} {_state(ended)}: {ended['message'] or 'somebody stopped it'}")


def _fetch(server: "Server", row: dict[str, Any], frames: list[int], folder: Path, as_json: bool) -> None:
    from umbrax.remote.fetching import fetch_frames

    for one in fetch_frames(server, row, frames, folder):
        if as_json:
            print_json({"frame": one.frame, "file": str(one.path), "fresh": one.fresh})
        else:
            typer.echo(f"{one.path}{'' if one.fresh else '  (there already)'}")


def _fetch_movie(server: "Server", row: dict[str, Any], folder: Path, as_json: bool) -> None:
    from umbrax.remote.fetching import fetch_movie

    if row["movie"] is None or row["movie"]["bytes"] is None:
        return
    path, fresh = fetch_movie(server, row["id"], folder)
    if as_json:
        print_json({"movie": str(path), "fresh": fresh})
    else:
        typer.echo(f"{path}{'' if fresh else '  (there already)'}")


def _told(row: dict[str, Any]) -> dict[str, Any]:
    return {
        "render": row["id"], "state": row["state"], "done": len(row["done"]), "of": row["total"], "failed": row["failed"],
        "message": row["message"],
    }  # fmt: skip


def _state(row: dict[str, Any]) -> str:
    failed = f", {len(row['failed'])} failed" if row["failed"] else ""
    return f"{row['state']}, {len(row['done'])} of {row['total']} frames{failed}"


def _duration(seconds: float) -> str:
    minutes, rest = divmod(round(seconds), 60)
    return f"{minutes} min {rest} s" if minutes else f"{rest} s"
