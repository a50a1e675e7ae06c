"""A database as an earlier program left it is brought up: nothing is lost and no verdict changes its meaning."""

from __future__ import annotations

import gzip
import json
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Event
from typing import Any
from uuid import UUID, uuid4

import psycopg
import pytest
from alembic import command
from alembic.config import Config
from sqlmodel import Session, create_engine, select

from bendro.actions.analysing import analyse_study
from bendro.actions.bringing_up import to_newest
from bendro.actions.plan_rows import write_plan_rows
from bendro.actions.studies import home, standing
from bendro.actions.tables import study_table
from bendro.actions.trials import study_trials
from bendro.server.postgres import programs
from bendro.store.owned import Owned
from bendro.store.tables import Study, TurnRow, Workspace
from tests.conftest import DRAFT, ROOT, Application

pytestmark = pytest.mark.api


def shape(url: str, revision: str) -> None:
    """Bring an empty database into the shape of an earlier program."""
    config = Config()
    config.set_main_option("script_location", str(ROOT / "bendro" / "store" / "migrations"))
    config.attributes["url"] = url.replace("postgresql://", "postgresql+psycopg://")
    command.upgrade(config, revision)


@contextmanager
def database_of(app: Application, revision: str) -> Iterator[str]:
    """An empty database beside the application's, in the shape of an earlier program."""
    name = f"old_{uuid4().hex[:8]}"
    with psycopg.connect(app.database(), autocommit=True) as connection:
        connection.execute(f"create database {name}")
        url = app.database().rsplit("/", 1)[0] + f"/{name}"
        shape(url, revision)
        yield url
        connection.execute(f"drop database {name} with (force)")


@pytest.fixture
def old_database(app: Application) -> Iterator[str]:
    """The shape before units travelled with trials."""
    with database_of(app, "0002") as url:
        yield url


def fill(url: str) -> dict[str, Any]:
    """Rows as the earlier program wrote them: no units, the group written down as the person, limits bound by words."""
    ids = {k: str(uuid4()) for k in ("workspace", "study")}
    draft = {**DRAFT, "limits": [{"name": "pull-back", "value": "12 cm"}], "measure": DRAFT["measures"][0], "also": {"name": "off", "quantity": "length", "unit": "cm", "signed": True}}
    draft.pop("measures")
    with psycopg.connect(url, autocommit=True) as c:
        c.execute("insert into workspace (id, name, demo, created_at) values (%s, 'Old school', false, now())", (ids["workspace"],))
        c.execute(
            "insert into study (id, workspace_id, title, draft, seed, version, finished, created_at, changed_at)"
            " values (%s, %s, 'Old', %s, 7, 1, false, now(), now())",
            (ids["study"], ids["workspace"], json.dumps(draft)),
        )
        for n, (level, value, person) in enumerate([("4", 2.1, "Red"), ("4", 2.2, "Blue"), ("6", 3.1, "seat 2"), ("6", 3.3, "Red"), ("8", 4.1, "Red"), ("8", 4.2, "")]):
            c.execute(
                "insert into trial (id, workspace_id, study_id, block, level, group_label, person, texts, reading, also_text, also_reading,"
                " behaviour, state, fault, note, released_at, revision, received_at) values (%s, %s, %s, %s, %s, %s, %s, %s, %s, 'left 3', %s, '',"
                " 'kept', '', '', now() + %s * interval '1 minute', 1, now())",
                (
                    str(uuid4()), ids["workspace"], ids["study"], 1 + n % 2, level, "Red" if n != 1 else "Blue", person, json.dumps([f"{value}"]),
                    json.dumps({"kind": "exact", "value": value, "resolution": 0.1, "doubt": 0.029}),
                    json.dumps({"kind": "exact", "value": -3.0, "resolution": 1.0, "doubt": 0.29}), n,
                ),
            )  # fmt: skip
    return ids


def test_trials_gain_the_unit_of_their_plan_and_lose_a_person_that_was_made_up(old_database: str) -> None:
    ids = fill(old_database)
    to_newest(old_database.replace("postgresql://", "postgresql+psycopg://"))
    with psycopg.connect(old_database) as connection:
        rows = connection.execute("select person, others, outside from trial order by released_at").fetchall()
        readings = connection.execute("select measure, unit, kind, value from reading join trial on id = trial_id order by released_at, measure").fetchall()
    assert [r[:2] for r in readings] == [("m1", "m"), ("m2", "cm")] * 6
    assert [r[3] for r in readings[::2]] == [2.1, 2.2, 3.1, 3.3, 4.1, 4.2]
    assert [r[0] for r in rows] == ["", "", "seat 2", "", "", ""]
    assert all((r[1], r[2]) == ([], "") for r in rows)

    engine = create_engine(old_database.replace("postgresql://", "postgresql+psycopg://"))
    with Session(engine) as session:
        owned = Owned(session, ids["workspace"])  # type: ignore[arg-type]
        study = owned.get(Study, ids["study"])  # type: ignore[arg-type]
        found = analyse_study(owned, study.id)
        assert [(s.level, s.n_kept, s.mean) for s in found.levels] == [(4.0, 2, pytest.approx(2.15)), (6.0, 2, 3.2), (8.0, 2, pytest.approx(4.15))]
        stands = standing(owned, study)
        assert (stands.kept, stands.planned, stands.outside) == (6, 9, 0)
        assert [s.study.title for s in home(owned)] == ["Old"]
    engine.dispose()


DATA = ROOT / "tests" / "api" / "data"


@contextmanager
def dump_before(app: Application, revision: str = "0005") -> Iterator[str]:
    """The demo's database as the program before this revision left it: 0005 the record, 0008 the rows of the plan."""
    name = f"old_{uuid4().hex[:8]}"
    with psycopg.connect(app.database(), autocommit=True) as connection:
        connection.execute(f"create database {name}")
        url = app.database().rsplit("/", 1)[0] + f"/{name}"
        text = gzip.decompress((DATA / f"before-{revision}.sql.gz").read_bytes())
        subprocess.run([programs() / "psql", "-q", "-v", "ON_ERROR_STOP=1", url], input=text, check=True, timeout=60, capture_output=True)
        yield url
        connection.execute(f"drop database {name} with (force)")


def test_a_dump_of_the_program_before_gives_equal_verdicts_and_tables(app: Application) -> None:
    before = json.loads((DATA / "before-0005.json").read_text())
    with dump_before(app) as url:
        to_newest(url.replace("postgresql://", "postgresql+psycopg://"))
        engine = create_engine(url.replace("postgresql://", "postgresql+psycopg://"))
        with Session(engine) as session:
            owned = Owned(session, session.exec(select(Workspace.id)).one())
            for title, told in before.items():
                study = owned.get(Study, UUID(told["id"]))
                if told["levels"]:
                    found = analyse_study(owned, study.id)
                    assert found.verdict.says == told["says"], title
                    assert [[s.level, s.n_kept, s.mean] for s in found.levels] == told["levels"]
                stands = standing(owned, study)
                assert (stands.kept, stands.planned) == (told["kept"], told["planned"])
                assert study_table(owned, study.id).splitlines() == told["csv"].lstrip("\ufeff").splitlines()
        engine.dispose()
        with psycopg.connect(url) as rows:
            assert rows.execute("select count(*) from event where not body ? 'readings' or body ? 'texts'").fetchone() == (0,)


#: What was told before and is told otherwise since: the question asks what falls faster, so the shortest time is best.
SINCE = {
    "Fall time depends on tip cut; 0 cm is best. 0 cm and 2 cm differ by about 0.18 s (95 % interval 0.13 to 0.23 s).":
    "Fall time depends on tip cut; 2 cm is best. 2 cm and 0 cm differ by about 0.18 s (95 % interval 0.13 to 0.23 s).",
    # of a ladder no size is written: each specimen is known only between two rungs
    "So far these trials cannot tell whether skirt folds changes highest rung survived. The difference seen, 1.5 m, could be luck.":
    "So far these trials cannot tell whether skirt folds changes highest rung survived.",
}  # fmt: skip


def test_the_rows_of_a_plan_are_made_for_what_is_there(app: Application) -> None:
    """Everything is told as before, and each turn has its row, filled by the trial that filled it."""
    before = json.loads((DATA / "before-0008.json").read_text())
    with dump_before(app, "0008") as url:
        to_newest(url.replace("postgresql://", "postgresql+psycopg://"))
        engine = create_engine(url.replace("postgresql://", "postgresql+psycopg://"))
        with Session(engine) as session:
            owned = Owned(session, session.exec(select(Workspace.id)).one())
            at_home = {line.study.id: line for line in home(owned)}
            for one, told in before.items():
                study = owned.get(Study, UUID(one))
                if told["levels"]:
                    found = analyse_study(owned, study.id)
                    assert found.verdict.says == SINCE.get(told["says"], told["says"])
                    assert [[s.level, s.n_kept, s.mean] for s in found.levels] == told["levels"]
                for line in (standing(owned, study), at_home[study.id]):
                    assert [line.kept, line.planned, line.void, line.extra, line.outside] == [told[k] for k in ("kept", "planned", "void", "extra", "outside")]
                seen = study_trials(owned, study.id)
                assert {str(t.id): t.place for t in seen} == told["places"]
                assert study_table(owned, study.id).splitlines() == told["csv"].lstrip("\ufeff").splitlines()
                rows = session.exec(select(TurnRow).where(TurnRow.study_id == study.id).order_by(TurnRow.position)).all()  # type: ignore[arg-type]
                # a group has kept to one lane since, so lanes are told otherwise than they were
                assert [[r.position, r.block, r.level, r.group_label, r.heat] for r in rows] == [[*t[:4], t[5]] for t in told["turns"]]
                assert write_plan_rows(owned, study, before=study.draft) is None
                session.expire_all()
                again = session.exec(select(TurnRow).where(TurnRow.study_id == study.id).order_by(TurnRow.position)).all()  # type: ignore[arg-type]
                filled = {str(r.trial_id) for r in again if r.trial_id}
                assert filled <= {one for one, place in told["places"].items() if place == "turn"}
                assert len(filled) == told["kept"], "every turn that was filled is, drops on rungs as well once they are given out"
        engine.dispose()


def test_an_upgrade_that_is_killed_half_way_is_made_whole_by_the_next(app: Application) -> None:
    """The new shape comes in one transaction: a kill leaves the old one whole, and starting again brings it up."""
    with dump_before(app) as url:
        with psycopg.connect(url) as lock:
            lock.execute("lock table trial_event in access exclusive mode")  # the upgrade stops here, with half of it done
            code = f"from bendro.actions.bringing_up import to_newest; to_newest('{url.replace('postgresql://', 'postgresql+psycopg://')}')"
            worker = subprocess.Popen([sys.executable, "-c", code], cwd=ROOT)
            with psycopg.connect(app.database(), autocommit=True) as watch:
                waiting = "select count(*) from pg_stat_activity where datname = %s and wait_event_type = 'Lock'"
                for _ in range(600):
                    if watch.execute(waiting, (url.rsplit("/", 1)[1],)).fetchone() != (0,):
                        break
                    Event().wait(0.05)
                else:
                    pytest.fail("the upgrade never came to the lock")
            worker.kill()
            worker.wait(10)
        with psycopg.connect(url) as rows:
            assert rows.execute("select version_num from alembic_version").fetchone() == ("0004",)
            assert rows.execute("select to_regclass('reading')").fetchone() == (None,)
        for _ in range(2):
            to_newest(url.replace("postgresql://", "postgresql+psycopg://"))
        with psycopg.connect(url) as rows:
            assert rows.execute("select count(*) > 40 from reading").fetchone() == (True,)


@pytest.mark.parametrize("revision", ["0005", "0008"])
def test_of_several_that_start_at_one_moment_one_brings_it_up_and_the_others_wait(app: Application, revision: str) -> None:
    """And nothing is made twice: every turn has one row, every reading is there once."""
    with dump_before(app, revision) as url:
        where = url.replace("postgresql://", "postgresql+psycopg://")
        code = f"from bendro.actions.bringing_up import to_newest; to_newest('{where}')"
        several = [subprocess.Popen([sys.executable, "-c", code], cwd=ROOT, stderr=subprocess.PIPE, text=True) for _ in range(4)]
        assert [(p.wait(180), p.stderr.read() if p.stderr else "") for p in several] == [(0, "")] * 4
        with psycopg.connect(url) as rows:
            counted = "select (select count(*) from to_bring_up), (select count(*) from turn) > 50, (select count(*) from turn where trial_id is not null) > 20"
            assert rows.execute(counted).fetchone() == (0, True, True)


def test_whatever_belongs_to_a_row_is_found_by_an_index(app: Application) -> None:
    """Of every foreign key: among a district's rows none is looked for one by one when a study is opened or deleted."""
    with psycopg.connect(app.database()) as rows:
        missing = rows.execute("""
            with fk as (select c.conrelid::regclass::text as tab, c.conname::text as name, (select array_agg(a.attname::text order by k.n)
                from unnest(c.conkey) with ordinality k(att, n) join pg_attribute a on a.attrelid = c.conrelid and a.attnum = k.att) as cols
              from pg_constraint c where c.contype = 'f' and c.connamespace = 'public'::regnamespace),
            ix as (select i.indrelid::regclass::text as tab, i.indpred is not null as part, (select array_agg(a.attname::text order by k.n)
                from unnest(i.indkey::int[]) with ordinality k(att, n) join pg_attribute a on a.attrelid = i.indrelid and a.attnum = k.att) as cols
              from pg_index i join pg_class c on c.oid = i.indexrelid where c.relnamespace = 'public'::regnamespace)
            select fk.tab, fk.name from fk where not exists (select 1 from ix where ix.tab = fk.tab and ix.cols[1] = any(fk.cols)
              and (not ix.part or ix.cols = fk.cols) and (ix.cols[1] <> 'workspace_id' or fk.cols = array['workspace_id'] or ix.cols[2] = any(fk.cols)))
        """).fetchall()
    assert missing == []
