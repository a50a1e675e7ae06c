"""What stands in the way of a plan."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """What is missing or wrong in a draft, at its field. grave: the run cannot start."""

    code: str
    where: str
    says: str
    grave: bool = True
