"""The shape of a conclusion: one frozen value, whole. Texts are as they are shown; who renders it chooses parts and computes nothing."""

from __future__ import annotations

from typing import Literal

from ..results import Act, Against, Answer, Finding, LevelName, Result


class KeptSame(Result):
    """A thing that was agreed to stay the same. state: held (recorded so), said (never recorded) or changed. says: with its name, as a list
    shows it."""

    name: str
    how: str
    state: Literal["held", "said", "changed"]
    says: str


class AsRun(Result):
    """The ways a study was run, from the record alone. each: kept trials of a level; order: as it happened; timers, people: "" where not
    recorded; short: these in one line; line: which outcomes count as survived, "" where none do; lines: the method in sentences; not_followed: where the plan was not followed, in sentences."""

    each: str
    order: str
    timers: str
    people: str
    short: str
    line: str = ""
    lines: tuple[str, ...]
    not_followed: tuple[str, ...]


class Placed(Result):
    """A level or device in the order of the results. label: as it is called; shape: which it is in the order of the plan, by which it is drawn.
    place None: below the line, with the reason in outside."""

    level: LevelName
    label: str
    shape: int
    place: int | None
    shared: bool
    result: str
    why: str
    apart_from_next: bool | None
    outside: str | None


class Numbered(Result):
    """The numbers of a level as they are written, the result by the rule agreed first. spread: the doubt by the school of the plan; "" where
    there is none. wilson: of outcomes, the 95 % interval of the share."""

    level: LevelName
    label: str
    kept: int
    void: int
    result: str
    mean: str = ""
    median: str = ""
    best: str = ""
    total: str = ""
    spread: str = ""
    interval: str = ""


class Beside(Result):
    """What another measure says. about: its name."""

    about: str
    answer: Answer
    says: str


class WordsAt(Result):
    """How devices behaved, or which faults there were, at one level. trials: in which anything was noted."""

    label: str
    trials: int
    says: str


class VersionLine(Result):
    """A version with what changed and what came of it. result: as written, "" where it was not tried."""

    device: str
    number: int
    since: int | None
    changed: tuple[str, ...]
    result: str
    failed: bool


class MadeOf(Result):
    """What a conclusion was drawn from: the same says the same. trials: a mark of their identities, revisions and places."""

    core: str
    plan: str
    trials: str
    counted: int


class Conclusion(Result):
    """What a study found. headline: one sentence; more: what is said after it; best: the labels that stand first by the rule agreed, empty
    where none does, and why, with how sure that is; besides: every other measure; two_measures: the decision with two measures, "" where none was
    agreed."""

    question: str
    answer: Answer
    so_far: bool
    headline: str
    more: str
    detail: str
    prediction: str
    next: str
    act: Act | None
    as_run: AsRun
    kept_same: tuple[KeptSame, ...]
    rule: str
    places: tuple[Placed, ...]
    places_said: str
    best: tuple[str, ...]
    best_why: str
    numbers: tuple[Numbered, ...]
    unit: str
    against: tuple[Against, ...]
    besides: tuple[Beside, ...]
    two_measures: str
    behaviours: tuple[WordsAt, ...]
    faults: tuple[WordsAt, ...]
    versions: tuple[VersionLine, ...]
    doubts: tuple[Finding, ...]
    made_of: MadeOf
