"""What can stand against an action, beside what the core refuses."""

from __future__ import annotations

from typing import Any

from bendro.core.errors import CoreError


class Refused(CoreError):
    """The action does not fit the present state; `facts` go to the interface with the sentence."""

    def __init__(self, says: str, *, code: str, where: str | None = None, facts: dict[str, Any] | None = None) -> None:
        super().__init__(says, code=code, where=where)
        self.facts = facts or {}


class Clash(Refused):
    """Two people changed the same thing. facts: `yours` and `theirs`."""


class NotSignedIn(Refused):
    """No session, or one that has run out."""


class NotAllowed(Refused):
    """Whoever is in may not do this."""


class TooManyTries(Refused):
    """Wrong passwords too often. facts: `wait_s`."""


class PlanLocked(Refused):
    """The plan cannot be changed so once trials exist."""
