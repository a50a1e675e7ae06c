"""A study as a spreadsheet that shows its sums."""

from __future__ import annotations

import csv
import io
from uuid import UUID

from bendro.core.analyse import described
from bendro.core.errors import CoreError
from bendro.core.judgement.evidence import level_label
from bendro.core.planning.draft import Draft
from bendro.core.planning.ideas import kept_same
from bendro.core.planning.materials import shopping
from bendro.core.planning.plan import planned_levels
from bendro.core.results import LevelSummary
from bendro.files.ods import Cell, Formula, Sheet, column, ods
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .analysing import question_of
from .plans import plan_of
from .tables import study_table

TRIALS = "trials"
#: What the levels' formulas read: level, whether the trial counts, and its first measure as a number in the plan's unit, or its points.
LEVEL, COUNTS, READING = "level", "counts", "reading as number"


def study_ods(owned: Owned, study_id: UUID) -> bytes:
    """The sheets of a study. Raises NotFound, Refused where its plan is not ready."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    trials, asked = question_of(owned, study_id)
    labels = {p.level: level_label(p.level, draft.variable.unit) for p in planned_levels(draft)}
    head, *rows = list(csv.reader(io.StringIO(study_table(owned, study_id))))
    by_row = {t.row: t for t in trials}
    number = head.index("trial")
    made: list[list[Cell | Formula]] = [[*head, LEVEL, COUNTS, READING]]
    for row in rows:
        t = by_row.get(int(row[number]))
        counts = t is not None and t.counts and t.value is not None
        made.append([*row, labels.get(t.level, "") if t is not None and t.level is not None else "", "yes" if counts else "no", t.value if t is not None and counts else None])
    summaries = {s.level: s for s in described(trials, asked)} if trials else {}
    levels = [_level(labels[p.level], summaries.get(p.level), len(head), len(made)) for p in planned_levels(draft)]
    unit = " / points" if draft.measure.scale == "zone" else "" if draft.measure.unit in ("", "count") else f" / {draft.measure.unit}"
    top: list[Cell | Formula] = [draft.variable.name or "level", "kept", f"mean{unit}", f"smallest{unit}", f"largest{unit}", f"range{unit}"]
    return ods([
        Sheet(name=TRIALS, rows=made), Sheet(name="levels", rows=[top, *levels]), Sheet(name="plan", rows=_plan(draft, study.title)),
        Sheet(name="materials", rows=_materials(draft)),
    ])  # fmt: skip


def _level(label: str, s: LevelSummary | None, first: int, rows: int) -> list[Cell | Formula]:
    """A level's row: counted, averaged and spread by formulas over the sheet of trials. first: of the three added columns."""

    def cells(n: int) -> str:
        return f"[{TRIALS}.${column(n)}$2:.${column(n)}${max(2, rows)}]"

    quoted = label.replace('"', '""')
    given = f'{cells(first)};"{quoted}";{cells(first + 1)};"yes"'
    none = s is None or not s.n_kept
    low, high = (None, None) if none or s is None else (s.min, s.max)
    return [
        label,
        Formula(text=f"COUNTIFS({given})", value=0.0 if none or s is None else float(s.n_kept)),
        Formula(text=f"AVERAGEIFS({cells(first + 2)};{given})", value=None if none or s is None else s.mean),
        Formula(text=f"MINIFS({cells(first + 2)};{given})", value=low),
        Formula(text=f"MAXIFS({cells(first + 2)};{given})", value=high),
        Formula(text=f"MAXIFS({cells(first + 2)};{given})-MINIFS({cells(first + 2)};{given})", value=None if low is None or high is None else high - low),
    ]


def _plan(draft: Draft, title: str) -> list[list[Cell | Formula]]:
    m = draft.measure
    rows: list[list[Cell | Formula]] = [
        ["study", title], ["question", draft.question], ["prediction", draft.prediction], ["reason", draft.reason], ["class", draft.class_label],
        ["groups", ", ".join(draft.groups)], ["changed", draft.variable.name], ["levels", ", ".join(draft.variable.levels)], ["measured", m.name],
        ["unit", m.unit], ["measuring rule", m.rule], ["repeats", float(draft.repeats)], ["void when", draft.void_rule],
    ]  # fmt: skip
    held: list[list[Cell | Formula]] = [["kept the same", k.name, k.how] for k in kept_same(draft)]
    return [*rows, *held]


def _materials(draft: Draft) -> list[list[Cell | Formula]]:
    head: list[Cell | Formula] = ["material", "form", "for each device", "piece"]
    rows: list[list[Cell | Formula]] = [[i.name, i.form, i.per_device, i.piece] for i in draft.materials.items if i.name.strip()]
    try:
        whole = shopping(draft)
    except CoreError:
        return [head, *rows]  # what cannot be counted yet is told on the page of materials
    return [head, *rows, ["one device costs", "", "", whole.one], ["all of it costs", "", "", whole.total]]
