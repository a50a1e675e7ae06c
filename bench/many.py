"""A district's database, made in PostgreSQL itself, and what is asked of it every minute: `bin/make-many N` makes one database with a school of the
usual size, the same school again among N trials of other schools, and times Home, a study and a save in both through the program; and the same
statements on tables partitioned by school. Prints; asserts nothing, since machines are shared and noisy. Everything is thrown away at the end."""

from __future__ import annotations

import argparse
import json
import shutil
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from uuid import uuid4

import httpx
import psycopg

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from bench.run import put_trial, table_of, wide
from tests.conftest import Application, sign_up

#: Of the school that is timed: studies and the trials of each; and of the others.
STUDIES, EACH, SCHOOL_STUDIES = 60, 40, 300
BATCH = 1_000_000
TABLES = ("trial", "reading", "event", "turn")


def main() -> int:
    asked = argparse.ArgumentParser(prog="bin/make-many", description="A database of very many trials, and how the program does in it.")
    asked.add_argument("trials", type=int, nargs="?", default=2_000_000, help="trials of other schools (20000000 takes most of an hour and 40 GB)")
    asked.add_argument("--data", type=Path, help="make it here and keep it")
    given = asked.parse_args()
    folder = given.data or Path(tempfile.mkdtemp(prefix="bendro-many-"))
    folder.mkdir(parents=True, exist_ok=True)
    folder.chmod(0o755)
    app = Application(folder / "data", "--no-demo")
    app.start()
    try:
        teacher = sign_up(app)
        for n in range(STUDIES):
            teacher.http.post("/api/tables/study", json=table_of(EACH, f"Study {n}", f"pull {n} (cm)")).raise_for_status()
        study = wide(teacher, "Saved into")
        for n in range(40):
            put_trial(teacher.http, study, n)
        large = teacher.http.post("/api/tables/study", json=table_of(2_000, "Large")).raise_for_status().json()["id"]
        with psycopg.connect(app.database(), autocommit=True) as rows:
            rows.execute("vacuum analyze")
            sizes(rows, "small")
            small = measure(app, teacher.http, study, large)
            fill(rows, given.trials)
            sizes(rows, f"{given.trials:,} trials")
            big = measure(app, teacher.http, study, large)
            for name, before in small.items():
                print(f"  {name:28} small {1e3 * before:8.2f} ms   large {1e3 * big[name]:8.2f} ms   ratio {big[name] / before:5.2f}", flush=True)
            partitioned(rows, teacher.name)
    finally:
        app.stop()
        if given.data is None:
            shutil.rmtree(folder, ignore_errors=True)
    return 0


def median(n: int, act: Callable[[int], object]) -> float:
    act(0)
    took = []
    for i in range(1, n + 1):
        began = time.perf_counter()
        act(i)
        took.append(time.perf_counter() - began)
    return statistics.median(took)


def measure(app: Application, http: httpx.Client, study: dict[str, object], large: str) -> dict[str, float]:
    """Seconds of what screens ask, through the program."""
    counted = iter(range(1_000, 100_000))
    def anew() -> float:
        """Home when every study of the school has changed: nothing of it is known."""
        with psycopg.connect(app.database(), autocommit=True) as rows:
            rows.execute("update study set version = version + 1 where title like 'Study %%' and workspace_id = (select workspace_id from study where id = %s)", (large,))
        began = time.perf_counter()
        http.get("/api/studies").raise_for_status()
        return time.perf_counter() - began

    return {
        "Home, nothing known of it": statistics.median(anew() for _ in range(7)),
        "Home": median(15, lambda _: http.get("/api/studies").raise_for_status()),
        "a study of 2,000 trials": median(9, lambda _: http.get(f"/api/studies/{large}/trials?n={uuid4()}").raise_for_status()),
        "a study, all rows read": median(9, lambda _: http.get(f"/api/studies/{large}/trials.csv").raise_for_status()),
        "a save": median(150, lambda _: put_trial(http, study, next(counted))),  # type: ignore[arg-type]
    }


def fill(rows: psycopg.Connection[tuple[object, ...]], trials: int) -> None:
    """Schools of SCHOOL_STUDIES studies of EACH trials, copied in PostgreSQL itself from the one that is there; foreign keys hold, so nothing is
    looked at again while it is copied."""
    began = time.monotonic()
    per_school = SCHOOL_STUDIES * EACH
    schools = max(1, trials // per_school)
    rows.execute("set session_replication_role = replica")
    rows.execute("set synchronous_commit = off")
    rows.execute("create temp table pattern as select * from study where title like 'Study %' order by title limit 1")
    rows.execute(f"insert into workspace (id, name, demo, created_at) select gen_random_uuid(), 'School ' || n, false, now() from generate_series(1, {schools}) n")
    columns = _columns(rows, "study", "id", "workspace_id", "title")
    rows.execute(
        f"insert into study (id, workspace_id, title, {columns}) select gen_random_uuid(), w.id, 'Study ' || n, {_of('pattern', columns)} from workspace w, pattern, generate_series(1, {SCHOOL_STUDIES}) n"
        " where w.name like 'School %'"
    )  # type: ignore[arg-type]
    rows.execute("create temp table made as select s.id, s.workspace_id, row_number() over () as n from study s join workspace w on w.id = s.workspace_id where w.name like 'School %'")
    rows.execute("create index on made (n)")
    for table in ("level", "measure", "turn"):
        columns = _columns(rows, table, "study_id", "workspace_id", "trial_id")
        rows.execute(f"insert into {table} (study_id, workspace_id, {columns}) select m.id, m.workspace_id, {_of('x', columns)} from made m, {table} x where x.study_id = (select id from pattern)")  # type: ignore[arg-type]
    per_step = max(1, BATCH // EACH)
    last = schools * SCHOOL_STUDIES
    of_trial, of_reading, of_event = _columns(rows, "trial", "id", "workspace_id", "study_id"), _columns(rows, "reading", "trial_id", "workspace_id", "study_id"), _columns(rows, "event", "id", "workspace_id", "study_id", "subject")
    for first in range(1, last + 1, per_step):
        rows.execute("drop table if exists step")
        rows.execute(
            "create temp table step as select gen_random_uuid() as own, t.id as was, m.id as study, m.workspace_id as school from made m, trial t"
            f" where m.n between {first} and {first + per_step - 1} and t.study_id = (select id from pattern)"
        )
        rows.execute(f"insert into trial (id, workspace_id, study_id, {of_trial}) select s.own, s.school, s.study, {_of('t', of_trial)} from step s join trial t on t.id = s.was")  # type: ignore[arg-type]
        rows.execute(f"insert into reading (trial_id, workspace_id, study_id, {of_reading}) select s.own, s.school, s.study, {_of('r', of_reading)} from step s join reading r on r.trial_id = s.was")  # type: ignore[arg-type]
        rows.execute(
            f"insert into event (workspace_id, study_id, subject, {of_event}) select s.school, s.study, s.own, {_of('e', of_event)} from step s join event e on e.subject = s.was and e.kind = 'trial'"
        )  # type: ignore[arg-type]
        print(f"  {min(first + per_step - 1, last) * EACH:,} trials after {time.monotonic() - began:.0f} s", flush=True)
    rows.execute("reset session_replication_role")
    rows.execute("vacuum analyze")


def _columns(rows: psycopg.Connection[tuple[object, ...]], table: str, *but: str) -> str:
    names = [str(name) for (name,) in rows.execute("select column_name from information_schema.columns where table_schema = 'public' and table_name = %s order by ordinal_position", (table,))]
    return ", ".join(f'"{n}"' for n in names if n not in but)


def _of(alias: str, columns: str) -> str:
    return ", ".join(f"{alias}.{c}" for c in columns.split(", "))


def sizes(rows: psycopg.Connection[tuple[object, ...]], what: str) -> None:
    """Bytes of a trial with its reading and its event, with their indexes."""
    found = {t: rows.execute("select pg_total_relation_size(%s), pg_relation_size(%s), (select count(*) from trial)", (t, t)).fetchone() for t in TABLES}
    trials = int(next(iter(found.values()))[2])  # type: ignore[index,call-overload]
    told = {t: {"bytes of a trial": round(int(f[0]) / trials), "of them rows": round(int(f[1]) / trials)} for t, f in found.items() if f}  # type: ignore[call-overload]
    whole = rows.execute("select pg_database_size(current_database())").fetchone()
    print(f"{what}: {trials:,} trials, {int(whole[0]) / 1e9:.2f} GB; {json.dumps(told)}", flush=True)  # type: ignore[index,call-overload]


#: The statements of Home and of a study in plain SQL, on a table of trials and of readings.
_HOME = "select t.study_id, t.id, t.block, t.level, t.state, r.unit from {trial} t join {reading} r on r.trial_id = t.id{same} where t.workspace_id = %(school)s"
_STUDY = "select t.*, r.* from {trial} t join {reading} r on r.trial_id = t.id{same} where t.study_id = %(study)s and t.workspace_id = %(school)s"


def partitioned(rows: psycopg.Connection[tuple[object, ...]], teacher: str, parts: int = 16) -> None:
    """The same rows in tables divided by school (hash of workspace_id), and the same questions; the key then begins with the school."""
    began = time.monotonic()
    for table, key in (("trial", "workspace_id, id"), ("reading", "workspace_id, trial_id, measure, payload")):
        rows.execute(f"create table {table}_parts (like {table}) partition by hash (workspace_id)")  # type: ignore[arg-type]
        for n in range(parts):
            rows.execute(f"create table {table}_part_{n} partition of {table}_parts for values with (modulus {parts}, remainder {n})")  # type: ignore[arg-type]
        rows.execute(f"insert into {table}_parts select * from {table}")  # type: ignore[arg-type]
        rows.execute(f"alter table {table}_parts add primary key ({key})")  # type: ignore[arg-type]
    rows.execute("create index on trial_parts (study_id, released_at)")
    rows.execute("vacuum analyze trial_parts")
    rows.execute("vacuum analyze reading_parts")
    mine = rows.execute("select s.workspace_id, s.id from study s where s.title = 'Large'").fetchone()
    assert mine is not None
    given = {"school": mine[0], "study": mine[1]}
    ways = {"whole tables": {"trial": "trial", "reading": "reading", "same": ""}, f"{parts} parts": {"trial": "trial_parts", "reading": "reading_parts", "same": " and r.workspace_id = t.workspace_id"}}
    print(f"Divided by school into {parts} parts within {time.monotonic() - began:.0f} s", flush=True)
    for name, names in ways.items():
        home = median(15, lambda _, names=names: rows.execute(_HOME.format(**names), given).fetchall())  # type: ignore[misc,arg-type]
        study = median(15, lambda _, names=names: rows.execute(_STUDY.format(**names), given).fetchall())  # type: ignore[misc,arg-type]
        key = "id" if name == "whole tables" else "workspace_id, id"
        add = f"insert into {names['trial']} select (t).* from (select jsonb_populate_record(t, jsonb_build_object('id', gen_random_uuid())) as t from {names['trial']} t where t.study_id = %(study)s and t.workspace_id = %(school)s limit 1) one on conflict ({key}) do nothing"
        save = median(60, lambda _, add=add: rows.execute(add, given))  # type: ignore[misc,arg-type]
        print(f"  {name:14} Home {1e3 * home:7.2f} ms   a study {1e3 * study:7.2f} ms   a bare insert {1e3 * save:6.2f} ms", flush=True)
    whole = rows.execute("select pg_total_relation_size('trial'), (select sum(pg_total_relation_size(inhrelid)) from pg_inherits where inhparent = 'trial_parts'::regclass)").fetchone()
    print(f"  trial: whole {int(whole[0]) / 1e9:.2f} GB, in parts {int(whole[1]) / 1e9:.2f} GB", flush=True)  # type: ignore[index,call-overload]


if __name__ == "__main__":
    sys.exit(main())
