"""What in a shot depends on names that a new version of a render lost or renamed."""

from collections.abc import Iterable
from dataclasses import dataclass
from fnmatch import fnmatchcase

from ..checkup.base import Finding
from ..mattes.ids import IdMatte
from ..pictures.passes import PassPicture
from ..pictures.rebuild import RebuildPicture
from .references import matte_uses
from .shot import Shot


@dataclass(frozen=True)
class Affected:
    """A matte or a card, why, and where the matte is used."""

    kind: str
    id: str
    why: str
    uses: tuple[str, ...] = ()


def affected(shot: Shot, source: str, findings: Iterable[Finding]) -> list[Affected]:
    """Mattes that name lost or renamed objects, and cards whose passes are gone."""
    result = []
    for finding in findings:
        renamed = finding.measure.get("renamed", {})
        lost = [*finding.measure.get("lost", []), *renamed]
        if finding.pass_ is None:
            result += _cards(shot, source, set(lost))
            continue
        for matte_id, matte in shot.mattes.items():
            if not isinstance(matte, IdMatte) or matte.source != source or matte.layer != finding.pass_:
                continue
            hit = [name for name in lost if any(isinstance(wanted, str) and fnmatchcase(name, wanted) for wanted in matte.names)]
            if hit:
                told = ", ".join(f"{name} is now {renamed[name]}" if name in renamed else f"{name} is gone" for name in hit)
                result.append(Affected("matte", matte_id, told, tuple(matte_uses(shot, matte_id))))
    return result


def _cards(shot: Shot, source: str, lost: set[str]) -> list[Affected]:
    result = []
    for card in shot.cards():
        picture = card.picture
        used: set[str] = set()
        if isinstance(picture, PassPicture) and picture.source == source:
            used = {picture.pass_}
        elif isinstance(picture, RebuildPicture) and picture.source == source:
            used = set(picture.lights)
        if gone := sorted(used & lost):
            result.append(Affected("card", card.id, f"its pass {', '.join(gone)} is gone"))
    return result
