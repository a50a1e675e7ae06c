"""A written amount of whatever quantity its unit belongs to."""

from __future__ import annotations

from functools import lru_cache

from ..errors import CoreError
from .model import Reading
from .parse import read
from .units import QUANTITIES


@lru_cache(maxsize=4096)
def read_any(text: str) -> Reading | None:
    """A written amount of whatever quantity its unit belongs to; None when it is not one value with a unit."""
    for name in QUANTITIES:
        if name in ("number", "count"):
            continue
        try:
            found = read(text, name)
        except CoreError:
            continue
        return found if found.kind == "exact" else None
    return None
