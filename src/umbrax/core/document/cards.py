"""The steps of a build: element cards, treat cards, and what they may hold."""

from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

from pydantic import BeforeValidator, Field, model_validator

from ..mattes import MATTES, MatteParams
from ..pictures import PICTURES, PictureKind, PictureParams
from ..plan.steps import Planner, Step
from ..registry import Registry, unknown
from ..treatments import TREATMENTS, TreatmentParams
from .joining import BlendIn, JoinKind
from .parameters import MatteReference, Parameters, number
from .placing import Placing
from .timing import Number, NumberOrNone
from .tucking import Tuck


class BundlePicture(PictureParams):
    """Cards that are one picture: what is below them is only what is inside."""

    kind: Literal["bundle"]
    build: "tuple[Card, ...]" = Field((), json_schema_extra={"always": True})


def _bundle(planner: Planner, params: BundlePicture, scale: int, join: str) -> Step:
    return planner.build_picture(params.build, scale)


PICTURES.register(PictureKind("bundle", "Bundle", BundlePicture, _bundle, lambda _: ()))


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

    AnyPicture = _one_of(PICTURES)  # the bundle among them, which holds cards that hold any of them
    AnyMatte = _one_of(MATTES)
    AnyTreatment = _one_of(TREATMENTS)


class Card(Parameters):
    """One step of the build: an element card adds a picture, a treat card changes the picture so far."""

    id: str = Field(min_length=1)
    name: str | None = None
    note: str | None = None
    enabled: bool = True
    treat: bool = False
    picture: AnyPicture | None = None
    cut: tuple[MatteReference, ...] = ()
    placing: Placing = Field(default_factory=Placing)
    follow: str | None = Field(None, description="the card whose placing this one moves with")
    join: JoinKind = "over"
    blend_in: BlendIn | None = Field(None, title="Blend in", description="linear light or sRGB values; without it the join's own")
    tuck: tuple[Tuck, ...] = ()
    opacity: Number = number(1.0, "Opacity", low=0, high=1, formula="of the card where it meets the picture so far")
    depth: NumberOrNone = number(None, "Depth", low=1e-6, high=1e9, soft=(0.1, 50), step=0.05, formula="of all of it; its pass without one")
    treatments: tuple[AnyTreatment, ...] = ()

    @model_validator(mode="after")
    def _one_or_the_other(self) -> "Card":
        if self.treat and any(getattr(self, name) != field.get_default(call_default_factory=True) for name, field in _OF_ELEMENTS.items()):
            raise ValueError("a treat card has no picture, cut, placing, join or tuck; make it an element card or remove them")
        if self.tuck and self.join != "over":
            raise ValueError(f"a tucked card is joined by over, and this one by {self.join}; take one of them away")
        alone = [one.kind for one in self.treatments if self.treat and TREATMENTS.get(one.kind).elements_only]
        if alone:
            raise ValueError(f"{alone[0]} is of an element before what lies behind it, and a treat card has no element; remove it")
        if not self.treat and self.picture is None:
            raise ValueError("expected a picture, or treat: true for a treat card")
        return self

    @property
    def shown_name(self) -> str:
        return self.name or self.id

    def treatment_name(self, treatment_id: str) -> str:
        """What a treatment of the card is called: its own name, else that of its kind."""
        found = next((one for one in self.treatments if one.id == treatment_id), None)
        return "a treatment" if found is None else found.name or TREATMENTS.get(found.kind).title.lower()

    def inside(self) -> "tuple[Card, ...]":
        """The cards of a bundle; none of any other card."""
        return self.picture.build if isinstance(self.picture, BundlePicture) else ()

    def with_inside(self) -> "Iterator[Card]":
        """This card, and those inside it at any depth, backmost first."""
        yield self
        for card in self.inside():
            yield from card.with_inside()


BundlePicture.model_rebuild()
_OF_ELEMENTS = {name: Card.model_fields[name] for name in ("picture", "cut", "placing", "follow", "join", "blend_in", "tuck", "depth")}
