"""Who refers to whom in a document: unknown names, doubled ids and cycles are refused, deletions are explained."""

from collections.abc import Iterable, Iterator, Mapping

from ..errors import UmbraxError, Where
from ..mattes import MATTES, MatteParams
from ..pictures import PICTURES
from ..registry import unknown
from ..treatments import STAGES, TREATMENTS
from ..treatments.base import CardFeed, MatteFeed, SpreadParams, Stage, TreatmentParams
from .cards import Card
from .parameters import FRAME, MatteRef
from .shot import Shot

DEEPEST = 64  # mattes made of mattes: each is planned by the one that is made of it
DEEPEST_BUNDLE = 16
Uses = Mapping[str, tuple[str, ...]]  # of mattes, by name: the mattes they are made of


def treatment_references(treatment: TreatmentParams) -> tuple[MatteRef, ...]:
    """The mattes a treatment works through, takes its light from or is drawn of."""
    values = [value for value in vars(treatment).values() if isinstance(value, MatteFeed | MatteRef)]
    return tuple(value.matte if isinstance(value, MatteFeed) else value for value in values)


def treatment_card(treatment: TreatmentParams) -> str | None:
    """The other card that a treatment takes its light from."""
    feed = treatment.feed if isinstance(treatment, SpreadParams) else None
    return feed.card if isinstance(feed, CardFeed) else None


def treatment_mattes(treatment: TreatmentParams) -> tuple[str, ...]:
    return tuple(reference.matte for reference in treatment_references(treatment))


def with_parts(mattes: Mapping[str, MatteParams], names: Iterable[str]) -> Iterator[str]:
    """Some mattes and those that they are combined of, each once."""
    wanted = list(dict.fromkeys(names))
    for name in wanted:
        yield name
        wanted += [other for other in dict.fromkeys(MATTES.get(mattes[name].kind).uses(mattes[name])) if other not in wanted]


def matte_sources(mattes: Mapping[str, MatteParams], names: Iterable[str]) -> set[str]:
    """The sources that some mattes are pulled from, those of the mattes they combine included."""
    return {source for name in with_parts(mattes, names) for source in MATTES.get(mattes[name].kind).sources(mattes[name])}


def lamps_for(cards: Iterable[Card], card_id: str) -> list[str]:
    """The cards of a build that one of them can take light from: the other elements."""
    return [one.id for one in cards if not one.treat and one.id != card_id]


def card_references(card: Card) -> Iterator[tuple[MatteRef, str | None]]:
    """(use of a matte, treatment or None) on a card."""
    for reference in card.cut:
        yield reference, None
    for tuck in card.tuck:
        yield tuck.behind, None
    if card.picture is not None:
        for reference in PICTURES.get(card.picture.kind).mattes(card.picture):
            yield reference, None
    for treatment in card.treatments:
        for reference in treatment_references(treatment):
            yield reference, treatment.id


def card_mattes(card: Card) -> Iterator[tuple[str, str | None]]:
    """(matte, treatment or None) for each use on a card."""
    return ((reference.matte, treatment) for reference, treatment in card_references(card))


def _named_uses(card: Card) -> Iterator[tuple[str, str]]:
    yield from ((reference.matte, "cut") for reference in card.cut)
    yield from ((tuck.behind.matte, "tuck") for tuck in card.tuck)
    if card.picture is not None:
        what = "its leader line" if card.picture.kind == "text" else "a light"
        yield from ((reference.matte, what) for reference in PICTURES.get(card.picture.kind).mattes(card.picture))
    yield from ((matte, card.treatment_name(one.id)) for one in card.treatments for matte in treatment_mattes(one))


def card_sources(card: Card) -> Iterator[tuple[str, str | None]]:
    """(source, treatment or None) for each use on a card."""
    if card.picture is not None:
        yield from ((name, None) for name in PICTURES.get(card.picture.kind).sources(card.picture))
    yield from ((name, one.id) for one in card.treatments for name in TREATMENTS.get(one.kind).sources(one))


def stage_end(card: Card, stage: Stage) -> str | None:
    """The treatment before which one of a stage is put in: the first of a later stage."""
    later = STAGES[STAGES.index(stage) + 1 :]
    return next((one.id for one in card.treatments if TREATMENTS.get(one.kind).stage in later), None)


def matte_uses(shot: Shot, matte_id: str) -> list[str]:
    """Where a matte is used, in words."""
    uses = [f"card {card.shown_name}, {use}" for card in shot.cards() for matte, use in _named_uses(card) if matte == matte_id]
    uses += [f"matte {params.name or other}" for other, params in shot.mattes.items() if matte_id in MATTES.get(params.kind).uses(params)]
    return uses


def _cycle(uses: Uses) -> list[str] | None:
    """The path of a cycle among mattes, from a matte back to itself."""
    done: set[str] = set()
    for start in uses:
        stack: list[tuple[str, Iterator[str]]] = [(start, iter(uses[start]))]
        path = [start]
        while stack:
            following = next(stack[-1][1], None)
            if following is None:
                done.add(stack.pop()[0])
                path.pop()
            elif following in path:
                return [*path[path.index(following) :], following]
            elif following not in done and following in uses:
                stack.append((following, iter(uses[following])))
                path.append(following)
    return None


def _not_too_deep(shot: Shot, uses: Uses) -> None:
    """Mattes that are made of mattes, and bundles that lie in bundles, only so many times over. There is no circle among them."""
    left = {name: set(used) for name, used in uses.items()}
    for _ in range(DEEPEST):
        made = {name for name, used in left.items() if not used}
        left = {name: used - made for name, used in left.items() if used}
        if not left:
            break
    else:
        message = f"matte {next(iter(left))!r} is made of others that are made of others, more than {DEEPEST} times over; bake some of them"
        raise UmbraxError("too-deep", message)
    depth, inner = 0, list(shot.build)
    while inner := [one for card in inner for one in card.inside()]:
        depth += 1
        if depth > DEEPEST_BUNDLE:
            raise UmbraxError("too-deep", f"bundles lie in one another more than {DEEPEST_BUNDLE} times over; dissolve some of them")


def _uses(shot: Shot) -> Uses:
    """The mattes each matte is made of: those it combines, and those on a card whose picture it looks at."""
    cards = {card.id: card for card in shot.cards()}
    uses: dict[str, tuple[str, ...]] = {}
    for name, params in shot.mattes.items():
        kind = MATTES.get(params.kind)
        on = (matte for card_id in kind.cards(params) for inner in cards[card_id].with_inside() for matte, _ in card_mattes(inner))
        uses[name] = (*kind.uses(params), *on)
    return uses


def check(shot: Shot) -> None:
    """Refuse a document whose references lead nowhere or in a circle."""
    cards: set[str] = set()
    treatments: set[str] = set()
    for card in shot.cards():
        if card.id in cards:
            raise UmbraxError("doubled-id", f"two cards have the id {card.id!r}; give each its own", where=Where(card=card.id))
        cards.add(card.id)
        for source, treatment in card_sources(card):
            _known_source(shot, source, card.id, treatment)
        for matte, treatment in card_mattes(card):
            _known_matte(shot, matte, card.id, treatment)
        for treatment_params in card.treatments:
            if treatment_params.id in treatments:
                message = f"two treatments have the id {treatment_params.id!r}; give each its own"
                raise UmbraxError("doubled-id", message, where=Where(card=card.id))
            treatments.add(treatment_params.id)
    _known_places(shot)
    for cards_of_build in builds(shot):
        _known_neighbours(cards_of_build)
    elements = [card.id for card in shot.cards() if not card.treat]
    for matte_id, params in shot.mattes.items():
        kind = MATTES.get(params.kind)
        for card_id in kind.cards(params):
            if card_id not in elements:
                raise UmbraxError("unknown-card", f"matte {matte_id!r}: {unknown('element card', card_id, elements)}")
        try:
            for other in kind.uses(params):
                _known_matte(shot, other)
            for source in (*kind.sources(params), *((params.bake.source,) if params.bake else ())):
                _known_source(shot, source)
        except UmbraxError as error:
            raise UmbraxError(error.code, f"matte {matte_id!r}: {error.message}") from None
    uses = _uses(shot)
    if cycle := _cycle(uses):
        raise UmbraxError("cycle", f"mattes refer to each other in a circle: {' -> '.join(cycle)}; take one reference out")
    _not_too_deep(shot, uses)


def builds(shot: Shot) -> Iterator[tuple[Card, ...]]:
    """The cards of the shot, and of each bundle in it."""
    yield shot.build
    yield from (inside for card in shot.cards() if (inside := card.inside()))


def build_with(shot: Shot, card_id: str) -> tuple[Card, ...]:
    """The cards of the build that a card is in; none where there is no such card."""
    return next((cards for cards in builds(shot) if any(card.id == card_id for card in cards)), ())


def _known_neighbours(cards: tuple[Card, ...]) -> None:
    """What cards follow, are tucked behind and take light from are other cards of their build, and nobody follows himself."""
    known = {card.id: card for card in cards}
    for card in cards:
        others = [name for name in known if name != card.id]
        for noun, name in (("follow", card.follow), *(("tuck it behind", tuck.card) for tuck in card.tuck)):
            if name is not None and name not in others:
                message = f"there is nothing to {noun}: {unknown('card of this build', name, others)}"
                raise UmbraxError("unknown-card", message, where=Where(card=card.id))
        for treatment in card.treatments:
            lamp = treatment_card(treatment)
            if lamp is not None and lamp not in (lamps := lamps_for(cards, card.id)):
                message = f"there is no light to take: {unknown('element card of this build', lamp, lamps)}"
                raise UmbraxError("unknown-card", message, where=Where(card=card.id, treatment=treatment.id))
        path = [card.id]
        while (following := known[path[-1]].follow) is not None:
            path.append(following)
            if following == card.id:
                raise UmbraxError("cycle", f"cards follow each other in a circle: {' -> '.join(path)}; let one of them go")
            if len(path) > len(known):
                break


def _known_places(shot: Shot) -> None:
    cards = [card.id for card in shot.cards()]
    known = {None, FRAME, *cards}
    for card in shot.cards():
        for use, treatment in card_references(card):
            if use.on not in known:
                raise _nowhere(use, cards, Where(card=card.id, treatment=treatment))
    for params in shot.mattes.values():
        for use in MATTES.get(params.kind).references(params):
            if use.on not in known:
                raise _nowhere(use, cards, Where())


def _nowhere(use: MatteRef, cards: list[str], where: Where) -> UmbraxError:
    message = f"matte {use.matte!r} is to stand on {unknown('card', str(use.on), cards)}; name a card, or frame"
    return UmbraxError("unknown-card", message, where=where)


def _known_matte(shot: Shot, matte: str, card: str | None = None, treatment: str | None = None) -> None:
    if matte not in shot.mattes:
        raise UmbraxError("unknown-matte", unknown("matte", matte, list(shot.mattes)), where=Where(card=card, treatment=treatment))


def _known_source(shot: Shot, name: str, card: str | None = None, treatment: str | None = None) -> None:
    if name not in shot.sources:
        raise UmbraxError("unknown-source", unknown("source", name, list(shot.sources)), where=Where(card=card, treatment=treatment))
