"""Parameter models: one description gives validation, documentation, the page's control and the generated types."""

from collections.abc import Callable
from functools import cache
from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, model_serializer

Soft = tuple[float, float]


class Parameters(BaseModel):
    """A part of a shot document: immutable, finite, and unknown keys are refused with their path."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)

    @model_serializer(mode="wrap")
    def _without_defaults(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        """Only what was set and differs from the default is written, so documents stay short and stable."""
        written, defaults, own = handler(self), defaults_of(type(self)), vars(self)
        return {key: value for key, value in written.items() if key not in defaults or own[key] != defaults[key]}


@cache
def defaults_of(model: type[BaseModel]) -> dict[str, Any]:
    """What a field has where nothing was set, of those that are not written then."""
    return {
        key: field.get_default(call_default_factory=True)
        for key, field in model.model_fields.items()
        if not field.is_required() and field.json_schema_extra != {"always": True}
    }


def number(
    default: float | None, title: str, *, unit: str = "", low: float | None = None, high: float | None = None,
    soft: Soft = (0.0, 1.0), step: float = 0.01, formula: str = "", group: str = "",
) -> Any:  # fmt: skip
    """A numeric field: hard bounds are enforced, the soft range is what a slider shows."""
    extra: dict[str, Any] = {"soft": list(soft), "step": step}
    extra.update({key: value for key, value in (("unit", unit), ("formula", formula), ("group", group)) if value})
    return Field(default=default, title=title, ge=low, le=high, json_schema_extra=extra, validate_default=False)


def colour(default: tuple[float, float, float], title: str, *, formula: str = "", soft: Soft = (0.0, 2.0)) -> Any:
    """Three numbers of working-space linear RGB."""
    return Field(default=default, title=title, json_schema_extra={"widget": "colour", "soft": list(soft), "formula": formula})


def by_channel(default: tuple[float, float, float], title: str, *, formula: str = "", soft: Soft = (0.0, 2.0)) -> Any:
    """A number for each of red, green and blue that is no colour by itself."""
    return Field(default=default, title=title, json_schema_extra={"widget": "three", "soft": list(soft), "formula": formula})


def choice(default: str, title: str, description: str = "") -> Any:
    """One of a few words."""
    return Field(default, title=title, description=description or None)


FRAME = "frame"  # in place of a card: where a matte stands that follows none


class MatteRef(Parameters):
    """A use of a matte: by its stable id, possibly inverted, placed as a card is (`on`, its id) or as the frame.

    Without `on` it stands where the picture it is pulled from stands; what is drawn stays in the frame.
    """

    matte: str = Field(min_length=1)
    invert: bool = False
    on: str | None = None

    @model_serializer(mode="wrap")
    def _without_defaults(self, handler: Callable[[Any], dict[str, Any]]) -> Any:
        more = {**({"invert": True} if self.invert else {}), **({"on": self.on} if self.on is not None else {})}
        return {"matte": self.matte, **more} if more else self.matte


def _as_reference(value: Any) -> Any:
    return {"matte": value} if isinstance(value, str) else value


MatteReference = Annotated[MatteRef, BeforeValidator(_as_reference, json_schema_input_type=str | MatteRef)]
