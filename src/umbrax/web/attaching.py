"""Attaching passes and mattes that came by themselves to a source: what each file would be called and read as."""

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.media.attaching import propose
from umbrax.media.finding import Found
from umbrax.media.places import frames_at

from .browsing import chosen_pictures, nothing_found, path_from
from .shots import ShotPath, answered
from .state import state

api = APIBlueprint("attaching", __name__, url_prefix="/api", abp_tags=[Tag(name="take-in")])


class AttachQuestion(BaseModel):
    """Which files are to go with which source."""

    revision: int
    source: str
    paths: list[str] = Field(min_length=1, max_length=200)


class ProposalData(BaseModel):
    """`doubt` says what does not fit; the file can be attached all the same."""

    path: str
    file: str
    name: str
    kind: str
    why: str
    by_value: bool = Field(description="the kind was seen in the values, so it has to be set")
    offset: int
    frames: int
    passes: int
    doubt: str | None


class Proposals(BaseModel):
    proposals: list[ProposalData]


@api.post("/shots/<int:shot_id>/attachable", responses={200: Proposals})
def attachable(path: ShotPath, body: AttachQuestion) -> Response:
    """Names, kinds and offsets for files that are to be attached to a source; nothing is changed yet."""
    shared = state()
    shot = shared.shot(path.shot_id, body.revision)
    roots = shared.roots(path.shot_id)
    reader = shared.engine.reader(shot, roots)
    place = reader.place_of(body.source)
    frames = frames_at(place)
    number = frames[0] if frames else 0
    main = Found(place, body.source, frames, reader.files_of(body.source).at(number, shared.engine.copies).main)
    with shared.gate.enter("", 0, "thumbnail"):
        found = [part for one in chosen_pictures(body.paths) for part in (one, *one.attached.values())]
        proposals = propose(found, main, shared.engine.copies)
    if not proposals:
        raise nothing_found(found, "attached")
    folder = reader.roots.folders[0]
    return answered(
        Proposals(
            proposals=[
                ProposalData(
                    path=path_from(folder, one.found.path), file=one.found.path.name, name=one.name, kind=one.kind, why=one.why,
                    by_value=one.by_value, offset=one.offset, frames=len(one.found.frames) or 1,
                    passes=len(one.found.info.passes) if one.found.info else 0, doubt=one.doubt,
                )
                for one in proposals
            ]
        )
    )  # fmt: skip
