"""Commands for a server that is asked from elsewhere, with a token: what a farm's script does from new renders to fetched frames."""

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from umbrax.core.errors import UmbraxError

from .printing import Json, Scale, print_json, scale_of

if TYPE_CHECKING:
    from umbrax.remote.server import Server

app = typer.Typer(no_args_is_help=True, help="A server, from any machine: UMBRAX_SERVER is its address, UMBRAX_TOKEN lets in.")
ShotName = Annotated[str, typer.Argument(metavar="SHOT", help="Its number, its name, or SHOW/NAME.")]


@app.callback()
def server_of(
    context: typer.Context,
    server: Annotated[str, typer.Option(envvar="UMBRAX_SERVER", help="The server's address.")] = "http://127.0.0.1:8460",
    token: Annotated[str, typer.Option(envvar="UMBRAX_TOKEN", help="Better in the environment, where no list of processes shows it.")] = "",
) -> None:
    """Who is asked, and as whom."""
    context.obj = (server, token)


def server_here(context: typer.Context) -> "Server":
    from umbrax.remote.server import Server

    return Server(*context.obj)


@app.command()
def shots(context: typer.Context, as_json: Json = False) -> None:
    """The shots that you may look at, with their numbers."""
    found = [(show, shot) for show in server_here(context).get("/shows")["shows"] for shot in show["shots"]]
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
    server = server_here(context)
    found = server.get(f"/shots/{find_shot(server, shot)['id']}")["document"]
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
    server = server_here(context)
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
    server = server_here(context)
    found = find_shot(server, shot)
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
    server = server_here(context)
    found = find_shot(server, shot)
    what = {"kind": "matte", "name": matte} if matte else {"kind": "picture", "card": upto}
    order = {"revision": found["revision"], "frame": frame, "scale": scale_of(scale), "format": "png"}
    problem = keep_look(server, found["id"], what | order, out)
    if as_json:
        print_json({"file": str(out), "revision": found["revision"], "problem": problem})
    else:
        typer.echo(str(out))
        if problem:
            typer.echo(f"umbrax: left out: {problem}", err=True)


def _brought(server: "Server", paths: list[Path], as_json: bool) -> tuple[str, int]:
    """Files that were brought to the server: the folder they lie in there, and how many they are."""
    from umbrax.remote.uploading import files_to_bring, new_batch, upload

    files, batch = files_to_bring(paths), new_batch()
    for done, one in enumerate(upload(server, files, batch), 1):
        if not as_json:
            typer.echo(f"{one.path}  ({done} of {len(files)})", err=True)
    return f"{server.get('/media', path='')['uploads']}/{batch}", len(files)


def find_shot(server: "Server", wanted: str) -> dict[str, Any]:
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
