"""Times that a lane had pressed in heats are brought up as readings of their own."""

from __future__ import annotations

import json
from uuid import uuid4

import psycopg
import pytest

from bendro.actions.bringing_up import to_newest
from bendro.store.connect import migrate
from tests.api.test_upgrade import dump_before
from tests.conftest import Application

pytestmark = pytest.mark.api


def test_the_times_of_heats_that_were_run_are_readings_after_the_upgrade(app: Application) -> None:
    with dump_before(app, "0008") as url, psycopg.connect(url, autocommit=True) as rows:
        where = url.replace("postgresql://", "postgresql+psycopg://")
        migrate(where, to="0009")
        found = rows.execute("select id, workspace_id, draft from study where draft->>'compared' = 'side_by_side' limit 1").fetchone()
        assert found is not None
        study, workspace, draft = found
        times = next(m["id"] for m in draft["measures"] if m["quantity"] == "time")
        rows.execute("insert into measure (study_id, id, workspace_id, place, name, scale, quantity, unit, better) values (%s, 'm9', %s, 9, 'landing order', 'order', 'number', '', 'low') on conflict do nothing", (study, workspace))
        level = rows.execute("select id from level where study_id = %s limit 1", (study,)).fetchone()
        assert level is not None
        trial = str(uuid4())
        rows.execute(
            "insert into trial (id, workspace_id, study_id, block, level, group_label, person, device, specimen, rung, practice, heat, answered, state, fault, note, outside, others, released_at, revision, received_at)"
            " values (%s, %s, %s, 1, %s, '', '', '', '', '', false, 'a heat', '[]', 'kept', '', '', '', '[]', now(), 1, now())",
            (trial, workspace, study, level[0]),
        )
        rows.execute(
            "insert into reading (trial_id, measure, payload, workspace_id, study_id, texts, unit, taken, stamps, source, kind, value, resolution, doubt)"
            " values (%s, 'm9', 1, %s, %s, '[\"2\"]', '', 'lanes', %s, '', 'exact', 2, 1, 0)",
            (trial, workspace, study, json.dumps([10.0, 11.2437])),
        )
        to_newest(where)
        got = rows.execute("select texts, unit, taken, kind, value, stamps from reading where trial_id = %s and measure = %s", (trial, times)).fetchone()
        assert got == (["1.24"], "s", "lanes", "exact", 1.24, [10.0, 11.2437])
        assert rows.execute("select count(*) from reading where trial_id = %s", (trial,)).fetchone() == (2,), "brought up once"
