"""Linking mattes to where they were baked, and letting that go again."""

from .edits import Edit, InsertItem, RemoveItem, SetValue, fresh_id
from .shot import Shot

SOURCE = "baked mattes"


def link_bake(shot: Shot, mattes: tuple[str, ...], path: str) -> list[Edit]:
    """The edits that make mattes read from a baked sequence; a source of the same path is used again, one nobody needs goes."""
    known = next((name for name, source in shot.sources.items() if source.path == path), None)
    gone = _unneeded(shot, set(mattes), known)
    source = known or fresh_id(set(shot.sources) - set(gone), SOURCE)
    layers = {matte: layer_of(shot.mattes[matte].name or matte) for matte in mattes}
    # data, to be read as it is: coverage, share and sum are no colour
    passes = {layer: {"kind": "other"} for layer in layers.values()}
    edits: list[Edit] = [RemoveItem(op="remove", path=("sources", name)) for name in gone]
    if known is None:
        edits.append(InsertItem(op="insert", path=("sources",), item={"id": source, "path": path, "passes": passes}))
    return edits + [SetValue(op="set", path=("mattes", matte, "bake"), value={"source": source, "pass": layers[matte]}) for matte in mattes]


def unlink_bake(shot: Shot, mattes: tuple[str, ...]) -> list[Edit]:
    """The edits after which mattes are pulled again from what they are made of."""
    edits: list[Edit] = [SetValue(op="set", path=("mattes", matte, "bake"), value=None) for matte in mattes if shot.mattes[matte].bake]
    return edits + [RemoveItem(op="remove", path=("sources", name)) for name in _unneeded(shot, set(mattes), None)]


def _unneeded(shot: Shot, leaving: set[str], kept: str | None) -> list[str]:
    """Sources of bakes that none but these mattes are read from."""
    left = {matte.bake.source for name, matte in shot.mattes.items() if matte.bake and name in leaving} - {kept}
    needed = {matte.bake.source for name, matte in shot.mattes.items() if matte.bake and name not in leaving}
    return sorted(left - needed)


def bake_sources(shot: Shot) -> set[str]:
    """The sources that are nothing but mattes written for speed."""
    return {matte.bake.source for matte in shot.mattes.values() if matte.bake}


def layer_of(name: str) -> str:
    """A matte's name as the name of a layer: a dot would end it."""
    return "".join("_" if letter == "." or letter < " " else letter for letter in name).strip("_ ") or "matte"
