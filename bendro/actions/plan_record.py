"""The record of a plan: every change to it, taking one back, and the sign-off by the adult in charge."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col

from bendro.core.draft import Draft
from bendro.core.families import known
from bendro.core.planning.plan import all_level_ids
from bendro.core.planning.record import locked_by_trials, plan_changes
from bendro.core.planning.safety import cautions_of, check_safety, safety_mark
from bendro.core.planning.upgrade import read_plan
from bendro.core.record.seen import TrialSeen
from bendro.store.owned import Owned
from bendro.store.tables import PlanChange, PlanSignOff, Study

from .errors import Clash, PlanLocked, Refused
from .plan_rows import write_plan_rows
from .plans import plan_of
from .record import note_event
from .trials import rows_of, seen_trials

#: Changes to the same places within this time are one change: a sentence being typed is not a history of its letters.
ONE_CHANGE = timedelta(minutes=2)
MOST_SHOWN = 100


def record(owned: Owned, study: Study, draft: Draft, *, with_trials: bool, now: datetime) -> None:
    """Note what `draft` changes in the study's plan, before it is stored."""
    before = plan_of(study)
    changes = plan_changes(before, draft)
    if not changes:
        return
    last = owned.first(owned.select(PlanChange).where(PlanChange.study_id == study.id).order_by(col(PlanChange.id).desc()).limit(1))
    places = {c.where for c in changes}
    still_typing = last is not None and not last.undone and not with_trials and not last.with_trials and now - last.at < ONE_CHANGE
    if still_typing and places == {c["where"] for c in last.changes}:
        last.changes = [asdict(c) for c in plan_changes(read_plan(last.before), draft)]
        if last.changes:
            owned.session.add(last)
        else:  # typed and taken away again: nothing was changed
            owned.session.delete(last)
        return
    owned.new(
        PlanChange,
        study_id=study.id,
        before=study.draft,
        changes=[asdict(c) for c in changes],
        with_trials=with_trials,
        undone=False,
        at=now,
    )


def check_version(study: Study, version: int, wanted: dict[str, Any]) -> None:
    """Raises Clash with both sides unless `version` is the one that stands."""
    if study.version != version:
        raise Clash(
            "Someone else changed this study meanwhile. Look at both and choose.",
            code="study_changed",
            where="version",
            facts={"yours": wanted, "theirs": {"title": study.title, "draft": study.draft, "version": study.version}},
        )


def keep_honest(owned: Owned, study: Study, draft: Draft) -> bool:
    """Once a trial is kept, what its reading means may not change under it. Gives whether a trial is kept. Raises PlanLocked."""
    seen, _ = seen_trials(study, rows_of(owned, study.id))
    mine = [t for t in seen if t.place in ("turn", "extra")]
    if not any(t.state == "kept" for t in mine):
        return False
    before = plan_of(study)
    fixed = locked_by_trials(before, draft)
    if fixed is not None:
        raise PlanLocked(
            f"Trials have been kept, so {fixed.name} cannot change from “{fixed.was}” to “{fixed.now}”: their readings would mean something "
            "else. Make a new study for that, or copy this one.",
            code="plan_locked",
            where=fixed.where,
        )
    said = (before.prediction, before.reason, before.expect)
    if (before.prediction.strip() or before.expect) and said != (draft.prediction, draft.reason, draft.expect):
        raise PlanLocked("The prediction is locked since the first kept trial.", code="prediction_locked", where="prediction")
    _check_turns_stay(mine, draft)
    return True


def _check_turns_stay(trials: Sequence[TrialSeen], after: Draft) -> None:
    """A level or a repeat that has trials is not taken out of the plan."""
    gone = sorted({t.level for t in trials} - all_level_ids(after))
    if gone:
        raise PlanLocked(f"{gone[0]} has trials, so it cannot be removed.", code="level_has_trials", where="variable.levels")
    last = max(t.block for t in trials)
    if last > after.repeats:
        raise PlanLocked(
            f"Repeat {last} has trials, so {after.repeats} repeats are too few. Void those trials, or keep {last} repeats.",
            code="repeat_has_trials",
            where="repeats",
        )


def changes_of(owned: Owned, study_id: UUID) -> Sequence[PlanChange]:
    """The newest changes first; those that were taken back are marked so."""
    owned.get(Study, study_id)
    return owned.all(owned.select(PlanChange).where(PlanChange.study_id == study_id).order_by(col(PlanChange.id).desc()).limit(MOST_SHOWN))


def agreed_plan(owned: Owned, study_id: UUID) -> Draft | None:
    """The plan as it stood before the first change that was made with trials kept; None when there was none."""
    first = owned.session.exec(
        owned.select(PlanChange)
        .where(PlanChange.study_id == study_id, PlanChange.with_trials == True)  # noqa: E712
        .order_by(PlanChange.id)
        .limit(1)
    ).first()
    return None if first is None else read_plan(first.before)


def undo_plan(owned: Owned, study_id: UUID, *, version: int, now: datetime) -> Study:
    """Take back the newest change to the plan. Raises Clash when the plan was changed meanwhile, Refused `nothing_to_undo`,
    PlanLocked where kept trials forbid it."""
    study = owned.get(Study, study_id, lock="update")
    check_version(study, version, {})
    last = owned.session.exec(
        owned.select(PlanChange)
        .where(PlanChange.study_id == study_id, PlanChange.undone == False)  # noqa: E712
        .order_by(col(PlanChange.id).desc())
        .limit(1)
    ).first()
    if last is None:
        raise Refused("There is no change to undo.", code="nothing_to_undo")
    keep_honest(owned, study, read_plan(last.before))
    before = study.draft
    study.draft = last.before
    study.version += 1
    study.changed_at = now
    last.undone = True
    owned.session.add_all([study, last])
    write_plan_rows(owned, study, before=before)
    note_event(owned, study_id, "plan", study_id, study.version, {"undone": [c["where"] for c in last.changes]}, now=now)
    return study


def sign_off(owned: Owned, study_id: UUID, *, sign_off_id: UUID, adult: str, ticked: Sequence[str], now: datetime) -> PlanSignOff:
    """The adult in charge has read every caution of the plan. The same id again changes nothing."""
    study = owned.get(Study, study_id)
    known = owned.find(PlanSignOff, sign_off_id)
    if known is not None:
        if known.study_id != study_id:
            raise Refused("This sign-off belongs to another study.", code="sign_off_elsewhere")
        return known
    draft = plan_of(study)
    check_cautions(draft, adult, ticked)
    add_sign_off(owned, study_id, sign_off_id=sign_off_id, adult=adult, ticked=ticked, mark=safety_mark(draft), now=now)
    note_event(owned, study_id, "sign_off", sign_off_id, 1, {"adult": adult.strip()[:80]}, now=now)
    return owned.get(PlanSignOff, sign_off_id)


def add_sign_off(
    owned: Owned, study_id: UUID, *, sign_off_id: UUID, adult: str, ticked: Sequence[str], mark: str, now: datetime
) -> None:
    """Note that the adult in charge has read the cautions of the plan with this mark."""
    owned.session.exec(
        insert(PlanSignOff)
        .values(
            id=sign_off_id, workspace_id=owned.workspace_id, study_id=study_id, adult=adult.strip()[:80], cautions=list(ticked),
            mark=mark, signed_at=now,
        )
        .on_conflict_do_nothing()
    )  # fmt: skip


def check_cautions(draft: Draft, adult: str, ticked: Sequence[str]) -> None:
    """Raises Refused unless the limits that the plan needs are set and kept, the adult's role is written and every caution that
    fits what is done is ticked."""
    if not known(draft.family):
        raise Refused("Choose the family of devices first; it brings the cautions.", code="family_missing", where="family")
    if not adult.strip():
        raise Refused("Write the role of the adult in charge.", code="adult_missing", where="adult")
    unsafe = [p for p in check_safety(draft) if p.grave]
    if unsafe:
        raise Refused(unsafe[0].says, code=unsafe[0].code, where=unsafe[0].where)
    left = [c for c in cautions_of(draft) if c not in ticked]
    if left:
        raise Refused(
            f"{len(left)} caution{' is' if len(left) == 1 else 's are'} not ticked yet: {left[0]}", code="cautions_left", where="cautions"
        )


def last_sign_off(owned: Owned, study: Study) -> tuple[PlanSignOff | None, bool]:
    """The newest sign-off, and whether it still covers the plan as it stands."""
    found = owned.first(owned.select(PlanSignOff).where(PlanSignOff.study_id == study.id).order_by(col(PlanSignOff.signed_at).desc()).limit(1))
    return found, found is not None and found.mark == safety_mark(plan_of(study))
