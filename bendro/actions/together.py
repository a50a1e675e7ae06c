"""A class's studies of the same test, looked at together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID

from bendro.core.conclusion.together import Part, test_of
from bendro.core.context import Context
from bendro.core.draft import Draft
from bendro.core.measuring.scales import scale_of
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .analysing import question_of
from .errors import Refused
from .studies import Standing, home

#: So many studies are judged together at once.
MOST = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class SameTest:
    """Studies that change and measure the same. name: how the test is called."""

    name: str
    family: str
    studies: tuple[Standing, ...]


def tests_of(owned: Owned) -> tuple[SameTest, ...]:
    """Every test that a kept trial was run for, with its studies; those run by most first."""
    found: dict[tuple[str, ...], list[Standing]] = {}
    for s in home(owned):
        if s.draft is not None and s.kept and s.draft.variable.name.strip():
            found.setdefault(_key(s.draft), []).append(s)
    made = [SameTest(name=_name(of[0].draft), family=key[0], studies=tuple(of)) for key, of in found.items()]
    return tuple(sorted(made, key=lambda t: -len(t.studies)))


def _key(draft: Draft) -> tuple[str, ...]:
    asked = Context(factor=draft.variable.name, response=draft.measure.name, survival=scale_of(draft.measure).survives)
    return (*test_of(asked, draft.family), draft.second.name if draft.second else "")


def _name(draft: Draft | None) -> str:
    assert draft is not None  # a study that cannot be read is of no test
    return f"{draft.variable.name} and {draft.measure.name}"


def parts_of(owned: Owned, ids: Sequence[UUID]) -> list[Part]:
    """The chosen studies, ready to be judged together. Raises Refused, NotFound."""
    if not 1 <= len(ids) <= MOST:
        raise Refused(f"Choose from one to {MOST} studies.", code="together_many", where="studies")
    made: list[Part] = []
    for one in dict.fromkeys(ids):
        study = owned.get(Study, one)
        trials, asked = question_of(owned, one)
        contest = [replace(t, group=None) for t in trials] if asked.contest else trials  # there the group is the level
        made.append(Part(name=study.title, trials=contest, asked=asked))
    names = [p.name for p in made]
    return [replace(p, name=f"{p.name} ({n})") if names.count(p.name) > 1 else p for n, p in enumerate(made, 1)]


