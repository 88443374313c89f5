"""Replacing a source by another version of it: which there are, and what the change would mean."""

from pathlib import Path

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.document.affected import affected
from umbrax.media.examining import sequence_of, sequence_of_source
from umbrax.media.versions import compare_files, number_of, versions_beside

from .checking import FindingData
from .shots import ShotPath, answered
from .state import state
from .takein import inside_roots

api = APIBlueprint("versions", __name__, url_prefix="/api", abp_tags=[Tag(name="versions")])


class VersionsQuery(BaseModel):
    revision: int
    source: str


class CompareQuery(VersionsQuery):
    path: str = Field(description="the other version, as listed")


class VersionData(BaseModel):
    number: int
    path: str
    frames: int


class Versions(BaseModel):
    number: int
    versions: list[VersionData]


class AffectedData(BaseModel):
    kind: str
    id: str
    why: str
    uses: list[str]


class Comparison(BaseModel):
    """`path` is what the source's path would be."""

    path: str
    findings: list[FindingData]
    affected: list[AffectedData]


@api.get("/shots/<int:shot_id>/versions", responses={200: Versions})
def list_versions(path: ShotPath, query: VersionsQuery) -> Response:
    """Other versions of a source that lie beside it."""
    shared = state()
    reader = shared.reader(path.shot_id, shared.shot(path.shot_id, query.revision))
    place = reader.place_of(query.source)
    found = [VersionData(number=number_of(one), path=str(one), frames=len(sequence_of(str(one)).frames)) for one in versions_beside(place)]
    return answered(Versions(number=number_of(place), versions=found))


@api.get("/shots/<int:shot_id>/versions/compare", responses={200: Comparison})
def compare_version(path: ShotPath, query: CompareQuery) -> Response:
    """What another version lost, gained and renamed, and which mattes and cards that touches."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    roots = shared.roots(path.shot_id)
    reader = shared.engine.reader(shot, roots)
    place = inside_roots(query.path, roots)
    findings = compare_files(query.source, sequence_of_source(reader, query.source), place, shared.engine.copies)
    touched = [AffectedData(kind=a.kind, id=a.id, why=a.why, uses=list(a.uses)) for a in affected(shot, query.source, findings)]
    root = Path(roots[0]).resolve()
    shown = str(place.relative_to(root)) if place.is_relative_to(root) else str(place)
    return answered(Comparison(path=shown, findings=[FindingData(**f.payload()) for f in findings], affected=touched))
