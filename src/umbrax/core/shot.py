"""The shot document: typed models, canonical text, and what is refused."""

import hashlib
import json
import math
from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

from pydantic import BeforeValidator, Field, ValidationError, model_validator

from .errors import UmbraxError
from .joins import JOINS
from .mattes import MATTES, MatteParams
from .migrations import VERSION, migrate
from .parameters import MatteReference, Parameters, number
from .picture import Window
from .pictures import PICTURES, PictureParams
from .reading import KINDS
from .registry import Registry, unknown
from .timing import Keys, Number
from .treatments import TREATMENTS, TreatmentParams

LARGEST = 65536


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


class Format(Parameters):
    """The frame: size in pixels, rate, and the first and last frame."""

    width: int = Field(ge=1, le=LARGEST)
    height: int = Field(ge=1, le=LARGEST)
    pixel_aspect: float = Field(1.0, gt=0, le=10)
    fps: Annotated[float, Field(gt=0, le=1000)] | tuple[Annotated[int, Field(ge=1)], Annotated[int, Field(ge=1)]] = Field(
        24.0, json_schema_extra={"always": True}
    )
    first: int
    last: int

    @model_validator(mode="after")
    def _in_order(self) -> "Format":
        if self.last < self.first:
            raise ValueError(f"expected last at or after first, got {self.first} to {self.last}")
        if self.width * self.height > 400_000_000:
            raise ValueError(f"expected at most 400 million pixels, got {self.width} x {self.height}")
        return self

    @property
    def display(self) -> Window:
        return Window(0, 0, self.width, self.height)


class ColourSettings(Parameters):
    """Working space and view."""

    working: Literal["lin_rec709"] = "lin_rec709"
    view: Literal["srgb"] = "srgb"


def _pass_kind(value: str) -> str:
    if value not in KINDS:
        raise ValueError(unknown("pass kind", value, list(KINDS)))
    return value


class PassSetting(Parameters):
    """How a pass is read where the file misleads; what is not set is read as it is."""

    kind: Annotated[str, BeforeValidator(_pass_kind), Field(json_schema_extra={"enum": list(KINDS)})] | None = None
    alpha: str | None = Field(None, description="the pass whose alpha it takes")
    polarity: Literal["light", "shadow", "taken"] = Field("light", description="what white means in a shadow pass")
    repair: bool = Field(False, description="impossible pixels are taken from their neighbours")
    round: bool = Field(False, description="an index between whole numbers takes the commonest one around it")
    association: Literal["file", "multiply", "as_is"] = Field("file", description="whether colours are multiplied by alpha on reading")
    black: float = Field(0.0, ge=-1, lt=1)
    white: float = Field(1.0, gt=0, le=1000)
    shift: tuple[float, float] = Field((0.0, 0.0), description="pixels to the right and down by which it is moved")
    snap: bool = Field(False, description="a depth between near and far at an edge takes the nearer of the two")
    ray_focal: float | None = Field(None, gt=0, description="depth is along the ray; the focal length in pixels turns it to the axis")

    @model_validator(mode="after")
    def _in_order(self) -> "PassSetting":
        if self.white <= self.black:
            raise ValueError(f"expected white above black, got {self.black} and {self.white}")
        if max(abs(by) for by in self.shift) > 64:
            raise ValueError(f"expected a shift of at most 64 pixels, got {self.shift}")
        return self


class Backdrop(Parameters):
    """What was rendered in behind the objects is taken out on reading, and alpha is what the objects cover."""

    layer: str = Field(min_length=1, description="the ID layer whose objects stay")
    clean: str | None = Field(None, description="a pass that shows the backdrop alone; else it is spread inward from around the rims")


class Attached(Parameters):
    """A file, sequence or movie whose passes belong to a source although they came by themselves."""

    path: str = Field(min_length=1)
    offset: int = Field(0, description="the source's file frame = its own frame + offset")


class Source(Parameters):
    """An imported still, sequence or movie: `{frame:04d}` in the path stands for the file's frame number."""

    path: str = Field(min_length=1)
    colour: Literal["auto", "lin_rec709", "srgb_tx", "film_log", "raw"] = "auto"
    offset: int = Field(0, description="shot frame = file frame + offset")
    missing: Literal["error", "hold"] = "error"
    backdrop: Backdrop | None = None
    id_layers: tuple[str, ...] = Field((), description="names of ID layers whose channels are there but not named in the metadata")
    attached: dict[str, Attached] = Field(default_factory=dict, description="files whose passes belong to it, by the names they go by")
    passes: dict[str, PassSetting] = Field(default_factory=dict, description="settings of passes that are not read as they are")


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


class Shot(Parameters):
    """A whole shot: what the page edits, the store keeps and the command line reads."""

    umbrax: Literal[1] = Field(json_schema_extra={"always": True})
    name: str = Field(min_length=1)
    format: Format
    colour: ColourSettings = Field(default_factory=ColourSettings)
    sources: dict[str, Source] = Field(default_factory=dict)
    mattes: dict[str, AnyMatte] = Field(default_factory=dict)
    build: tuple[Card, ...] = ()

    def card(self, card_id: str) -> Card:
        for card in self.build:
            if card.id == card_id:
                return card
        raise UmbraxError("unknown-card", unknown("card", card_id, [card.id for card in self.build]))

    def matte(self, wanted: str) -> str:
        """The id of a matte given by id or by shown name."""
        if wanted in self.mattes:
            return wanted
        for matte_id, matte in self.mattes.items():
            if matte.name == wanted:
                return matte_id
        raise UmbraxError("unknown-matte", unknown("matte", wanted, list(self.mattes)))


def _refuse_constant(text: str) -> Any:
    raise UmbraxError("not-finite", f"{text} is not allowed in a shot document; use a finite number")


def _refuse_not_finite(value: Any, path: tuple[str, ...]) -> None:
    """At any depth, whatever the place is for: a number too large for a float arrives as infinity."""
    if isinstance(value, float) and not math.isfinite(value):
        raise UmbraxError("not-finite", f"{'.'.join(path)}: {value} is not a finite number; give one")
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list | tuple) else ()
    for key, item in items:
        _refuse_not_finite(item, (*path, str(key)))


def read_text(text: str) -> Shot:
    """A document from JSON text of any version; one clear line where it is refused."""
    try:
        data = json.loads(text, parse_constant=_refuse_constant)
    except (json.JSONDecodeError, RecursionError) as error:
        raise UmbraxError("not-json", f"not a shot document: {error}") from None
    return read_data(data)


def read_data(data: Any) -> Shot:
    """A document from JSON data of any version, references checked."""
    from .references import check

    if not isinstance(data, dict) or "umbrax" not in data:
        raise UmbraxError("not-a-shot", f'not a shot document: expected an object with "umbrax": {VERSION}')
    _refuse_not_finite(data, ())
    try:
        shot = Shot.model_validate(migrate(data))
    except ValidationError as error:
        raise UmbraxError("invalid", first_problem(error)) from None
    check(shot)
    return shot


def first_problem(error: ValidationError) -> str:
    """`build.2.treatments.0.size: input should be ...` for the first thing wrong, and how many more there are."""
    found = error.errors(include_url=False, include_context=False)
    first = found[0]
    path = ".".join(_named_parts(first["loc"]))
    text = first["msg"].removeprefix("Value error, ")
    if first["type"] == "extra_forbidden":
        text = "unknown key; remove it or correct its name"
    text = text[:1].lower() + text[1:]
    return f"{path}: {text}" + (f" (and {len(found) - 1} more)" if len(found) > 1 else "")


def _named_parts(place: tuple[int | str, ...]) -> Iterator[str]:
    """The parts of a place that a document has; pydantic also names which of several models it tried."""
    for index, part in enumerate(place):
        tried = part in _KIND_TAGS and (place[index - 1] == "picture" or (index > 1 and place[index - 2] in ("mattes", "treatments")))
        if not (tried or part in ("plain", "keys") or str(part).startswith(("float", "constrained-", "tuple["))):
            yield str(part)


_KIND_TAGS = (*PICTURES.kinds(), *MATTES.kinds(), *TREATMENTS.kinds())


def canonical(shot: Shot) -> str:
    """The one text of a document: sorted keys, no spaces, shortest floats."""
    return canonical_json(shot.model_dump(mode="json", by_alias=True, exclude_none=True))


def canonical_json(data: Any) -> str:
    return json.dumps(data, sort_keys=True, separators=(",", ":"), ensure_ascii=False, allow_nan=False)


def digest(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()


def keyed_frames(value: Any) -> set[int]:
    """The frames at which anything inside a model or container has a key."""
    if isinstance(value, Keys):
        return {key[0] for key in value.keys}
    if isinstance(value, Parameters):
        return set().union(*(keyed_frames(getattr(value, name)) for name in type(value).model_fields))
    if isinstance(value, dict):
        return set().union(*(keyed_frames(item) for item in value.values()))
    if isinstance(value, tuple | list):
        return set().union(*(keyed_frames(item) for item in value))
    return set()
