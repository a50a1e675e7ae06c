"""What follows from a plan alone is worked out once for it: a plan is never changed in place."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache, wraps
from typing import Any, Concatenate, ParamSpec, TypeVar, cast

P = ParamSpec("P")
T = TypeVar("T")
R = TypeVar("R")

#: So many plans are remembered by each.
REMEMBERED = 128


class _Same:
    """Known by its identity: two plans that read alike are still two, and comparing them whole would cost what is to be saved."""

    __slots__ = ("it",)

    def __init__(self, it: object) -> None:
        self.it = it

    def __hash__(self) -> int:
        return id(self.it)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and self.it is other.it


def once_for_each(work: Callable[Concatenate[T, P], R]) -> Callable[Concatenate[T, P], R]:
    """Remember what `work` gave for its first argument by identity (and the further ones by value); they and what it gives must never be
    changed in place."""

    @lru_cache(maxsize=REMEMBERED)
    def kept(first: _Same, *further: Any) -> Any:
        return cast("Any", work)(first.it, *further)

    def remembering(first: Any, *args: Any) -> Any:
        return kept(_Same(first), *args)

    return cast("Callable[Concatenate[T, P], R]", wraps(work)(remembering))
