"""The steps of a build: element cards, treat cards, and what they may hold."""

from typing import TYPE_CHECKING, Annotated, Any, Union

from pydantic import BeforeValidator, Field, model_validator

from ..joins import JOINS
from ..mattes import MATTES, MatteParams
from ..pictures import PICTURES, PictureParams
from ..registry import Registry, unknown
from ..treatments import TREATMENTS, TreatmentParams
from .parameters import MatteReference, Parameters, number
from .timing import Number


def _canonical_kind(registry: Registry[Any]) -> BeforeValidator:
    def check(value: Any) -> Any:
        if isinstance(value, dict) and isinstance(value.get("kind"), str):
            kind = registry.canonical(value["kind"])
            if kind not in registry.kinds():
                raise ValueError(unknown(registry.noun, kind, registry.kinds()))
            return {**value, "kind": kind}
        return value

    return BeforeValidator(check)


if TYPE_CHECKING:
    AnyPicture = PictureParams
    AnyMatte = MatteParams
    AnyTreatment = TreatmentParams
else:

    def _one_of(registry: Registry[Any]) -> Any:
        models = tuple(entry.params for entry in registry)
        return Annotated[Union[models], Field(discriminator="kind"), _canonical_kind(registry)]  # noqa: UP007

    AnyPicture = _one_of(PICTURES)
    AnyMatte = _one_of(MATTES)
    AnyTreatment = _one_of(TREATMENTS)


def _join_kind(value: str) -> str:
    kind = JOINS.canonical(value)
    if kind not in JOINS.kinds():
        raise ValueError(unknown("join", value, JOINS.kinds()))
    return kind


JoinKind = Annotated[str, BeforeValidator(_join_kind), Field(json_schema_extra={"enum": JOINS.kinds()})]


class Card(Parameters):
    """One step of the build: an element card adds a picture, a treat card changes the picture so far."""

    id: str = Field(min_length=1)
    name: str | None = None
    note: str | None = None
    enabled: bool = True
    treat: bool = False
    picture: AnyPicture | None = None
    cut: tuple[MatteReference, ...] = ()
    join: JoinKind = "over"
    opacity: Number = number(1.0, "Opacity", low=0, high=1, formula="of the card where it meets the picture so far")
    treatments: tuple[AnyTreatment, ...] = ()

    @model_validator(mode="after")
    def _one_or_the_other(self) -> "Card":
        if self.treat and (self.picture is not None or self.cut or self.join != "over"):
            raise ValueError("a treat card has no picture, cut or join; make it an element card or remove them")
        if not self.treat and self.picture is None:
            raise ValueError("expected a picture, or treat: true for a treat card")
        return self

    @property
    def shown_name(self) -> str:
        return self.name or self.id
