"""Cards brought from one shot into another, with the sources they show and the mattes they use.

What the other shot has already, a source of the same file read alike or a matte that means the same, is used again.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from ..errors import UmbraxError
from ..mattes import MATTES
from .cards import Card
from .edits import Edit, InsertItem, fresh_id, fresh_treatment_id, plain_data
from .parameters import FRAME
from .references import card_mattes, card_sources, treatment_card
from .shot import Shot


@dataclass
class Brought:
    """Edits that bring cards, backmost first, the ids they have then, and what of them could not come along, in words."""

    edits: list[Edit] = field(default_factory=list)
    cards: list[str] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)


def brought(origin: Shot, card_ids: Iterable[str], target: Shot, path: tuple[str, ...] = ("build",), before: str | None = None) -> Brought:
    """The edits that bring cards of one shot into a build of another, behind the card `before` or at the front.

    What a card follows, is tucked behind or takes light from comes along where that card does.
    """
    cards = [origin.card(card_id) for card_id in card_ids]
    if not cards:
        raise UmbraxError("no-cards", "no cards are chosen; choose some and copy them")
    return _Bringing(origin, target).bring(cards, path, before)


class _Bringing:
    def __init__(self, origin: Shot, target: Shot):
        self.origin, self.target = origin, target
        self.result = Brought()
        self.sources: dict[str, str] = {}
        self.mattes: dict[str, str] = {}
        self.cards: dict[str, str] = {}
        self.taken = {
            "sources": list(target.sources), "mattes": list(target.mattes), "cards": [card.id for card in target.cards()],
            "treatments": target.treatment_ids(),
        }  # fmt: skip

    def bring(self, cards: list[Card], path: tuple[str, ...], before: str | None) -> Brought:
        all_of_them = [inner for card in cards for inner in card.with_inside()]
        for card in all_of_them:
            self.cards[card.id] = self._fresh("cards", card.id)
        for card in all_of_them:
            for source, _ in card_sources(card):
                self._source(source)
        for card in all_of_them:
            for matte, _ in card_mattes(card):
                self._matte(matte)
        self.result.edits += [InsertItem(op="insert", path=path, item=self._card(card), before=before) for card in cards]
        self.result.cards = [self.cards[card.id] for card in cards]
        return self.result

    def _fresh(self, kind: str, stem: str) -> str:
        name = fresh_treatment_id(self.taken[kind]) if kind == "treatments" else fresh_id(self.taken[kind], stem)
        self.taken[kind].append(name)
        return name

    def _source(self, name: str) -> None:
        if name in self.sources:
            return
        wanted = self.origin.sources[name]
        same = next((other for other, source in self.target.sources.items() if source == wanted), None)
        if same is None:
            same = self._fresh("sources", name)
            self.result.edits.append(InsertItem(op="insert", path=("sources",), item={"id": same, **plain_data(wanted)}))
        self.sources[name] = same

    def _matte(self, name: str) -> None:
        """Bring a matte with those that it is made of; one that looks at a card comes only with that card."""
        if name in self.mattes:
            return
        params = self.origin.mattes[name]
        kind = MATTES.get(params.kind)
        if missing := [card for card in kind.cards(params) if card not in self.cards]:
            cards = ", ".join(self.origin.card(card).shown_name for card in missing)
            raise UmbraxError("looks-elsewhere", f"matte {self.origin.matte_name(name)!r} looks at {cards}; copy that card as well")
        for source in kind.sources(params):
            self._source(source)
        for other in kind.uses(params):
            self._matte(other)
        item = self._rewritten(plain_data(params.apart()))
        meant = MATTES.get(params.kind).params.model_validate(item)
        for other, there in self.target.mattes.items():
            if there.apart() == meant and (there.name or other) == (params.name or name):
                self.mattes[name] = other
                return
        self.mattes[name] = self._fresh("mattes", name)
        self.result.edits.append(InsertItem(op="insert", path=("mattes",), item={"id": self.mattes[name], **item}))

    def _card(self, card: Card) -> dict[str, Any]:
        item: dict[str, Any] = self._rewritten(plain_data(card)) | {"id": self.cards[card.id]}
        told = f"of card {card.shown_name}"
        if card.follow is not None and card.follow not in self.cards:
            del item["follow"]
            self.result.left_out.append(f"what is followed {told}")
        if card.tuck:
            tucks = [tuck for tuck, was in zip(item["tuck"], card.tuck, strict=True) if was.card in self.cards]
            if len(tucks) < len(card.tuck):
                self.result.left_out.append(f"the tuck {told}")
            item["tuck"] = tucks
        kept = [one.id for one in card.treatments if treatment_card(one) in (None, *self.cards)]
        self.result.left_out += [f"{card.treatment_name(one.id)} {told}" for one in card.treatments if one.id not in kept]
        item["treatments"] = [one | {"id": self._fresh("treatments", one["id"])} for one in item.get("treatments", []) if one["id"] in kept]
        if inside := card.inside():
            item["picture"] = item["picture"] | {"build": [self._card(one) for one in inside]}
        return item

    def _rewritten(self, value: Any, key: str = "") -> Any:
        """Document data with its sources, mattes and cards named as they are called in the other shot."""
        if isinstance(value, Mapping):
            named = {name: self._rewritten(part, name) for name, part in value.items()}
            if isinstance(on := value.get("on"), str) and on != FRAME:
                # the card that a matte stands on comes along, or where it stands is found anew
                named.pop("on")
                named |= {"on": self.cards[on]} if on in self.cards else {}
            return named
        if isinstance(value, list):
            return [self._rewritten(one, key) for one in value]
        table = REFERENCES.get(key)
        names: dict[str, str] = getattr(self, table) if table else {}
        return names.get(value, value) if isinstance(value, str) else value


# the keys of documents under which something is named that a shot has: which table of names tells its new one
REFERENCES = {
    "source": "sources", "through": "mattes", "matte": "mattes", "cut": "mattes", "behind": "mattes", "to": "mattes", "mattes": "mattes",
    "of": "mattes", "follow": "cards", "card": "cards",
}  # fmt: skip
