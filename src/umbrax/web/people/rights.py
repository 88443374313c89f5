"""What each address of the API needs: the one table, asked before anything is answered. What is not in it nobody may do."""

from collections.abc import Callable
from dataclasses import dataclass

from flask import g, request

from umbrax.core.errors import UmbraxError
from umbrax.store.people import Role
from umbrax.store.refusals import gone
from umbrax.store.renders import show_of_render
from umbrax.store.shots import show_of_shot

from ..state import state
from .identity import Who, who

# by the names of views: "blueprint.function"
OPEN = frozenset({"shots.health", "signing_in.sign_in", "signing_in.read_invitation", "signing_in.join"})
SIGNED_IN = frozenset(
    {
        "signing_in.me", "signing_in.sign_out", "shows.list_shows", "queue.get_queue", "describing.models",
    }
)  # fmt: skip
# a token that fell into other hands must not become a password or another token
IN_PERSON = frozenset(
    {"signing_in.sign_out_everywhere", "signing_in.change_password", "tokens.list_tokens", "tokens.make_token", "tokens.end_token"}
)
# in the show that the address names by a show, a shot or a render
OF_SHOW: dict[str, Role] = {
    **dict.fromkeys(
        (
            "shots.get_shot", "shots.get_head", "history.list_revisions",
            "looks.look", "looks.thumb", "looks.span", "looks.probe", "scopes.scopes_of", "sheets.sheet",
            "describing.contents", "card_facts.card_standing", "card_facts.card_pops", "card_facts.tuck_frames", "card_facts.tuck_depths",
            "card_facts.card_facts", "seat.card_seat", "touching.under", "offering.proposals", "offering.lit", "matte_facts.matte_areas",
            "matte_facts.matte_trust", "matte_facts.matte_borders", "matte_facts.ids_present", "matte_facts.id_names", "checking.get_checkup",
            "checking.where_it_lies", "sources.lost", "recipes.recipes", "handoff.list_renders", "handoff.get_render", "written.get_still",
            "written.watch_movie",
            "comments.list_comments", "comments.add_comment", "comments.answer_comment", "comments.resolve_comment",
            "comments.change_comment", "comments.delete_comment",
        ), "look",
    ),
    **dict.fromkeys(
        (
            "shots.edit_shot", "shots.undo", "shots.redo", "history.go_back",
            "card_edits.removal", "card_edits.gathering_edits", "card_edits.dissolving_edits",
            "card_edits.bringing_edits", "touching.gather", "touching.do_touch", "scopes.match", "scopes.grain", "sources.arrived",
            "sources.add_sources", "sources.removal", "versions.list_versions", "versions.compare_version", "recipes.keep",
            "recipes.delete", "recipes.laying", "checking.order", "checking.cancel_checkup", "matte_facts.removal",
            "matte_facts.unbaking", "matte_facts.name_id", "attaching.attachable", "handoff.order_bake",
        ), "work",
    ),
    **dict.fromkeys(
        (
            "handoff.order_render", "handoff.cancel_render", "handoff.retry_render", "handoff.order_movie", "written.get_frame",
            "written.download", "written.get_movie",
            "queue.pause_render", "queue.set_priority",
        ), "hand off",
    ),
    **dict.fromkeys(
        (
            "shows.rename_show", "shows.delete_show", "shows.restore_show", "shows.delete_shot", "shows.restore_shot", "shows.move_shot",
            "people.set_role",
        ), "own",
    ),
}  # fmt: skip
# in any show: media folders, and what is brought, belong to the server and not to a show
SOMEWHERE: dict[str, Role] = {
    **dict.fromkeys(
        ("browsing.browse", "browsing.thumb", "takein.take_in", "uploads.options", "uploads.begin", "uploads.find", "uploads.append"), "work"
    ),
    **dict.fromkeys(("shows.add_show", "people.list_people"), "own"),
}
ADMIN = frozenset(
    {
        "browsing.add_media_folder", "browsing.remove_media_folder", "browsing.suggest", "shows.bring_in_demo", "looks.debug_engine",
        "people.add_person", "people.rename_person", "people.set_admin", "people.remove_person", "people.invite", "people.list_changes",
    }
)  # fmt: skip
WORDS = {"look": "look at it", "work": "work on it", "hand off": "hand it off", "own": "do this as one of its owners"}


def check_rights() -> None:
    """Refuse what whoever asks may not do: 401 where nobody has signed in, 404 for what they may not see, else 403."""
    endpoint = request.endpoint or ""
    if endpoint in OPEN or not (request.path == "/api" or request.path.startswith("/api/")):
        return
    asking = who()
    if request.routing_exception is not None or endpoint in ("page_path", *SIGNED_IN):
        return
    if endpoint in IN_PERSON:
        if asking.by_token:
            raise forbidden("a token may not do this; sign in in the page")
    elif endpoint in OF_SHOW:
        _check_show(asking, OF_SHOW[endpoint])
    elif endpoint in SOMEWHERE:
        if not asking.may_somewhere(SOMEWHERE[endpoint]):
            raise forbidden(f"you may not do this: it takes somebody who may {_of_any(SOMEWHERE[endpoint])}")
    elif endpoint not in ADMIN or not asking.admin:
        raise forbidden("only those who look after the server may do this; ask one of them")


def _of_any(role: Role) -> str:
    return {"work": "work on a show", "own": "own a show"}[role]


def _check_show(asking: Who, wanted: Role) -> None:
    for key, find in FINDERS.items():
        if request.view_args and key in request.view_args:
            found = find(int(request.view_args[key]))
            g.show_id = found.show_id
            if asking.admin:
                return  # what is not there its view tells
            if found.show_id is None or asking.role(found.show_id) is None:
                raise gone(f"no-{found.noun}", f"no {found.noun} of this number; look at the list of shots again")
            require(asking, found.show_id, "work" if wanted == "hand off" and found.bake else wanted)
            return
    raise forbidden("this address names no show")  # a mistake in the table: nobody gets in by it


def require(asking: Who, show_id: int, wanted: Role) -> None:
    """Refuse with 403 where somebody may not do something in a show."""
    if not asking.may(wanted, show_id):
        raise forbidden(f"in this show you may {WORDS[asking.role(show_id) or 'look']}, but not {WORDS[wanted]}; ask one of its owners")


def may_here(wanted: Role) -> bool:
    """Whether whoever asks may do something in the show that the address is about."""
    return who().may(wanted, g.show_id)


def require_here(wanted: Role) -> None:
    """Refuse with 403 where they may not."""
    require(who(), g.show_id, wanted)


def forbidden(message: str) -> UmbraxError:
    return UmbraxError("no-right", message, status=403)


@dataclass(frozen=True)
class _Found:
    noun: str
    show_id: int | None
    bake: bool = False  # a render of mattes for speed, which belongs to working


def _render(number: int) -> _Found:
    found = show_of_render(state().database, number)
    return _Found("render", *found) if found else _Found("render", None)


FINDERS: dict[str, Callable[[int], _Found]] = {
    "show_id": lambda number: _Found("show", number),
    "shot_id": lambda number: _Found("shot", show_of_shot(state().database, number)),
    "render_id": _render,
}
