"""Facts about mattes and IDs: areas, leaks, sums, which IDs a frame holds, and what people call them."""

from collections.abc import Callable
from typing import Annotated

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field, StringConstraints

from umbrax.core.document.bakes import unlink_bake
from umbrax.core.document.removals import Removal, matte_removal
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.mattes.combined import crossed_layers
from umbrax.core.mattes.crossing import border_leak
from umbrax.core.mattes.hashing import id_of_name
from umbrax.core.mattes.ids import RAW
from umbrax.core.mattes.trust import largest_part, part_of, sums_told, trust
from umbrax.core.plan.evaluate import evaluate
from umbrax.core.plan.planner import ShotPlanner
from umbrax.core.plan.reader import IdLayer
from umbrax.core.plan.times import shown_at
from umbrax.core.touch import areas
from umbrax.media.reader import MediaReader
from umbrax.store.display_names import display_names_of, set_display_name

from .shots import ShotPath, answered
from .sources import RemovalData, removal_data
from .state import state

api = APIBlueprint("matte_facts", __name__, url_prefix="/api", abp_tags=[Tag(name="mattes")])


class AreasQuery(BaseModel):
    revision: int
    frame: int
    names: list[str] = Field(default_factory=list, description="ids of mattes; all without any")
    by_the_way: bool = Field(False, description="do not decode a large frame for it: then there are no areas in the answer")


class BorderData(BaseModel):
    """How much of a crossed matte is only borders that its parts share; null where it crosses no layers of one source."""

    leak: float | None


class Areas(BaseModel):
    """Of the frame, 0..1, by matte; null where it cannot be pulled on this frame. None of them where that has to wait."""

    frame: int
    areas: dict[str, float | None]


class TrustQuery(BaseModel):
    revision: int
    frame: int
    names: list[str] = Field(min_length=1, max_length=64, description="one matte, or several whose sum is looked at")
    x: int | None = None
    y: int | None = None


class TrustData(BaseModel):
    """Of one matte its area of the frame, and leak and hole about a part; of several how much they cover once, over and under."""

    area: float
    leak: float | None = None
    hole: float | None = None
    once: float | None = None
    over: float | None = None
    under: float | None = None


class RemovalQuery(BaseModel):
    revision: int
    matte: str


class MatteQuery(RemovalQuery):
    frame: int


class IdsQuery(BaseModel):
    revision: int
    frame: int
    source: str
    layer: str


class IdData(BaseModel):
    id: str
    name: str = Field(description="as the manifest has it, else # and the ID")
    area: float = Field(description="of the frame, 0..1")


class IdList(BaseModel):
    ids: list[IdData]


class NameList(BaseModel):
    names: list[str] = Field(description="of the layer's manifest, sorted; none where it has none")


class DisplayNames(BaseModel):
    """All display names of the show, by # and the ID."""

    display_names: dict[str, str]


class DisplayNameOrder(BaseModel):
    """`id` is a name as the file has it, or # and eight hexadecimal digits; without a new name it goes by the old one again."""

    id: str = Field(min_length=1, max_length=1000)
    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)] = ""


@api.get("/shots/<int:shot_id>/areas", responses={200: Areas})
def matte_areas(path: ShotPath, query: AreasQuery) -> Response:
    """How much of the frame mattes cover on one frame; those that are pulled from one layer are pulled at once."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    reader = shared.reader(path.shot_id, shot)
    planner = ShotPlanner(shot, query.frame, reader)
    names = query.names or list(shot.mattes)
    found: dict[str, float | None] = {}
    if query.by_the_way and reader.takes_long(query.frame):
        return answered(Areas(frame=query.frame, areas=found))
    with shared.gate.enter("", 0, "prefetch") as ticket:
        try:
            found.update(shared.engine.areas(planner, names, watch=ticket.watch))
        except UmbraxError:
            found = {name: _area(planner, name, ticket.watch) for name in names}
    response = answered(Areas(frame=query.frame, areas=found))
    if None not in found.values():  # a file may still come
        response.cache_control.max_age = 86400
        response.cache_control.private = True
    return response


def _area(planner: ShotPlanner, name: str, watch: Callable[[], None]) -> float | None:
    """One by itself, where one of several cannot be pulled."""
    try:
        return state().engine.areas(planner, [name], watch=watch)[name]
    except UmbraxError as error:
        if error.code == "unknown-matte":
            raise
        return None


@api.get("/shots/<int:shot_id>/trust", responses={200: TrustData})
def matte_trust(path: ShotPath, query: TrustQuery) -> Response:
    """Whether a matte can be trusted about the part under a point, the largest one without a point; of several, their sum."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    planner, display = ShotPlanner(shot, query.frame, shared.reader(path.shot_id, shot)), shot.format.display
    with shared.gate.enter("", 0, "thumbnail") as ticket:
        if len(query.names) > 1:
            total, wanted = shared.engine.sums(planner, tuple(query.names), display, watch=ticket.watch)
            told = sums_told(total, wanted)
            return answered(TrustData(area=float(total.mean()), once=told.once, over=told.over, under=told.under))
        m = shared.engine.coverage(planner, query.names[0], display, watch=ticket.watch)
        part = largest_part(m) if query.x is None or query.y is None else part_of(m, query.x, query.y)
        found = trust(m, part)
    lost = None if part is None else found.leak
    return answered(TrustData(area=found.area / display.area, leak=lost, hole=found.hole if part is not None else None))


@api.get("/shots/<int:shot_id>/borders", responses={200: BorderData})
def matte_borders(path: ShotPath, query: MatteQuery) -> Response:
    """What of an object crossed with a material is nothing but a rim where others of either stand side by side."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    planner, display = ShotPlanner(shot, query.frame, shared.reader(path.shot_id, shot)), shot.format.display
    parts = crossed_layers(shot.mattes, shot.matte(query.matte))
    if parts is None:
        return answered(BorderData(leak=None))
    with shared.gate.enter("", 0, "thumbnail") as ticket:
        planes = [evaluate(planner.live_planes(part), display, shared.engine.cache, watch=ticket.watch).pixels for part in parts]
    return answered(BorderData(leak=border_leak([p[..., 0] for p in planes], [p[..., 2] for p in planes])))


@api.get("/shots/<int:shot_id>/removal", responses={200: RemovalData})
def removal(path: ShotPath, query: RemovalQuery) -> Response:
    """The edits that delete a matte with what uses it, and what that is."""
    return answered(removal_data(matte_removal(state().shot(path.shot_id, query.revision), query.matte)))


@api.get("/shots/<int:shot_id>/unbaking", responses={200: RemovalData})
def unbaking(path: ShotPath, query: RemovalQuery) -> Response:
    """The edits after which a matte is pulled again from what it is made of."""
    shot = state().shot(path.shot_id, query.revision)
    edits = unlink_bake(shot, (shot.matte(query.matte),))
    return answered(removal_data(Removal(tuple(edits), ())))


@api.get("/shots/<int:shot_id>/id-names", responses={200: NameList})
def id_names(path: ShotPath, query: IdsQuery) -> Response:
    """The names that a layer's manifest has on a frame: of a whole scene, whether they are seen or not."""
    return answered(NameList(names=sorted(_layer_at(path, query)[-1].names or ())))


def _layer_at(path: ShotPath, query: IdsQuery) -> tuple[Shot, MediaReader, int, IdLayer]:
    """A layer of a source of a shot, with what reads it and at which of its frames."""
    shot = state().shot(path.shot_id, query.revision)
    reader = state().reader(path.shot_id, shot)
    frame = shown_at(shot, query.source, query.frame)
    return shot, reader, frame, reader.describe(query.source, frame).layer(query.layer)


@api.get("/shots/<int:shot_id>/ids", responses={200: IdList})
def ids_present(path: ShotPath, query: IdsQuery) -> Response:
    """The IDs of a layer on a frame, the largest first: those without a manifest, too."""
    shot, reader, frame, layer = _layer_at(path, query)
    names = {value: name for name, value in (layer.names or {}).items()}
    with state().gate.enter("", 0, "thumbnail"):
        found = areas(*reader.ranks(query.source, frame, layer.name, layer.window))
    whole = shot.format.display.area
    listed = sorted(found.items(), key=lambda one: -one[1])
    return answered(IdList(ids=[IdData(id=f"{i:08x}", name=names.get(i, f"#{i:08x}"), area=area / whole) for i, area in listed]))


@api.post("/shots/<int:shot_id>/display-names", responses={200: DisplayNames})
def name_id(path: ShotPath, body: DisplayNameOrder) -> Response:
    """Give an ID a display name for the whole show, or take it away; documents keep the name of the file."""
    raw = RAW.match(body.id)
    value = int(raw[1], 16) if raw else id_of_name(body.id)
    set_display_name(state().database, path.shot_id, value, body.name or None)
    names = {f"#{one:08x}": name for one, name in display_names_of(state().database, path.shot_id).items()}
    return answered(DisplayNames(display_names=names))
