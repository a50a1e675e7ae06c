"""A study's trials through the core: the verdict, the conclusion, and how a number came about."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from uuid import UUID

from sqlalchemy import func
from sqlmodel import col, select

from bendro.core.analyse import analyse, described
from bendro.core.asking import asked_of
from bendro.core.conclusion.concluded import conclude as conclude_record
from bendro.core.conclusion.model import Conclusion
from bendro.core.context import Context
from bendro.core.draft import Draft
from bendro.core.errors import TableRefused
from bendro.core.judgement.working import Working, how_difference, how_mean
from bendro.core.planning.plan import unreadable
from bendro.core.record.given import level_named
from bendro.core.record.study import StudyRecord
from bendro.core.results import Analysis
from bendro.core.trials import Trial
from bendro.store.owned import Owned
from bendro.store.tables import Event, Study

from .building import versions_of
from .errors import Refused
from .plan_record import agreed_plan
from .plans import plan_of
from .responses import deriving
from .trials import rows_of, seen_trials


class _LastRead:
    """The largest studies that were read last, as they stood: analysis, conclusion and pictures of one are asked for in one breath."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._held: OrderedDict[tuple[object, ...], StudyRecord] = OrderedDict()

    def get(self, state: tuple[object, ...]) -> StudyRecord | None:
        with self._lock:
            return self._held.get(state)

    def keep(self, state: tuple[object, ...], record: StudyRecord) -> None:
        if len(record.trials) < LARGE:
            return
        with self._lock:
            self._held[state] = record
            while len(self._held) > LARGE_HELD:
                self._held.popitem(last=False)


#: Records of so many trials take a while to be read; so many of them are held.
LARGE, LARGE_HELD = 1_000, 2
_last_read = _LastRead()


def record_of(owned: Owned, study_id: UUID) -> StudyRecord:
    """The record of a study, whole. Raises NotFound."""
    state = (owned.workspace_id, owned.get(Study, study_id).title, *state_of(owned, study_id))
    held = _last_read.get(state)
    if held is None:
        held = _read(owned, study_id)
        _last_read.keep(state, held)
    return held


def _read(owned: Owned, study_id: UUID) -> StudyRecord:
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    seen, stock = seen_trials(study, rows_of(owned, study_id))
    return StudyRecord(
        draft=draft,
        title=study.title,
        trials=seen,
        stock=stock,
        agreed=agreed_plan(owned, study_id),
        versions=tuple(v.told for v in versions_of(owned, study_id) if v.told is not None),
        work=None if unreadable(draft) else deriving(owned, study, draft),
    )


def analyse_study(owned: Owned, study_id: UUID, *, response: str = "", factor: str = "") -> Analysis:
    """The analysis of a study as it stands, for any of its measures (response: its identity, "" for the first), over the variable or
    anything else that is recorded of trials (factor). Raises CoreError."""
    return analyse(*question_of(owned, study_id, response=response, factor=factor))


#: Who came in and what was said to the lanes changes nothing of what was found.
NO_RECORD = ("joining", "seat", "lanes")


def state_of(owned: Owned, study_id: UUID) -> tuple[object, ...]:
    """The mark of a study's state: as long as it is the same, so is every analysis of it. Raises NotFound."""
    study = owned.get(Study, study_id)
    # the newest number alone would not do: of two saves at one moment the one with the lower number may be committed second
    last, events = owned.first(select(func.max(Event.id), func.count()).where(Event.study_id == study_id, col(Event.kind).not_in(NO_RECORD)))
    return (study_id, study.version, study.finished, last, events)


def newest_event(owned: Owned, study_id: UUID) -> int:
    """The number of the newest event of a study, 0 where nothing has happened. The study is the caller's."""
    return int(owned.first(select(func.max(Event.id)).where(Event.study_id == study_id, Event.workspace_id == owned.workspace_id)) or 0)


def question_of(owned: Owned, study_id: UUID, *, response: str = "", factor: str = "") -> tuple[list[Trial], Context]:
    """The trials of a study and what is asked of them. Raises CoreError."""
    return asked_of(record_of(owned, study_id), response, factor)


Analysing = Callable[[str], Analysis]


def conclude(owned: Owned, study_id: UUID, analysed: Analysing | None = None, *, core: str = "") -> Conclusion:
    """The conclusion of a study as it stands. core: version of the core. analysed: gives the analysis of a measure (by its identity, "" for the first), where it is kept
    somewhere. Raises CoreError, NotFound."""
    record = record_of(owned, study_id)
    return conclude_record(record, analysed or (lambda response: analyse(*asked_of(record, response))), core=core)


def how(owned: Owned, study_id: UUID, *, about: str, first: str, second: str | None, response: str = "", analysed: Analysing | None = None) -> Working:
    """The working of one mean, of the difference between two levels (by their identities), or of what is worked out for one trial
    (about `trial`, first its number), at the study's reading level. analysed: as in `conclude`. Raises Refused, TableRefused."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    if about == "trial":
        return _how_trial(owned, study, draft, response, first)
    trials, asked = question_of(owned, study_id, response=response)
    one = level_named(draft, first)
    if about == "mean":
        summary = next((s for s in described(trials, asked) if s.level == one), None)
        if summary is None:
            raise TableRefused(f"There is no kept trial at {first}.", code="level_unknown", where="level")
        return how_mean(trials, one, asked.factor_unit, summary, unit=asked.unit, reading=asked.reading)
    two = level_named(draft, second or "")
    found = analysed(response) if analysed is not None else analyse(trials, asked)
    return how_difference(trials, one, two, asked, found.effect)


def _how_trial(owned: Owned, study: Study, draft: Draft, response: str, number: str) -> Working:
    seen, _ = seen_trials(study, rows_of(owned, study.id))
    trial = next((t for t in seen if str(t.number) == number), None)
    work = deriving(owned, study, draft)
    if trial is None or work is None or response not in work.ready:
        raise Refused("There is nothing worked out for this trial.", code="measure_unknown", where="response")
    got = work.at(trial)[response]
    prepared = work.ready[response]
    title = f"{prepared.draft.name} of trial {number}"
    if isinstance(got, str):
        return Working(title=title, lines=(f"It cannot be worked out here: {got}.",))
    shared = (f"± {got.shared:.2g} {got.unit} is shared by all trials: it moves them together and changes no difference between levels by chance.",) if got.shared else ()
    return Working(title=title, lines=(*got.lines, *shared, *prepared.calculator.assumptions))
