"""What a study's trials give for each of its measures: the record and the versions, brought to the core's own rule."""

from __future__ import annotations

from typing import Any

from bendro.core.draft import Draft
from bendro.core.measuring.derived import prepare_all
from bendro.core.measuring.thumb import scatter_of
from bendro.core.record.given import Deriving, Made, own_levels
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .building import versions_of
from .instruments import thumbs_of


def made_of(owned: Owned, study_id: Any) -> Made:
    """The versions that were written down for a study."""
    return Made(
        properties={
            (v.row.device, v.row.number): {**{p.name: p.value for p in v.draft.properties}, **({"mass": v.draft.mass} if v.draft.mass.strip() else {})}
            for v in versions_of(owned, study_id)
        }
    )


def deriving(owned: Owned, study: Study, draft: Draft) -> Deriving | None:
    """None where the plan works nothing out."""
    ready, _ = prepare_all(draft) if draft.derived else ({}, ())
    if not ready:
        return None
    thumbs = list(thumbs_of(owned, study.id).values()) if draft.measure.timed else []
    return Deriving(draft=draft, ready=ready, levels=own_levels(draft), made=made_of(owned, study.id), thumb_s=scatter_of(thumbs))
