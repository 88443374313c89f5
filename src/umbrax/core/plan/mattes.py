"""Mattes of a document at a frame -> the steps that pull, refine, combine or read them, each with a content key."""

from abc import ABC, abstractmethod
from typing import Any

import numpy as np

from ..document.parameters import MatteRef
from ..document.shot import Shot
from ..document.timing import at_frame
from ..errors import Where
from ..mattes import MATTES, Refine
from ..mattes.baked import baked
from ..mattes.combined import CombinedMatte, as_set
from ..mattes.ids import IdMatte, ids_of_names
from ..mattes.refining import inverted_edge, refined
from ..picture import Picture
from .read import Way, read_step, reduced_step
from .reader import FrameInfo, PassReader
from .steps import Step, pointwise


class MattePlanner(ABC):
    """Plans the mattes of one frame of one shot; what was planned is kept by what it is."""

    def __init__(self, shot: Shot, frame: int, reader: PassReader):
        self.shot = shot
        self.frame = frame
        self.reader = reader
        self.display = shot.format.display
        self.where = Where(frame=frame)
        self._made: dict[Any, Any] = {}

    @abstractmethod
    def element_alpha(self, card_id: str) -> Step:
        """The full-size alpha of a card as it is before its join."""

    def sources_of(self, matte_id: str) -> set[str]:
        """The sources a matte is pulled from, those of the mattes it combines included."""
        params = self.shot.mattes[matte_id]
        kind = MATTES.get(params.kind)
        return set(kind.sources(params)).union(*(self.sources_of(other) for other in kind.uses(params)))

    def _channel(self, planes: Step, channel: int, invert: bool) -> Step:
        def compute(given: tuple[Picture, ...]) -> Any:
            plane = np.ascontiguousarray(given[0].pixels[..., channel : channel + 1])
            return np.float32(1) - plane if invert else plane

        edge = inverted_edge(planes.edge) if invert else planes.edge
        return pointwise(
            "matte channel 1", [channel, invert], [planes], compute, channels=1, edge=edge,
            domain=planes.domain.union(self.display) if edge == "one" else None, where=self.where,
        )  # fmt: skip

    def coverage(self, reference: MatteRef, scale: int) -> Step:
        return self._channel(self.matte_planes(reference.matte, scale), 0, reference.invert)

    def matte_planes(self, matte_id: str, scale: int) -> Step:
        key = ("matte", matte_id, scale)
        if key not in self._made:
            self._made[key] = self.reduced(self.baked_planes(matte_id) or self._pulled_planes(matte_id), scale, "shares")
        step: Step = self._made[key]
        return step

    def _pulled_planes(self, matte_id: str) -> Step:
        params = at_frame(self.shot.mattes[matte_id], self.frame)
        return refined(MATTES.get(params.kind).planes(self, params, matte_id), params.refine, self.display)

    def live_planes(self, matte_id: str) -> Step:
        """The full-size planes of a matte as they are without any bake, its own or one of a matte it is made of."""
        if all(matte.bake is None for matte in self.shot.mattes.values()):
            return self._pulled_planes(matte_id)
        if "live" not in self._made:
            mattes = {name: matte.model_copy(update={"bake": None}) for name, matte in self.shot.mattes.items()}
            self._made["live"] = type(self)(self.shot.model_copy(update={"mattes": mattes}), self.frame, self.reader)
        live: MattePlanner = self._made["live"]
        return live._pulled_planes(matte_id)

    def baked_planes(self, matte_id: str) -> Step | None:
        """The same as they were written before; None where they never were, or the matte has become another since."""
        bake = self.shot.mattes[matte_id].bake
        return None if bake is None else baked(self, bake, self.live_planes(matte_id))

    def ids_of(self, matte_id: str) -> tuple[str, str, frozenset[int]] | None:
        params = self.shot.mattes[matte_id]
        if params.refine != Refine():
            return None
        if isinstance(params, IdMatte):
            layer = self.source(params.source).layer(params.layer)
            return params.source, params.layer, ids_of_names(params.names, layer)
        return as_set(self, params) if isinstance(params, CombinedMatte) else None

    # sources

    def source(self, name: str) -> FrameInfo:
        key = ("source", name)
        if key not in self._made:
            self._made[key] = self.reader.describe(name, self.frame)
        info: FrameInfo = self._made[key]
        return info

    def read(self, source: str, wanted: str, scale: int, shown: bool = False) -> Step:
        info = self.source(source)
        return read_step(self.reader, info, source, info.find(wanted), self.frame, scale, self.where, shown)

    def reduced(self, step: Step, n: int, how: Way) -> Step:
        return reduced_step(step, n, how)
