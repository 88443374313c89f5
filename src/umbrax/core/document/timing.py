"""Animated values: a plain value, or keys with an ease that belongs to the segment leaving each key."""

import hashlib
import math
from bisect import bisect_right
from itertools import pairwise
from typing import Annotated, Any, Literal, TypeVar

from pydantic import (
    BaseModel,
    ConfigDict,
    Field,
    GetCoreSchemaHandler,
    GetJsonSchemaHandler,
    model_serializer,
    model_validator,
)
from pydantic_core import CoreSchema, core_schema

from .bounds import within_bounds

FARTHEST = 99_999_999
Frame = Annotated[int, Field(ge=-FARTHEST, le=FARTHEST)]
Value = float | tuple[float, ...]
Way = Annotated[float, Field(ge=-100, le=100)]  # of an ease; below 0 and above 1 it overshoots
Ease = Literal["hold", "linear", "smooth"] | tuple[Literal["bezier"], Way, Way, Way, Way]
Key = tuple[Frame, Any, Ease]


def bezier_ease(u: float, x1: float, y1: float, x2: float, y2: float) -> float:
    """How far along a value is at the time fraction u of a segment, for the cubic Bezier (0,0) (x1,y1) (x2,y2) (1,1).

    x(t) is monotone because x1 and x2 lie in 0..1, so bisection always finds the one t.

    >>> round(bezier_ease(0.5, 0.0, 0.0, 1.0, 1.0), 9)
    0.5
    """
    low, high = 0.0, 1.0
    for _ in range(60):
        t = (low + high) / 2
        x = 3 * (1 - t) ** 2 * t * x1 + 3 * (1 - t) * t * t * x2 + t**3
        low, high = (t, high) if x < u else (low, t)
    t = (low + high) / 2
    return 3 * (1 - t) ** 2 * t * y1 + 3 * (1 - t) * t * t * y2 + t**3


def eased(u: float, ease: Ease) -> float:
    """The fraction of the way from one key's value to the next at the time fraction u; smooth is 3u^2 - 2u^3."""
    if ease == "hold":
        return 0.0
    if ease == "linear":
        return u
    if ease == "smooth":
        return u * u * (3 - 2 * u)
    return bezier_ease(u, *(float(number) for number in ease[1:]))


class Keys(BaseModel):
    """`{"keys": [[frame, value, ease], ...]}`: the first and last value hold outside."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    keys: tuple[Key, ...] = Field(min_length=1)

    @model_validator(mode="after")
    def _ordered(self) -> "Keys":
        frames = [key[0] for key in self.keys]
        if any(later <= earlier for earlier, later in pairwise(frames)):
            raise ValueError("expected keys in rising order of frames, one a frame")
        for key in self.keys:
            if isinstance(key[2], tuple) and not (0 <= key[2][1] <= 1 and 0 <= key[2][3] <= 1):
                raise ValueError("expected x1 and x2 of a bezier ease within 0 to 1")
        return self

    @model_serializer
    def _plain(self) -> dict[str, Any]:
        def listed(value: Any) -> Any:
            return list(value) if isinstance(value, tuple) else value

        return {"keys": [[frame, listed(value), listed(ease)] for frame, value, ease in self.keys]}

    def with_key(self, frame: int, value: Any) -> "Keys":
        """The same with a value at a frame; a new key eases smoothly to the next."""
        ease: Ease = next((key[2] for key in self.keys if key[0] == frame), "smooth")
        return Keys(keys=tuple(sorted((*(key for key in self.keys if key[0] != frame), (frame, value, ease)), key=lambda key: key[0])))

    def at(self, frame: float) -> Any:
        """The value at a frame; between frames too, for motion within a frame."""
        index = bisect_right([key[0] for key in self.keys], frame) - 1
        if index < 0:
            return self.keys[0][1]
        if index == len(self.keys) - 1:
            return self.keys[-1][1]
        (start, a, ease), (end, b, _) = self.keys[index], self.keys[index + 1]
        way = eased((frame - start) / (end - start), ease)
        if isinstance(a, tuple):
            return tuple(x + (y - x) * way for x, y in zip(a, b, strict=True))
        return a + (b - a) * way


class Flicker(BaseModel):
    """`{"flicker": 0.4, "of": 1.0, "every": 3, "seed": 1}`: a number, or keys of one, that trembles like a flame.

    of x (1 - flicker n), n between 0 and 1 by chance every so many frames and smoothly in between: value noise. The same seed gives
    the same at every frame.
    """

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    flicker: float = Field(ge=0, le=1)
    of: Any
    every: float = Field(3.0, ge=1e-3, le=10000)
    seed: int = Field(1, ge=0, le=2**31 - 1)

    def at(self, frame: float) -> Any:
        base = self.of.at(frame) if isinstance(self.of, Keys) else self.of
        place = math.floor(frame / self.every)
        way = eased(frame / self.every - place, "smooth")
        noise = by_chance(self.seed, place) * (1 - way) + by_chance(self.seed, place + 1) * way
        return base * (1 - self.flicker * noise)


def by_chance(seed: int, place: int) -> float:
    """A number in 0..1 for a whole number, the same on every machine."""
    return int.from_bytes(hashlib.blake2b(f"{seed} {place}".encode(), digest_size=6).digest(), "big") / 2**48


class Animated:
    """Marks a field whose document value may be `Keys`, or a number that flickers; bounds hold for each key's value.

    Type checkers see the plain type, since everything that computes gets the model resolved by `at_frame`.
    """

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        plain = handler(source)
        keyed = core_schema.no_info_after_validator_function(self._check_with(plain), handler.generate_schema(Keys))
        if source not in (float, float | None):
            return core_schema.tagged_union_schema({"plain": plain, "keys": keyed}, discriminator=_form)
        trembling = core_schema.no_info_after_validator_function(self._check_of(plain), handler.generate_schema(Flicker))
        return core_schema.tagged_union_schema({"plain": plain, "keys": keyed, "flicker": trembling}, discriminator=_form)

    def _check_of(self, plain: CoreSchema) -> Any:
        from pydantic_core import SchemaValidator

        check_keys, validator = self._check_with(plain), SchemaValidator(_not_none(plain))

        def check(value: Flicker) -> Flicker:
            of = value.of
            checked = check_keys(Keys.model_validate(of)) if isinstance(of, Keys | dict) else validator.validate_python(of)
            return value.model_copy(update={"of": checked})

        return check

    def _check_with(self, plain: CoreSchema) -> Any:
        from pydantic_core import SchemaValidator

        validator: list[SchemaValidator] = []

        def check(keys: Keys) -> Keys:
            if not validator:
                validator.append(SchemaValidator(_not_none(plain)))
            return Keys.model_construct(keys=tuple((frame, validator[0].validate_python(value), ease) for frame, value, ease in keys.keys))

        return check

    def __get_pydantic_json_schema__(self, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        described = handler(schema)
        described["animated"] = True
        return described


def _not_none(schema: Any) -> Any:
    """What a key's value has to be: that of a number that may be left out is there."""
    return schema["schema"] if schema["type"] == "nullable" else schema


def _form(value: Any) -> str:
    """In which of its forms a number is written."""
    if isinstance(value, Flicker) or (isinstance(value, dict) and "flicker" in value):
        return "flicker"
    return "keys" if isinstance(value, Keys | dict) else "plain"


ModelType = TypeVar("ModelType", bound=BaseModel)
PLAIN = {float, int, str, bool, type(None)}  # most of what a document holds


def at_frame(model: ModelType, frame: float) -> ModelType:
    """The model with every animated value, at any depth, replaced by its plain value at this frame."""
    update: dict[str, Any] = {}
    for name, value in vars(model).items():
        resolved = _resolved(value, frame)
        if resolved is not value:
            update[name] = within_bounds(type(model), name, resolved)
    return model.model_copy(update=update) if update else model


def _resolved(value: Any, frame: float) -> Any:
    if type(value) in PLAIN:
        return value
    if isinstance(value, Keys | Flicker):
        return value.at(frame)
    if isinstance(value, BaseModel):
        return at_frame(value, frame)
    if isinstance(value, dict):
        items = {key: _resolved(item, frame) for key, item in value.items()}
        return items if any(items[key] is not value[key] for key in items) else value
    if isinstance(value, tuple | list):
        parts = type(value)(_resolved(item, frame) for item in value)
        return parts if any(part is not item for part, item in zip(parts, value, strict=True)) else value
    return value


Number = Annotated[float, Animated()]
NumberOrNone = Annotated[float | None, Animated()]  # of which a key always has a value
Place = Annotated[float, Field(ge=-1e6, le=1e6)]  # pixels
Point = Annotated[tuple[Place, Place], Animated()]
Level = Annotated[float, Field(ge=-1e6, le=1e6)]  # of a channel: far beyond, sums of it are no numbers any more
Colour = Annotated[tuple[Level, Level, Level], Animated()]


def keyed_frames(value: Any) -> set[int]:
    """The frames at which anything inside a model or container has a key."""
    if isinstance(value, Keys):
        return {key[0] for key in value.keys}
    if isinstance(value, Flicker):
        return keyed_frames(value.of)
    if isinstance(value, BaseModel):
        return set().union(*map(keyed_frames, vars(value).values()))
    if isinstance(value, dict):
        return set().union(*(keyed_frames(item) for item in value.values()))
    if isinstance(value, tuple | list):
        return set().union(*(keyed_frames(item) for item in value))
    return set()
