"""What is said of work that ended with an error that nobody foresaw."""

from umbrax.core.errors import UmbraxError
from umbrax.media.disk import disk_full, is_full


def unexpected(error: Exception, what: str) -> UmbraxError:
    if is_full(error):
        return disk_full(f"what the {what} needs")
    return UmbraxError("unexpected", f"the {what} stopped for a reason it does not know; look into the worker's log and try again")
