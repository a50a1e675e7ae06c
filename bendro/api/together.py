"""A class's studies of the same test, together: who has how many, whose spread is wide, and one verdict over all."""

from uuid import UUID

from fastapi import APIRouter, Query

from bendro.actions import together
from bendro.actions.sums import last_checked
from bendro.core.judgement.evidence import counted, level_label
from bendro.core.judgement.pooling import judged, record_of, runners
from bendro.core.statistics.describe import at_place, place_of

from .needs import Mine
from .shapes_class import MarkTogether, RecordOut, RunnerOut, SameTestOut, StudyOfTest, TogetherOut

router = APIRouter(prefix="/api", tags=["together"])


@router.get("/together", operation_id="tests")
def tests(mine: Mine) -> list[SameTestOut]:
    """Every test that trials were kept for, with the studies of it."""
    checked = {study: e.body for study, e in last_checked(mine).items()}
    return [
        SameTestOut(
            name=t.name,
            family=t.family,
            studies=[
                StudyOfTest(
                    id=s.study.id,
                    title=s.study.title,
                    class_label=s.draft.class_label if s.draft else "",
                    year=s.draft.year if s.draft else "",
                    groups=[g for g in (s.draft.groups if s.draft else []) if g.strip()],
                    kept=s.kept,
                    void=s.void,
                    planned=s.planned,
                    archived=s.study.archived,
                    sums_right=checked.get(s.study.id, {}).get("right"),
                    sums_of=checked.get(s.study.id, {}).get("of"),
                )
                for s in t.studies
            ],
        )
        for t in together.tests_of(mine)
    ]


@router.get("/together/judged", operation_id="judged_together")
def judged_together(mine: Mine, study: list[UUID] = Query(max_length=together.MOST)) -> TogetherOut:
    """The chosen studies judged together, with who ran the trials as block."""
    parts = together.parts_of(mine, study)
    mine.session.close()  # nothing of the database is held while it is worked out
    found = judged(parts)
    trials, asked = found.trials, found.asked
    record = record_of(trials, best_is=asked.best_is)
    unit = f" {asked.unit}" if asked.unit and asked.unit != "count" else ""
    best = None
    if record is not None:
        at = place_of((record.ci95[1] - record.ci95[0]) / 2 if record.ci95 else None, None, record.trials)
        doubt = f", 95 % interval {at_place(record.ci95[0], at)} to {at_place(record.ci95[1], at)}{unit}" if record.ci95 else ""
        level = level_label(record.level, asked.factor_unit)
        best = RecordOut(name=record.name, says=f"{at_place(record.mean, at)}{unit} at {level}, {counted(record.trials, 'trial')}{doubt}")
    return TogetherOut(
        analysis=found.analysis,
        blocks=found.blocks,
        within=found.within,
        alike=found.alike,
        runners=[RunnerOut.model_validate(r) for r in runners(trials)],
        record=best,
        marks=[
            MarkTogether(id=str(n), who=str(t.block), level=t.level, value=t.value, kind=t.kind, void=t.state == "void")
            for n, t in enumerate(trials)
            if t.value is not None and t.level is not None
        ][: 2_000],
    )
