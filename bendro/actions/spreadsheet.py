"""A study as a spreadsheet that shows its sums."""

from __future__ import annotations

import csv
import io
from uuid import UUID

from bendro.core.analyse import described
from bendro.core.conclusion.model import Conclusion
from bendro.core.draft import Draft
from bendro.core.errors import CoreError
from bendro.core.measuring.scales import scale_of
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
#: What the levels' formulas read: which level a trial counts for (its number in the sheet of levels, 0 for none), and its first measure
#: as a number in the plan's unit, or its points. Names are never compared: "felt.x" and ">4" would be read as patterns.
LEVEL, COUNTS, INDEX, READING = "level", "counts", "level number", "reading as number"
#: Larger than any reading: what is pushed aside when the smallest or largest is looked for.
ASIDE = "1E+99"


def study_ods(owned: Owned, study_id: UUID, conclusion: Conclusion | None = None) -> bytes:
    """The sheets of a study. conclusion: as it stands, None where nothing can be concluded. Raises NotFound, CoreError where its plan is not
    ready."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    trials, asked = question_of(owned, study_id)
    planned = planned_levels(draft)
    labels, index = {p.shown: p.label for p in planned}, {p.shown: n for n, p in enumerate(planned, 1)}
    head, *rows = list(csv.reader(io.StringIO(study_table(owned, study_id))))
    by_row = {t.row: t for t in trials}
    number = head.index("trial")
    made: list[list[Cell | Formula]] = [[*head, LEVEL, COUNTS, INDEX, READING]]
    for row in rows:
        t = by_row.get(int(row[number]))
        counts = t is not None and t.counts and t.value is not None
        level = t.level if t is not None and t.level is not None else None
        made.append([*row, labels.get(level, "") if level is not None else "", "yes" if counts else "no", index.get(level, 0) if counts and level is not None else 0, t.value if t is not None and counts else None])
    summaries = {s.level: s for s in described(trials, asked)} if trials else {}
    levels = [_level(n, p.label, summaries.get(p.shown), len(head), len(made)) for n, p in enumerate(planned, 1)]
    unit = " / points" if scale_of(draft.measure).scored else "" if asked.unit in (None, "count") else f" / {asked.unit}"
    top: list[Cell | Formula] = [draft.variable.name or "level", "kept", f"total{unit}", f"mean{unit}", f"smallest{unit}", f"largest{unit}", f"range{unit}"]
    return ods([
        Sheet(name=TRIALS, rows=made), Sheet(name="levels", rows=[top, *levels]), Sheet(name="conclusion", rows=_conclusion(conclusion)),
        Sheet(name="plan", rows=_plan(draft, study.title)), Sheet(name="materials", rows=_materials(draft)),
    ])  # fmt: skip


def _level(n: int, label: str, s: LevelSummary | None, first: int, rows: int) -> list[Cell | Formula]:
    """A level's row: counted, added up and spread by formulas over the sheet of trials. n: of the level; first: of the four added columns."""

    def cells(at: int) -> str:
        return f"[{TRIALS}.${column(at)}$2:.${column(at)}${max(2, rows)}]"

    mine, reading, kept = f"({cells(first + 2)}={n})", cells(first + 3), f"[.B{n + 1}]"
    none = s is None or not s.n_kept or s.mean is None

    def where_kept(text: str, value: float | None) -> Formula:
        return Formula(text=f'IF({kept}=0;"";{text})', value=None if none else value)

    lowest, highest = f"SUMPRODUCT(MIN({reading}+({cells(first + 2)}<>{n})*{ASIDE}))", f"SUMPRODUCT(MAX({reading}-({cells(first + 2)}<>{n})*{ASIDE}))"
    low, high = (None, None) if none or s is None else (s.min, s.max)
    return [
        label,
        Formula(text=f"SUMPRODUCT({mine}*1)", value=0.0 if none or s is None else float(s.n_kept)),
        where_kept(f"SUMPRODUCT({mine}*{reading})", s.total if s is not None else None),
        where_kept(f"[.C{n + 1}]/{kept}", s.mean if s is not None else None),
        where_kept(lowest, low),
        where_kept(highest, high),
        where_kept(f"[.F{n + 1}]-[.E{n + 1}]", None if low is None or high is None else high - low),
    ]


def _conclusion(c: Conclusion | None) -> list[list[Cell | Formula]]:
    """What was found, as every other surface says it."""
    if c is None:
        return [["conclusion", "Nothing can be concluded yet."]]
    rows: list[list[Cell | Formula]] = [["found", c.headline], ["more", c.more], ["how it was run", c.as_run.short]]
    rows += [["not as planned", says] for says in c.as_run.not_followed]
    rows += [["kept the same", k.says] for k in c.kept_same]
    rows += [["besides", b.says] for b in c.besides]
    rows += [["by both measures", c.two_measures]] if c.two_measures else []
    rows += [["doubt", f.says] for f in c.doubts]
    rows += [["next", c.next], [], ["place", "level", "result", "kept", "void"]]
    numbers = {n.level: n for n in c.numbers}
    for p in c.places:
        n = numbers.get(p.level)
        place = f"{p.place}{'=' if p.shared else ''}" if p.place is not None else "below the line"
        rows.append([place, p.label, p.result, None if n is None else float(n.kept), None if n is None else float(n.void), p.outside or ""])
    return rows


def _plan(draft: Draft, title: str) -> list[list[Cell | Formula]]:
    m = draft.measure
    rows: list[list[Cell | Formula]] = [
        ["study", title], ["question", draft.question], ["prediction", draft.prediction], ["reason", draft.reason], ["class", draft.class_label],
        ["groups", ", ".join(draft.groups)], ["changed", draft.variable.name], ["levels", ", ".join(draft.variable.levels)], ["measured", m.name],
        ["unit", scale_of(m).unit(m)], ["measuring rule", m.rule], ["repeats", float(draft.repeats)], ["void when", draft.void_rule],
    ]  # fmt: skip
    held: list[list[Cell | Formula]] = [["to be kept the same", k.name, k.how] for k in kept_same(draft) if k.how]
    return [*rows, *held]


def _materials(draft: Draft) -> list[list[Cell | Formula]]:
    head: list[Cell | Formula] = ["material", "form", "for each device", "piece"]
    rows: list[list[Cell | Formula]] = [[i.name, i.form, i.per_device, i.piece] for i in draft.materials.items if i.name.strip()]
    try:
        whole = shopping(draft)
    except CoreError:
        return [head, *rows]  # what cannot be counted yet is told on the page of materials
    return [head, *rows, ["one device costs", "", "", whole.one], ["all of it costs", "", "", whole.total]]
