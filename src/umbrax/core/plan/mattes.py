"""Mattes of a document at a frame -> the steps that pull, refine, combine, place or read them, each with a content key."""

from abc import ABC, abstractmethod
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cached_property
from typing import Any

import numpy as np

from ..colour import luma_of
from ..document.parameters import MatteRef
from ..document.references import card_mattes, matte_sources
from ..document.shot import Shot
from ..document.timing import at_frame
from ..errors import UmbraxError
from ..mattes import MATTES, MatteParams, Refine
from ..mattes.baked import baked
from ..mattes.combined import CombinedMatte, as_set, beyond
from ..mattes.ids import IdMatte, ids_of_names
from ..mattes.refining import inverted_edge, refined
from ..picture import Edge, Picture
from .matte_shares import shared, weighted
from .placed import placed, source_scale
from .placement import HERE, Placement, Space
from .places import Places
from .reader import LOST, PassReader
from .sources import SourcePlanner
from .steps import Step, nothing, pointwise
from .times import times_of


class MattePlanner(SourcePlanner, ABC):
    """Plans the mattes of one frame of one shot."""

    def __init__(self, shot: Shot, frame: int, reader: PassReader):
        super().__init__(frame, reader)
        self.shot = shot
        self.display = self.seen = shot.format.display
        self.luma = luma_of(shot.colour.working)
        self.stands = HERE
        self.camera = at_frame(shot.camera, frame)
        self.first = shot.format.first
        self.feed_scale = 1  # the coarsest scale at which light that spreads is fed
        self.places = Places(shot, frame)
        self._apart: Space | None = None

    @abstractmethod
    def element_alpha(self, card_id: str) -> Step:
        """The full-size alpha of a card as it is before its join."""

    @abstractmethod
    def build_picture(self, cards: tuple[Any, ...], scale: int) -> Step:
        """The picture of a build of its own."""

    @abstractmethod
    def build_spans(self, cards: tuple[Any, ...], scale: int) -> Step | None:
        """Between what the full-size pixels lie that it has at a scale."""

    @abstractmethod
    def build_beyond(self, cards: tuple[Any, ...], scale: int) -> Step | None:
        """How much of each pixel it covers beyond the frame."""

    @abstractmethod
    def build_depth(self, cards: tuple[Any, ...], scale: int) -> Step | None:
        """How far away what it shows is."""

    def sources_of(self, matte_id: str) -> set[str]:
        """The sources a matte is pulled from, those of the mattes it combines included."""
        return matte_sources(self.shot.mattes, [matte_id])

    def _times_of(self, matte_id: str) -> Any:
        """When the sources of a matte are read, of those that are not read at this frame."""
        return tuple(sorted((name, self.times[name]) for name in self.sources_of(matte_id) & self.times.keys())) if self.times else ()

    def channel(self, planes: Step, channel: int, invert: bool) -> Step:
        """One of a matte's planes: 0 its coverage, 1 its share."""

        def compute(given: tuple[Picture, ...]) -> Any:
            plane = np.ascontiguousarray(given[0].pixels[..., channel : channel + 1])
            return np.float32(1) - plane if invert else plane

        edge = inverted_edge(planes.edge) if invert else planes.edge
        return pointwise(
            "matte channel 1", [channel, invert], [planes], compute, channels=1, edge=edge,
            domain=planes.domain.union(self.display) if edge == "one" else None, where=self.where,
        )  # fmt: skip

    def coverage(self, reference: MatteRef, scale: int) -> Step:
        """A matte as it stands in the frame where the frontmost card uses it, and as it is then."""
        user = None if self.places.still and not self._timed else self._user_of(reference.matte)
        with self.reading_at({} if user is None else times_of(self.shot.card(user), self.frame, self.first)):
            space = Space(None if self.places.still else user, HERE)
            return self.channel(self.planes_in(reference, space, scale), 0, reference.invert)

    @cached_property
    def _timed(self) -> bool:
        """Whether any card shows its sources at another time than this."""
        return any(times_of(card, self.frame, self.first) for card in self.shot.cards())

    def _user_of(self, matte_id: str) -> str | None:
        """The frontmost card that uses a matte."""
        users = [card.id for card in self.shot.cards() if any(matte == matte_id for matte, _ in card_mattes(card))]
        return users[-1] if users else None

    def planes_in(self, reference: MatteRef, space: Space, scale: int) -> Step:
        """The planes of a matte in the pixels in which a card uses it."""
        if self.places.still:
            return self._plain_planes(reference.matte, scale)
        key = ("placed matte", reference.matte, reference.on, space, scale, self._times_of(reference.matte))
        if key not in self._made:
            self._made[key] = self._placed_planes(reference, space, scale)
        step: Step = self._made[key]
        return step

    def _placed_planes(self, reference: MatteRef, space: Space, scale: int) -> Step:
        stands = self.places.matte(reference.matte, reference.on, space.user)
        if stands is None:
            with self._parts(space):
                return self.reduced(self._pulled_planes(reference.matte), scale, "shares")
        with self._parts(None):
            if stands == space.stands or space.stands.flat:
                return self._plain_planes(reference.matte, scale)
            way = (space.stands.inverse() @ stands).rounded()
            own_scale = source_scale(way, scale)
            ends = beyond(self.shot.mattes, reference.matte, self.frame)
            return self._standing(self._plain_planes(reference.matte, own_scale), way, own_scale, scale, ends)

    def offered_planes(self, params: MatteParams, title: str) -> Step:
        """The full-size planes of a matte that is not in the document, as they stand in the frame where its source is shown."""
        kind = MATTES.get(params.kind)
        shown = self.places.card_showing(set(kind.sources(params)))
        return self._standing(kind.planes(self, params, title), HERE if shown is None else self.places[shown].total, 1, 1)

    def _standing(self, planes: Step, way: Placement, own_scale: int, scale: int, ends: Edge = "empty") -> Step:
        if way.still and own_scale == scale:
            return planes
        if way.flat:
            return nothing(3)
        display = self.display.scaled(scale)
        return shared(placed(weighted(planes), way, own_scale, scale, display, self.where, ends))

    @contextmanager
    def _parts(self, space: Space | None) -> Iterator[None]:
        """Within, the mattes that one is made of are each placed in a space of their own, or not at all."""
        before, self._apart = self._apart, space
        try:
            yield
        finally:
            self._apart = before

    def matte_planes(self, reference: MatteRef, scale: int) -> Step:
        """The planes of a matte that another one is made of."""
        return self._plain_planes(reference.matte, scale) if self._apart is None else self.planes_in(reference, self._apart, scale)

    def _plain_planes(self, matte_id: str, scale: int) -> Step:
        """The planes of a matte in its own pixels, placed nowhere."""
        key = ("matte", matte_id, scale, self._times_of(matte_id))
        if key not in self._made:
            self._made[key] = self.reduced(self.baked_planes(matte_id) or self._pulled_planes(matte_id), scale, "shares")
        step: Step = self._made[key]
        return step

    def _pulled_planes(self, matte_id: str) -> Step:
        params = at_frame(self.shot.mattes[matte_id], self.frame)
        try:
            planes = MATTES.get(params.kind).planes(self, params, matte_id)
        except UmbraxError as error:
            # what a version of a render lost is found by nobody in it: the matte is empty, and the picture stays
            if error.code not in LOST:
                raise
            planes = nothing(3)
        return refined(planes, params.refine, self.display)

    def live_planes(self, matte_id: str) -> Step:
        """The full-size planes of a matte as they are without any bake, its own or one of a matte it is made of."""
        if all(matte.bake is None for matte in self.shot.mattes.values()):
            return self._pulled_planes(matte_id)
        if "live" not in self._made:
            mattes = {name: matte.model_copy(update={"bake": None}) for name, matte in self.shot.mattes.items()}
            self._made["live"] = type(self)(self.shot.model_copy(update={"mattes": mattes}), self.frame, self.reader)
        live: MattePlanner = self._made["live"]
        live.times = self.times
        return live._pulled_planes(matte_id)

    def baked_planes(self, matte_id: str) -> Step | None:
        """The same as they were written before; None where they never were, or the matte has become another since."""
        bake = self.shot.mattes[matte_id].bake
        return None if bake is None else baked(self, bake, self.live_planes(matte_id))

    def ids_of(self, matte_id: str) -> tuple[str, str, frozenset[int]] | None:
        """(source, layer, IDs) of a matte that is nothing but a set of IDs, and not one placed apart from others."""
        params = self.shot.mattes[matte_id]
        if params.refine != Refine() or self._apart is not None:
            return None
        if isinstance(params, IdMatte):
            layer = self.source(params.source).ids.get(params.layer)
            return None if layer is None else (params.source, params.layer, ids_of_names(params.names, layer))
        if not isinstance(params, CombinedMatte):
            return None
        # once, however many are combined of it
        key = ("ids of", matte_id, self._times_of(matte_id))
        if key not in self._made:
            self._made[key] = as_set(self, params)
        found: tuple[str, str, frozenset[int]] | None = self._made[key]
        return found
