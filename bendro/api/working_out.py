"""The verdict, the working, and the trial table in and out."""

from typing import Literal
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from bendro.actions import analysing, besides, packages, spreadsheet, sums, tables, waiting
from bendro.actions.pictures import pictures_of
from bendro.core.conclusion.model import Conclusion
from bendro.core.conclusion.what_if import WhatIf, if_so, in_words
from bendro.core.context import Context
from bendro.core.errors import CoreError
from bendro.core.judgement.pupil_sum import SumChecked
from bendro.core.results import Analysis
from bendro.core.trials import Trial
from bendro.store.owned import Owned

from .computing import computing
from .needs import Mine, Now, Teacher
from .planning import study_out
from .shapes import WorkingOut
from .shapes_class import PicturesOut
from .shapes_shown import (
    BesideOut,
    CameOut,
    ImportBody,
    SumOut,
    SumsBody,
    SupposedOut,
    TableBody,
    TableColumnOut,
    TableOut,
    WaitingBody,
    WhatIfBody,
)
from .shapes_study import StudyOut
from .told import told
from .verdicts import concluded, following, worked_out

router = APIRouter(prefix="/api", tags=["working out"])
ODS = "application/vnd.oasis.opendocument.spreadsheet"


@router.get("/studies/{study_id}/analysis", operation_id="analysis", response_model=Analysis)
def analysis(
    study_id: UUID, mine: Mine, response: str = Query("", max_length=12), factor: str = Query("", max_length=80)
) -> Response:
    if not response and not factor:
        following.note(study_id)
    return Response(worked_out(mine, study_id, response, factor), media_type="application/json")


@router.post("/studies/{study_id}/what-if", operation_id="what_if")
def what_if(study_id: UUID, body: WhatIfBody, mine: Mine) -> SupposedOut:
    """The verdict as it would be, beside the one that stands; nothing is stored."""
    what = WhatIf.model_validate(body.model_dump(exclude={"response"}))

    def asked() -> tuple[list[Trial], Context]:
        found = if_so(*analysing.question_of(mine, study_id, response=body.response), what)
        mine.session.close()
        return found

    state = (*analysing.state_of(mine, study_id), body.response, what)
    return SupposedOut(says=in_words(what), analysis=Analysis.model_validate_json(computing.answer(state, asked)))


@router.post("/studies/{study_id}/sums", operation_id="check_sums")
def check_sums(study_id: UUID, body: SumsBody, mine: Mine, now: Now) -> list[SumOut]:
    given = [sums.Answered(level=a.level, about=a.about, text=a.text, who=a.who) for a in body.answers]
    made = [_sum(s) for s in sums.check_sums(mine, study_id, given, response=body.response)]
    if body.keep and made:
        sums.keep_checked(mine, study_id, given, [s.right for s in made], now=now)
    return made


def _sum(checked: SumChecked | str) -> SumOut:
    if isinstance(checked, str):
        return SumOut(right=False, slip=None, says=checked, working=[])
    return SumOut(right=checked.right, slip=checked.slip, says=checked.says, working=list(checked.working))


def _concluded(mine: Owned, study_id: UUID) -> Conclusion | None:
    """The conclusion of a study; None where its plan or its trials do not allow one yet."""
    try:
        return concluded(mine, study_id)
    except CoreError:  # what is missing is told on the page of the plan; the file goes without it
        return None


@router.get("/studies/{study_id}/package.zip", operation_id="study_package", response_class=Response)
def study_package(study_id: UUID, mine: Mine, photos: bool = True) -> Response:
    """The whole study as a data package (datapackage.json, tables with their schemas, the plan and the record)."""
    return Response(packages.study_package(mine, study_id, _concluded(mine, study_id), photos=photos), media_type="application/zip")


_ZIP = {"requestBody": {"required": True, "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}}


@router.put("/studies/{study_id}/package", operation_id="read_package", status_code=201, openapi_extra=_ZIP)
async def read_package(study_id: UUID, request: Request, mine: Mine, now: Now, title: str = Query("", max_length=120)) -> StudyOut:
    """A new study from a data package that Bendro wrote. study_id: of the new study."""
    data = await request.body()
    return await run_in_threadpool(lambda: study_out(mine, packages.study_from_package(mine, data, study_id=study_id, title=title, now=now)))


@router.get("/studies/{study_id}/beside", operation_id="beside", response_model=BesideOut)
def beside(study_id: UUID, mine: Mine) -> Response:
    state = ("beside", *analysing.state_of(mine, study_id))
    made = told.answer(state, mine, lambda: BesideOut.model_validate(besides.beside(mine, study_id)).model_dump_json().encode())
    return Response(made, media_type="application/json")


@router.get("/studies/{study_id}/pictures", operation_id="pictures", response_model=PicturesOut)
def pictures(
    study_id: UUID, mine: Mine, response: str = Query("", max_length=12), factor: str = Query("", max_length=80)
) -> Response:
    state = (*analysing.state_of(mine, study_id), response, factor)

    def made() -> bytes:
        trials, asked = analysing.question_of(mine, study_id, response=response, factor=factor)
        found = Analysis.model_validate_json(computing.answer(state, lambda: (trials, asked)))
        return PicturesOut.model_validate(pictures_of(mine, study_id, trials, asked, found)).model_dump_json().encode()

    return Response(told.answer(("pictures", *state), mine, made), media_type="application/json")


@router.get("/studies/{study_id}/how", operation_id="how")
def how(
    study_id: UUID,
    mine: Mine,
    about: Literal["mean", "difference", "trial"],
    first: str = Query(max_length=60),
    second: str | None = Query(None, max_length=60),
    response: str = Query("", max_length=12),
) -> WorkingOut:
    return WorkingOut.model_validate(analysing.how(mine, study_id, about=about, first=first, second=second, response=response, analysed=lambda one: Analysis.model_validate_json(worked_out(mine, study_id, one))))


@router.get(
    "/studies/{study_id}/trials.csv",
    operation_id="trial_table",
    response_class=Response,
    responses={200: {"content": {"text/csv": {"schema": {"type": "string"}}}}},
)
def trial_table(study_id: UUID, mine: Mine) -> Response:
    return Response(
        "\ufeff" + tables.study_table(mine, study_id),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="trials-{str(study_id)[:8]}.csv"'},
    )


@router.get(
    "/studies/{study_id}/study.ods",
    operation_id="study_spreadsheet",
    response_class=Response,
    responses={200: {"content": {ODS: {"schema": {"type": "string", "format": "binary"}}}}},
)
def study_spreadsheet(study_id: UUID, mine: Mine) -> Response:
    return Response(
        spreadsheet.study_ods(mine, study_id, _concluded(mine, study_id)),
        media_type=ODS,
        headers={"Content-Disposition": f'attachment; filename="study-{str(study_id)[:8]}.ods"'},
    )


@router.post("/waiting", operation_id="take_waiting")
def take_waiting(body: WaitingBody, mine: Mine, now: Now) -> list[CameOut]:
    """What waited in a browser and was saved there as a file, taken into its studies."""
    return [CameOut.model_validate(c) for c in waiting.take_waiting(mine, waiting.read_waiting(body.text), now=now)]


@router.post("/tables", operation_id="look_into_table")
def look_into(body: TableBody, _: Teacher) -> TableOut:
    table, columns = tables.look_into(body.text.encode())
    return TableOut(columns=[TableColumnOut.model_validate(c) for c in columns], rows=len(table.rows), notes=list(table.notes))


@router.post("/tables/study", operation_id="study_from_table", status_code=201)
def study_from_table(body: ImportBody, mine: Mine, now: Now) -> StudyOut:
    study = tables.study_from_table(
        mine,
        body.text.encode(),
        study_id=body.id,
        title=body.title,
        factor=body.factor,
        response=body.response,
        also=body.also,
        family=body.family,
        now=now,
        blanks=body.blanks,
        leave_bad=body.leave_bad,
        as_names=body.as_names,
    )
    return study_out(mine, study)
