"""What cards and mattes ask of sources that these do not have: after a new version of a render, or a wrong name.

The picture is computed without it; whoever looks at the shot is told, with what can be done about it.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from difflib import get_close_matches

from ..mattes import MatteParams
from ..mattes.alpha import AlphaMatte
from ..mattes.channel import ChannelMatte
from ..mattes.depth import DepthMatte
from ..mattes.ids import RAW, IdMatte, ids_of_names
from ..mattes.index import IndexMatte
from ..mattes.key import KeyMatte
from ..pictures.passes import PassPicture
from ..pictures.rebuild import RebuildPicture, light_passes
from ..pictures.shadow import ShadowPicture
from ..plan.reader import FrameInfo, IdLayer
from .cards import Card
from .edits import Edit, RemoveItem, SetValue
from .removals import card_removal, matte_removal
from .shot import Shot

PROPOSED = 3
ALIKE = 0.55  # how like a lost name another must be to be proposed


@dataclass(frozen=True)
class Remedy:
    """One thing that can be done, in words and as edits that are one gesture."""

    label: str
    edits: tuple[Edit, ...]


@dataclass(frozen=True)
class Lost:
    """A name that a card or a matte asks a source for in vain. `noun` is light, pass, ID layer, name or alpha."""

    noun: str
    name: str
    source: str
    message: str
    card: str | None = None
    matte: str | None = None
    remedies: tuple[Remedy, ...] = ()


def seen_in(infos: Iterable[FrameInfo]) -> FrameInfo:
    """All that any of several frames of one source holds; names of a layer are unknown where one frame does not tell them."""
    first, *others = infos
    passes, ids = dict(first.passes), dict(first.ids)
    for info in others:
        passes |= {name: found for name, found in info.passes.items() if name not in passes}
        for name, layer in info.ids.items():
            ids[name] = _both(ids[name], layer) if name in ids else layer
    return replace(first, passes=passes, ids=ids)


def _both(one: IdLayer, other: IdLayer) -> IdLayer:
    names = None if one.names is None or other.names is None else {**one.names, **other.names}
    return replace(one, names=names)


def lost_in(shot: Shot, sources: Mapping[str, FrameInfo]) -> list[Lost]:
    """Everything lost, cards first, backmost first. Sources that are not given cannot be read, and say so themselves."""
    found: list[Lost] = []
    for card in shot.cards():
        found += _of_card(shot, card, sources)
    for matte_id, matte in shot.mattes.items():
        found += _of_matte(shot, matte_id, matte, sources)
    for name, info in sources.items():
        found += _of_settings(shot, name, info)
    return found


def _of_card(shot: Shot, card: Card, sources: Mapping[str, FrameInfo]) -> Iterator[Lost]:
    picture = card.picture
    if not isinstance(picture, RebuildPicture | PassPicture | ShadowPicture) or picture.source not in sources:
        return
    info, path = sources[picture.source], (*shot.path_of(card.id), "picture")
    if isinstance(picture, RebuildPicture):
        for name in picture.lights:
            if not info.has(name):
                yield Lost(
                    "light", name, picture.source, f"card {card.shown_name!r}: the light {name!r} is not in {picture.source!r}",
                    card.id, remedies=tuple(_for_light(picture, name, info, path)),
                )  # fmt: skip
        return
    wanted = picture.pass_ or "shadow"
    if not info.has(wanted):
        message = f"card {card.shown_name!r} shows nothing: the pass {wanted!r} is not in {picture.source!r}"
        remedies = [
            Remedy(f"Show {name}", (SetValue(op="set", path=(*path, "pass"), value=name),))
            for name in _passes_like(info, wanted, ("shadow",) if isinstance(picture, ShadowPicture) else ())
        ]
        if "beauty" in (one.kind for one in info.passes.values()) and isinstance(picture, PassPicture):
            remedies.append(Remedy("Show the beauty", (SetValue(op="set", path=(*path, "pass"), value="beauty"),)))
        remedies.append(Remedy("Delete the card", card_removal(shot, card.id).edits))
        yield Lost("pass", wanted, picture.source, message, card.id, remedies=tuple(remedies))


def _for_light(picture: RebuildPicture, name: str, info: FrameInfo, path: tuple[str, ...]) -> Iterator[Remedy]:
    lights = (*path, "lights")
    gone = RemoveItem(op="remove", path=(*lights, name))
    setting = picture.lights[name].model_dump(mode="json")
    yield Remedy("Remove it", (gone,))
    if picture.rest is None and info.has("beauty"):
        yield Remedy("Take the beauty's rest", (gone, SetValue(op="set", path=(*path, "rest"), value=setting)))
    free = [other for other in light_passes(info) if other not in picture.lights and info.passes[other].kind not in picture.lights]
    for other in _alike_first(name, free):
        yield Remedy(f"Take {other}", (gone, SetValue(op="set", path=(*lights, other), value=setting)))


def _of_matte(shot: Shot, matte_id: str, matte: MatteParams, sources: Mapping[str, FrameInfo]) -> Iterator[Lost]:
    source = getattr(matte, "source", None)
    if source is None or source not in sources:
        return
    info, shown = sources[source], matte.name or matte_id
    if isinstance(matte, IdMatte):
        layer = info.ids.get(matte.layer)
        if layer is not None:
            yield from _names(shot, matte_id, matte, layer)
            return
        kind = "material" if "material" in matte.layer else "object"
        others = sorted(info.ids.values(), key=lambda one: one.kind != kind)
        message = f"matte {shown!r} is empty: the ID layer {matte.layer!r} is not in {source!r}"
        remedies = [Remedy(f"Take {one.name}", (SetValue(op="set", path=("mattes", matte_id, "layer"), value=one.name),)) for one in others]
        remedies = [*remedies[:PROPOSED], _deletion(shot, matte_id)]
        yield Lost("ID layer", matte.layer, source, message, matte=matte_id, remedies=tuple(remedies))
    elif isinstance(matte, ChannelMatte | DepthMatte | IndexMatte | KeyMatte | AlphaMatte):
        wanted = matte.pass_ or "beauty"
        if not info.has(wanted):
            kinds = {"depth": ("depth",), "index": ("object_index", "material_index")}.get(matte.kind, ())
            message = f"matte {shown!r} is empty: the pass {wanted!r} is not in {source!r}"
            choices = _passes_like(info, wanted, kinds)
            remedies = [Remedy(f"Take {name}", (SetValue(op="set", path=("mattes", matte_id, "pass"), value=name),)) for name in choices]
            remedies.append(_deletion(shot, matte_id))
            yield Lost("pass", wanted, source, message, matte=matte_id, remedies=tuple(remedies))


def _deletion(shot: Shot, matte_id: str) -> Remedy:
    found = matte_removal(shot, matte_id)
    return Remedy("Delete the matte and what uses it" if found.with_it else "Delete the matte", found.edits)


def _names(shot: Shot, matte_id: str, matte: IdMatte, layer: IdLayer) -> Iterator[Lost]:
    """Names and patterns that mean nothing in the manifest; raw IDs and layers without a manifest are not judged."""
    if layer.names is None:
        return
    there, values = set(layer.names), set(layer.names.values())
    others = {str(name) for one in shot.mattes.values() if isinstance(one, IdMatte) and one.layer == layer.name for name in one.names}
    for name in matte.names:
        if isinstance(name, int) or RAW.match(name) or ids_of_names((name,), layer) & values:
            continue
        free = sorted(there - others)
        near = get_close_matches(name, free, PROPOSED, ALIKE)
        shown = matte.name or matte_id
        empty = " is empty" if len(matte.names) == 1 else ""
        message = f"matte {shown!r}{empty}: {name!r} is not in {matte.source!r}"
        remedies = [remedy for new in near for remedy in _renaming(matte_id, matte, name, new)]
        if len(matte.names) > 1:
            left = [one for one in matte.names if one != name]
            remedies.append(Remedy("Take the name out", (SetValue(op="set", path=("mattes", matte_id, "names"), value=left),)))
        else:
            remedies.append(_deletion(shot, matte_id))
        yield Lost("name", name, matte.source, message, matte=matte_id, remedies=tuple(remedies))


def _renaming(matte_id: str, matte: IdMatte, old: str, new: str) -> Iterator[Remedy]:
    """Point a matte to the new name of its object; one that was called by the old name can be called by the new one as well."""
    names = [new if one == old else one for one in matte.names]
    edit = SetValue(op="set", path=("mattes", matte_id, "names"), value=names)
    yield Remedy(f"Take {new}", (edit,))
    if (matte.name or matte_id) == old:
        yield Remedy(f"Take {new}, and call the matte so", (edit, SetValue(op="set", path=("mattes", matte_id, "name"), value=new)))


def _of_settings(shot: Shot, source: str, info: FrameInfo) -> Iterator[Lost]:
    backdrop = shot.sources[source].backdrop
    if backdrop is not None and backdrop.layer not in info.ids:
        message = f"the backdrop of {source!r} stays in: the ID layer {backdrop.layer!r} is not there"
        path = ("sources", source, "backdrop")
        remedies = [Remedy(f"Take {name}", (SetValue(op="set", path=(*path, "layer"), value=name),)) for name in info.ids]
        remedies = [*remedies[:PROPOSED], Remedy("Leave it in", (SetValue(op="set", path=path, value=None),))]
        yield Lost("ID layer", backdrop.layer, source, message, remedies=tuple(remedies))
    for name, setting in shot.sources[source].passes.items():
        if name in info.passes and setting.alpha is not None and not info.has(setting.alpha):
            own = SetValue(op="set", path=("sources", source, "passes", name, "alpha"), value=None)
            message = f"the alpha of {name!r} is the beauty's: the pass {setting.alpha!r} is not in {source!r}"
            yield Lost("alpha", setting.alpha, source, message, remedies=(Remedy("Choose none", (own,)),))


def _passes_like(info: FrameInfo, wanted: str, kinds: tuple[str, ...]) -> list[str]:
    """Passes that could stand in for one: of the kinds that are asked for, then those of a like name."""
    of_kind = [found.name for found in info.passes.values() if found.kind in kinds]
    return list(dict.fromkeys([*of_kind, *get_close_matches(wanted, list(info.passes), PROPOSED, ALIKE)]))[:PROPOSED]


def _alike_first(name: str, others: list[str]) -> list[str]:
    near = get_close_matches(name, others, PROPOSED, ALIKE)
    return [*near, *(one for one in others if one not in near)][:PROPOSED]
