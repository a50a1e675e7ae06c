"""How much of each plan is done, counted where the trials lie: Home looks at hundreds of studies at once."""

from __future__ import annotations

from collections.abc import Sequence
from uuid import UUID

from sqlalchemy import text

from bendro.core.draft import Draft
from bendro.core.measuring.scales import same_quantity
from bendro.core.planning.stock import Counts
from bendro.core.record.ladders import on_rungs
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .trials import stocks_of

_COUNT = text("""
with p as (select study_id, count(*) as planned, count(trial_id) as filled from turn where study_id = any(:studies) group by study_id),
t as (select t.study_id,
        count(*) filter (where t.outside <> '' or u.study_id is null) as outside,
        count(*) filter (where t.outside = '' and t.state = 'kept' and u.study_id is not null and u.trial_id is distinct from t.id) as extra,
        count(*) filter (where t.outside = '' and t.state = 'void' and u.study_id is not null) as void
      from trial t left join turn u on (u.study_id, u.block, u.level) = (t.study_id, t.block, t.level)
      where t.workspace_id = :workspace_id and t.study_id = any(:studies) and t.state <> 'withdrawn' and not t.practice group by t.study_id)
select p.study_id, planned, filled, coalesce(void, 0), coalesce(extra, 0), coalesce(outside, 0) from p left join t on t.study_id = p.study_id
""")
_UNITS = text("select distinct study_id, measure, unit from reading where study_id = any(:studies)")


def counts_of(owned: Owned, studies: Sequence[tuple[Study, Draft]]) -> dict[UUID, Counts]:
    """How much of these plans is done. What cannot be told by counting (drops that lead up to another, readings in another quantity than
    the plan's, trials without turns) is told from the trials themselves, as `take_stock` has it."""
    mine = {"studies": [s.id for s, _ in studies]}  # named one by one: among a district's trials each is found by its index
    found = owned.session.execute(_COUNT, {"workspace_id": owned.workspace_id, **mine}).all()
    counted = {one: Counts(planned=planned, filled=filled, void=void, extra=extra, outside=outside) for one, planned, filled, void, extra, outside in found}
    units: dict[UUID, list[tuple[str, str]]] = {}
    for one, measure, unit in owned.session.execute(_UNITS, mine):
        units.setdefault(one, []).append((measure, unit))

    def plain(study: Study, draft: Draft) -> bool:
        first = draft.measure
        return study.id in counted and not on_rungs(draft) and all(same_quantity(unit, first) for measure, unit in units.get(study.id, ()) if measure == first.id)

    closer = [(study, draft) for study, draft in studies if not plain(study, draft)]
    told = {one: stock.counts for one, stock in stocks_of(owned, closer).items()} if closer else {}
    return {study.id: told[study.id] if study.id in told else counted[study.id] for study, _ in studies}
