"""Replacing a source by another file: versions of it that lie beside, and what a change would mean."""

from pathlib import Path
from typing import Any

from flask.wrappers import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from umbrax.core.checkup import Finding
from umbrax.core.document.adding import fitting_offset
from umbrax.core.document.edits import Edit, SetValue, apply
from umbrax.core.document.shot import Shot
from umbrax.core.errors import UmbraxError
from umbrax.core.mattes.ids import IdMatte
from umbrax.media.examining import sequence_of, sequence_of_found, sequence_of_source
from umbrax.media.finding import Found
from umbrax.media.versions import compare_files, number_of, versions_beside
from umbrax.render.lost import find_lost

from .browsing import pictures_at
from .checking import FindingData
from .new_sources import source_data
from .shots import ShotPath, answered
from .sources import LostData, SourceQuery, lost_data
from .state import state

api = APIBlueprint("versions", __name__, url_prefix="/api", abp_tags=[Tag(name="versions")])


class CompareQuery(SourceQuery):
    path: str = Field(description="the other file, as listed")


class VersionData(BaseModel):
    number: int
    path: str
    frames: int


class Versions(BaseModel):
    number: int
    versions: list[VersionData]


class RenamedData(BaseModel):
    """A matte whose object goes by another name in the other file, and the edits that follow it."""

    matte: str
    old: str
    new: str
    edits: list[dict[str, Any]]
    naming: list[dict[str, Any]] = Field(description="edits that give the matte the new name too, where it had the old one")


class Comparison(BaseModel):
    """What is different, the edits that replace the source, the mattes that can follow, and what is lost if they all do."""

    findings: list[FindingData]
    edits: list[dict[str, Any]]
    renamed: list[RenamedData]
    lost: list[LostData]


@api.get("/shots/<int:shot_id>/versions", responses={200: Versions})
def list_versions(path: ShotPath, query: SourceQuery) -> Response:
    """Other versions of a source that lie beside it."""
    shared = state()
    reader = shared.reader(path.shot_id, shared.shot(path.shot_id, query.revision))
    place = reader.place_of(query.source)
    beside = versions_beside(place, reader.roots) if place.parent.is_dir() else []
    found = [VersionData(number=number_of(one), path=str(one), frames=len(sequence_of(str(one)).frames)) for one in beside]
    return answered(Versions(number=number_of(place), versions=found))


@api.get("/shots/<int:shot_id>/versions/compare", responses={200: Comparison})
def compare_version(path: ShotPath, query: CompareQuery) -> Response:
    """What another file lost, gained and renamed, and which mattes and cards that touches."""
    shared = state()
    shot = shared.shot(path.shot_id, query.revision)
    roots = shared.roots(path.shot_id)
    reader = shared.engine.reader(shot, roots)
    place = reader.roots.check(Path(query.path))
    found = next(iter(pictures_at(place, reader.roots, {})), None) if place.parent.is_dir() else None
    if found is None or found.info is None:
        told = found.problem if found is not None and found.problem else f"there is no picture {place.name!r}"
        raise UmbraxError("bad-version", f"{told}; choose another one")
    with shared.gate.enter("", 0, "thumbnail"):
        compared = compare_files(query.source, sequence_of_source(reader, query.source), sequence_of_found(found), shared.engine.copies)
        replacing = _replacing(shot, query.source, found, reader.roots.folders[0], compared.offset)
        renamed = [one for finding in compared.findings for one in _renamed(shot, query.source, finding)]
        after = apply(shot, [*replacing, *(edit for one in renamed for edit in one[1])])
        lost = [one for one in find_lost(after, shared.engine.reader(after, roots)) if one.source == query.source]
    return answered(
        Comparison(
            findings=[FindingData(**f.payload()) for f in compared.findings], edits=_dumped(replacing), lost=[lost_data(one) for one in lost],
            renamed=[one[0] for one in renamed],
        )
    )  # fmt: skip


def _replacing(shot: Shot, source: str, found: Found, folder: Path, offset: int) -> list[Edit]:
    """Path, frames, and the files of its passes where it comes in several: those of the old one go with the old one."""
    data, path = source_data(found, folder, {}), ("sources", source)
    edits: list[Edit] = [SetValue(op="set", path=(*path, "path"), value=data["path"])]
    if "attached" in data:
        edits.append(SetValue(op="set", path=(*path, "attached"), value=data["attached"]))
    before = shot.sources[source].offset
    after = fitting_offset(shot, found.frames, before + offset)
    if after != before:
        edits.append(SetValue(op="set", path=(*path, "offset"), value=after))
    return edits


def _renamed(shot: Shot, source: str, finding: Finding) -> list[tuple[RenamedData, list[Edit]]]:
    """Mattes that name an object which covers the same pixels under another name."""
    found = []
    names: dict[str, str] = finding.measure.get("renamed", {})
    for old, new in names.items():
        for matte_id, matte in shot.mattes.items():
            if not isinstance(matte, IdMatte) or (matte.source, matte.layer) != (source, finding.pass_) or old not in matte.names:
                continue
            value = [names.get(str(name), name) for name in matte.names]
            edits: list[Edit] = [SetValue(op="set", path=("mattes", matte_id, "names"), value=value)]
            called = [SetValue(op="set", path=("mattes", matte_id, "name"), value=new)] if (matte.name or matte_id) == old else []
            found.append((RenamedData(matte=matte_id, old=old, new=new, edits=_dumped(edits), naming=_dumped(called)), edits))
    return found


def _dumped(edits: list[Edit] | list[SetValue]) -> list[dict[str, Any]]:
    return [edit.model_dump(mode="json") for edit in edits]
