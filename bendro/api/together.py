"""A class's studies of the same test, together: who has how many, whose spread is wide, and one verdict over all."""

from uuid import UUID

from fastapi import APIRouter, Query

from bendro.actions import together
from bendro.actions.sums import last_checked
from bendro.core.conclusion.together import judged, record_of, record_said, runners
from bendro.core.written import level_label

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
                    sums_wrong=checked.get(s.study.id, {}).get("wrong", []),
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
    record = record_of(trials, best_is=asked.best_is, unit=asked.unit, whole=asked.whole or asked.are_counted)
    best = None if record is None else RecordOut(name=record.name, says=record_said(record, asked))
    return TogetherOut(
        analysis=found.analysis,
        blocks=found.blocks,
        within=found.within,
        alike=found.alike,
        runners=[RunnerOut.model_validate(r) for r in runners(trials)],
        record=best,
        labels=[level_label(s.level, asked.factor_unit or "") for s in found.analysis.levels],
        marks=[
            MarkTogether(id=str(n), who=str(t.block), level=t.level, value=t.value, kind=t.kind, void=t.state == "void")
            for n, t in enumerate(trials)
            if t.value is not None and t.level is not None
        ],
    )
