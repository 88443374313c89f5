"""The one base error: what happened, to what, and what to do."""

from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Where:
    """The place an error belongs to; empty parts are unknown or do not apply."""

    card: str | None = None
    treatment: str | None = None
    frame: int | None = None
    file: str | None = None

    def filled(self, other: "Where") -> "Where":
        """This place, with its unknown parts taken from `other`."""
        return other.within(**{name: value for name, value in vars(self).items() if value is not None})

    def within(self, **parts: Any) -> "Where":
        """This place with some of its parts told anew."""
        return Where(**{**vars(self), **parts})


class UmbraxError(Exception):
    """Anything a user can be told in one line.

    `code` is stable and machine-readable; `message` is lower case without a full stop and names the remedy. `status` says whose
    matter it is, as HTTP numbers it: 400 that of whoever asked. `again`: nothing was done, and the same can be asked for again in a
    moment.
    """

    def __init__(
        self, code: str, message: str, *, where: Where | None = None, detail: dict[str, Any] | None = None, status: int = 400,
        again: bool = False,
    ):  # fmt: skip
        super().__init__(message)
        self.code = code
        self.message = " ".join(message.split())
        self.where = where or Where()
        self.detail = detail or {}
        self.status = status
        self.again = again

    def at(self, where: Where) -> "UmbraxError":
        """The same error with the unknown parts of its place filled in."""
        self.where = self.where.filled(where)
        return self

    def payload(self) -> dict[str, Any]:
        """What a machine is told: code, message, card, treatment, frame, file."""
        return {
            "code": self.code,
            "message": self.message,
            **vars(self.where),
            **({"detail": self.detail} if self.detail else {}),
        }

    def __str__(self) -> str:
        place = ", ".join(f"{name} {value}" for name, value in vars(self.where).items() if value is not None)
        return f"{self.message} ({place})" if place else self.message


class Cancelled(Exception):
    """The work was overtaken or stopped; not an error and never shown."""
