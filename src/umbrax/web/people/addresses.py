"""The paths of addresses that let somebody in once."""

from umbrax.store import credentials
from umbrax.store.database import Database

ENTRY = "/enter/"


def entry_path(database: Database, person_id: int) -> str:
    """Signs somebody in, within a day, from this computer."""
    return ENTRY + credentials.issue(database, person_id, "entry", lasts=credentials.ENTRY)


def invitation_path(database: Database, person_id: int) -> str:
    """Lets somebody choose a password, within a week; an earlier invitation ends with it."""
    return "/join/" + credentials.issue(database, person_id, "invitation", lasts=credentials.INVITATION)
