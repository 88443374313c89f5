"""Commands for a server that is asked from elsewhere, with a token: what a farm's script does from new renders to fetched frames."""

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from umbrax.core.errors import UmbraxError

from .printing import Frames, Json, Scale, print_json, scale_of

if TYPE_CHECKING:
    from umbrax.remote.server import Server

app = typer.Typer(no_args_is_help=True, help="A server, from any machine: UMBRAX_SERVER is its address, UMBRAX_TOKEN lets in.")
ShotName = Annotated[str, typer.Argument(metavar="SHOT", help="Its number, its name, or SHOW/NAME.")]
Number = Annotated[int, typer.Argument(metavar="RENDER", help="The number of the render.")]


@app.callback()
def server_of(
    context: typer.Context,
    server: Annotated[str, typer.Option(envvar="UMBRAX_SERVER", help="The server's address.")] = "http://127.0.0.1:8460",
    token: Annotated[str, typer.Option(envvar="UMBRAX_TOKEN", help="Better in the environment, where no list of processes shows it.")] = "",
) -> None:
    """Who is asked, and as whom."""
    context.obj = (server, token)


def _server(context: typer.Context) -> "Server":
    from umbrax.remote.server import Server

    return Server(*context.obj)


@app.command()
def shots(context: typer.Context, as_json: Json = False) -> None:
    """The shots that you may look at, with their numbers."""
    found = [(show, shot) for show in _server(context).get("/shows")["shows"] for shot in show["shots"]]
    for show, shot in found:
        if as_json:
            keys = ("id", "name", "show", "revision", "first", "last", "fps", "width", "height", "problem")
            print_json({key: shot[key] for key in keys} | {"role": show["role"]})
        else:
            told = shot["problem"] or f"{shot['first']}-{shot['last']}  {shot['width']} x {shot['height']}  revision {shot['revision']}"
            typer.echo(f"{shot['id']:5}  {show['name']}/{shot['name']}  {told}")
    if not found and not as_json:
        typer.echo("no shots; take-in makes one")


@app.command()
def document(context: typer.Context, shot: ShotName, as_json: Json = False) -> None:
    """The document of a shot as it is now, to be kept or rendered with 'umbrax render' where its sources are; --json in one line."""
    server = _server(context)
    found = server.get(f"/shots/{_found(server, shot)['id']}")["document"]
    if as_json:
        print_json(found)
    else:
        typer.echo(json.dumps(found, indent=2, ensure_ascii=False))


@app.command("take-in")
def take_in(
    context: typer.Context,
    paths: Annotated[list[Path], typer.Argument(help="Files and folders of this machine.")],
    show: Annotated[str, typer.Option(help="The show; it is made where there is none of this name.")],
    shot: Annotated[str, typer.Option(help="The new shot's name; by default it is called after its pictures.")] = "",
    as_json: Json = False,
) -> None:
    """Bring files to the server, and make a shot of them with a first build."""
    server = _server(context)
    folder, count = _brought(server, paths, as_json)
    made = server.post("/take-in", {"show": show, "shot": shot, "paths": [folder]})
    if as_json:
        print_json({key: made[key] for key in ("id", "name", "show", "revision")} | {"files": count})
    else:
        typer.echo(f"{made['show']}/{made['name']} is shot {made['id']}, of {count} files")


@app.command()
def add(
    context: typer.Context,
    shot: ShotName,
    paths: Annotated[list[Path], typer.Argument(help="Files and folders of this machine.")],
    cards: Annotated[bool, typer.Option(help="Give each new source its cards: plates at the back, everything else in front.")] = True,
    as_json: Json = False,
) -> None:
    """Bring files to the server, and make them sources of a shot that is there; it can be undone in the page as one step."""
    server = _server(context)
    found = _found(server, shot)
    folder, count = _brought(server, paths, as_json)
    before = server.get(f"/shots/{found['id']}")
    order = {"base": before["revision"], "gesture": Path(folder).name, "paths": [folder], "build": cards}
    after = server.post(f"/shots/{found['id']}/sources", order)
    new = [name for name in after["document"]["sources"] if name not in before["document"]["sources"]]
    if as_json:
        print_json({"id": after["id"], "revision": after["revision"], "sources": new, "files": count})
    else:
        typer.echo(f"{found['show']}/{found['name']} has {', '.join(new)}, of {count} files, as revision {after['revision']}")


@app.command()
def look(
    context: typer.Context,
    shot: ShotName,
    frame: Annotated[int, typer.Argument(help="A frame of the shot.")],
    out: Annotated[Path, typer.Argument(help="Where the picture goes: a PNG as the page shows it.")],
    scale: Scale = "1",
    upto: Annotated[str | None, typer.Option(help="The picture so far after this card.")] = None,
    matte: Annotated[str | None, typer.Option(help="This matte instead.")] = None,
    as_json: Json = False,
) -> None:
    """One frame as it looks now, at once and not through the queue; what could not be made of it is told."""
    from umbrax.remote.fetching import keep_look

    if out.suffix.lower() != ".png":
        raise UmbraxError("bad-type", f"a look is a PNG, and {out.name!r} is none; give it a name that ends in .png")
    server = _server(context)
    found = _found(server, shot)
    what = {"kind": "matte", "name": matte} if matte else {"kind": "picture", "card": upto}
    order = {"revision": found["revision"], "frame": frame, "scale": scale_of(scale), "format": "png"}
    problem = keep_look(server, found["id"], what | order, out)
    if as_json:
        print_json({"file": str(out), "revision": found["revision"], "problem": problem})
    else:
        typer.echo(str(out))
        if problem:
            typer.echo(f"umbrax: left out: {problem}", err=True)


@app.command()
def render(
    context: typer.Context,
    shot: ShotName,
    frames: Frames = "",
    format_: Annotated[str, typer.Option("--format", help="exr or png.")] = "exr",
    type_: Annotated[str | None, typer.Option("--type", help="half or float for EXR, 8 or 16 for PNG.")] = None,
    upto: Annotated[str | None, typer.Option(help="Stop after this card.")] = None,
    matte: Annotated[list[str] | None, typer.Option(help="Write this matte instead; again for each.")] = None,
    pack: Annotated[str, typer.Option(help="Several mattes: single, rgb, rgba, or named.")] = "single",
    priority: Annotated[int, typer.Option(min=-9, max=9, help="Renders of a higher one are done first.")] = 0,
    follow: Annotated[bool, typer.Option(help="Wait until it is done; exits 1 where it is not.")] = False,
    into: Annotated[Path | None, typer.Option(help="Fetch its frames into this folder as they are done; follows it.")] = None,
    as_json: Json = False,
) -> None:
    """Put a render of a shot into the server's queue."""
    server = _server(context)
    found = _found(server, shot)
    order = {"revision": found["revision"], "frames": frames, "format": format_, "type": type_, "upto": upto, "mattes": matte or []}
    ordered = server.post(f"/shots/{found['id']}/renders", order | {"pack": pack})
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
    server = _server(context)
    _follow(server, server.get(f"/renders/{render}"), into, as_json)


@app.command()
def fetch(context: typer.Context, render: Number, folder: Path, as_json: Json = False) -> None:
    """Bring the frames of a render that are done into a folder; those that are there already are left as they are."""
    server = _server(context)
    row = server.get(f"/renders/{render}")
    if not row["done"]:
        raise UmbraxError("no-file", f"no frame of render {render} is done yet; follow it with --into")
    _fetch(server, row, row["done"], folder, as_json)


@app.command()
def queue(context: typer.Context, as_json: Json = False) -> None:
    """What waits, what is being made, and by which workers."""
    told = _server(context).get("/queue")
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
    row = _server(context).post(f"/renders/{render}/{what}")
    if as_json:
        print_json(_told(row))
    else:
        typer.echo(f"render {row['id']}: {_state(row)}")


def _brought(server: "Server", paths: list[Path], as_json: bool) -> tuple[str, int]:
    """Files that were brought to the server: the folder they lie in there, and how many they are."""
    from umbrax.remote.uploading import files_to_bring, new_batch, upload

    files, batch = files_to_bring(paths), new_batch()
    for done, one in enumerate(upload(server, files, batch), 1):
        if not as_json:
            typer.echo(f"{one.path}  ({done} of {len(files)})", err=True)
    return f"{server.get('/media', path='')['uploads']}/{batch}", len(files)


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
    if ended["state"] != "done":
        raise UmbraxError("render-ended", f"render {ended['id']} {_state(ended)}: {ended['message'] or 'somebody stopped it'}")


def _fetch(server: "Server", row: dict[str, Any], frames: list[int], folder: Path, as_json: bool) -> None:
    from umbrax.remote.fetching import fetch_frames

    for one in fetch_frames(server, row, frames, folder):
        if as_json:
            print_json({"frame": one.frame, "file": str(one.path), "fresh": one.fresh})
        else:
            typer.echo(f"{one.path}{'' if one.fresh else '  (there already)'}")


def _found(server: "Server", wanted: str) -> dict[str, Any]:
    """A shot by its number, its name, or its show's and its name."""
    shows = server.get("/shows")["shows"]
    pairs = [(f"{show['name']}/{shot['name']}", shot) for show in shows for shot in show["shots"]]
    found = [shot for _, shot in pairs if wanted == str(shot["id"])] or [shot for whole, shot in pairs if wanted in (shot["name"], whole)]
    if len(found) > 1:
        same = ", ".join(f"{shot['id']} ({whole})" for whole, shot in pairs if shot in found)
        raise UmbraxError("many-shots", f"several shots are called {wanted!r}: {same}; name one by its number")
    if not found:
        raise UmbraxError("no-shot", f"no shot {wanted!r} that you may look at; 'umbrax remote shots' lists them")
    one: dict[str, Any] = found[0]
    return one


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
