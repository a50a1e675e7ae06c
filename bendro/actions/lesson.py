"""The lesson around a study: its rota, made and kept; its outlook and shopping list, worked out as it stands."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from datetime import datetime
from uuid import UUID, uuid5

from pydantic import TypeAdapter
from sqlalchemy.dialects.postgresql import insert

from bendro.core.errors import PlanRefused
from bendro.core.measuring.derived import units_of_output
from bendro.core.planning.clock import start_minutes
from bendro.core.planning.ideas import CONCLUDES, KeptSame, kept_same, question_for, suggested_levels
from bendro.core.planning.lesson import lesson_of, seated
from bendro.core.planning.materials import Shopping, shopping
from bendro.core.planning.order import Turn
from bendro.core.planning.outlook import Outlook, outlook, roles_of
from bendro.core.planning.plan import planned_turns
from bendro.core.planning.rota import Lesson, Rota, make_rota
from bendro.core.planning.safety import LimitPlace, cautions_of, judges_survival, limit_places, needs_adult
from bendro.core.planning.usual import Offer, offers
from bendro.core.record.built import went_along
from bendro.core.results import Finding
from bendro.files.trial_table import write_table
from bendro.store.owned import Owned
from bendro.store.tables import RotaRow, Study

from .building import versions_of
from .plans import plan_of

_ROTA: TypeAdapter[Rota] = TypeAdapter(Rota)


@dataclass(frozen=True, slots=True, kw_only=True)
class Ahead:
    """Everything that a plan can already say. roles: block by block, pupil by pupil. adult_because: why every open lane needs an
    adult, where that is not the teacher's to choose. can, cannot: what this kind of study concludes. question: what the choice from the
    wall asks. limits: what a limit can bind to. survival: whether what is measured turns on a payload that survives."""

    outlook: Outlook
    kept_same: tuple[KeptSame, ...]
    suggested_levels: tuple[str, ...]
    roles: tuple[tuple[str, ...], ...]
    adult_because: str | None
    can: str
    cannot: str
    question: str
    cautions: tuple[str, ...]
    limits: tuple[LimitPlace, ...]
    survival: bool
    offers: tuple[Offer, ...]
    units: Mapping[str, tuple[str, ...]]


def ahead(owned: Owned, study_id: UUID) -> Ahead:
    """What lies ahead of a study by its plan."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    can, cannot = CONCLUDES[draft.study_kind]
    found = outlook(draft, study.seed)
    along = went_along(draft, [v.told for v in versions_of(owned, study_id) if v.told is not None])
    if along:
        says = f"As they are built, more than {draft.variable.name} differs between the levels ({along}). If something gets better, it cannot be told which of them did it."
        more = Finding(code="more_than_one_change", severity="warn", says=says, do="Build them alike but for the one thing, or say in the plan that both are changed.")
        found = replace(found, objections=(*found.objections, more))
    return Ahead(
        outlook=found,
        kept_same=kept_same(draft),
        suggested_levels=suggested_levels(draft),
        roles=roles_of(draft),
        adult_because=needs_adult(draft),
        can=can,
        cannot=cannot,
        question=question_for(draft.variable.name, [m.name for m in draft.measures]),
        cautions=cautions_of(draft),
        limits=limit_places(draft),
        survival=judges_survival(draft),
        offers=offers(draft),
        units={f"{d.calculator} {d.output}": units_of_output(d.calculator, d.output) for d in draft.derived},
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class RotaMade:
    """A rota as it was made. start: "09:10". stale: the plan has changed since in something that the rota stands on."""

    rota: Rota
    lesson: Lesson
    start: str
    made_at: datetime
    stale: bool


def _lesson(study: Study) -> Lesson:
    draft = plan_of(study)
    return lesson_of(draft, len(planned_turns(draft, study.seed)))


def make_lesson_rota(owned: Owned, study_id: UUID, *, now: datetime) -> RotaMade:
    """Work out the rota of the study as it stands and keep it. Raises PlanRefused."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    start_minutes(draft.rota.start)
    lesson = _lesson(study)
    made = make_rota(lesson)
    owned.get(Study, study_id, lock="update")  # of two at one moment the second waits, and replaces the first
    values = {"lesson": asdict(lesson), "start": draft.rota.start.strip(), "rota": asdict(made), "made_at": now}
    owned.session.exec(
        insert(RotaRow)
        .values(id=uuid5(study_id, "rota"), workspace_id=owned.workspace_id, study_id=study_id, **values)
        .on_conflict_do_update(constraint="rota_once", set_=values)
    )
    return RotaMade(rota=made, lesson=lesson, start=draft.rota.start.strip(), made_at=now, stale=False)


def lesson_rota(owned: Owned, study_id: UUID) -> RotaMade | None:
    """The rota made last, or None."""
    study = owned.get(Study, study_id)
    row = owned.session.exec(owned.select(RotaRow).where(RotaRow.study_id == study_id)).first()
    if row is None:
        return None
    held = Lesson(**{**row.lesson, "groups": tuple(row.lesson["groups"])})
    stale = row.start != plan_of(study).rota.start.strip() or held != _lesson_or_none(study)
    return RotaMade(rota=_ROTA.validate_python(row.rota), lesson=held, start=row.start, made_at=row.made_at, stale=stale)


def _lesson_or_none(study: Study) -> Lesson | None:
    try:
        return _lesson(study)
    except PlanRefused:
        return None  # a plan that is not ready has no lesson, so whatever rota there is no longer fits it


def turns_called(owned: Owned, study: Study) -> tuple[Turn, ...]:
    """Every planned turn in the order in which the lanes call them: the plan's, or the rota's where one stands; empty while the plan is
    not ready."""
    draft = plan_of(study)
    turns = planned_turns(draft, study.seed)
    made = lesson_rota(owned, study.id)
    return turns if made is None or made.stale else seated(turns, made.rota.sittings, draft.practice)


def shopping_list(owned: Owned, study_id: UUID) -> Shopping:
    """What to buy for the study as it stands."""
    return shopping(plan_of(owned.get(Study, study_id)))


def shopping_table(owned: Owned, study_id: UUID) -> str:
    """The shopping list as CSV: a row for each pack to buy, and a row for what has no pack yet."""
    found = shopping_list(owned, study_id)
    rows: list[list[object]] = []
    for line in found.lines:
        bought = [p for p in line.packs if p.buy]
        rows += [
            [
                line.name,
                f"{line.need:g}",
                line.unit,
                p.name,
                p.holds,
                p.buy,
                "" if p.cost is None else f"{p.price:g}",
                "" if p.cost is None else f"{p.cost:.2f}",
            ]
            for p in bought
        ] or [[line.name, f"{line.need:g}", line.unit, "", "", "", "", ""]]
    return write_table(["material", "need", "unit", "pack", "holds", "buy", "price", "cost"], rows)
