"""Attacks on the door: every route by those who may not, and whatever can be sent."""

from __future__ import annotations

import json
import random
import re
from collections import Counter
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx

from bench.attack_class import running
from tests.api.test_access_and_ownership import OPEN_ROUTES
from tests.conftest import DRAFT, sign_up, trial_body


def every_route(folder: Path, _: random.Random) -> str:
    """Each route without a session, by a teacher of another school, from another page, and under another name."""
    with running(folder) as (app, mine, path):
        study = path.split("/")[3]
        trial = str(uuid4())
        mine.ok("PUT", f"{path}/{trial}", json=trial_body())
        mine.ok("PUT", f"/api/studies/{study}/versions/{trial}", json={"device": "Red"})
        before = [mine.ok("GET", p) for p in (f"/api/studies/{study}", path, f"/api/studies/{study}/versions", "/api/school")]
        other = sign_up(app)
        tried: Counter[str] = Counter()
        ids = {"study_id": study, "trial_id": trial, "version_id": trial, "account_id": before[3]["teachers"][0]["id"]}
        ids["sign_in_id"] = before[3]["sign_ins"][0]["id"]
        document = httpx.get(f"{app.url}/api/openapi.json").json()
        for template, methods in document["paths"].items():
            filled = re.sub(r"\{(\w+)\}", lambda m: ids.get(m[1], str(uuid4())), template)
            for method, spec in methods.items():
                body: Any = None if method in ("get", "delete") else {}
                query = {p["name"]: "4" for p in spec.get("parameters", []) if p["in"] == "query" and p.get("required")}
                foreign = httpx.request(
                    method,
                    app.url + filled,
                    json=body,
                    params=query,
                    headers={"Origin": "http://elsewhere.example"},
                    cookies=mine.http.cookies,
                )
                renamed = httpx.request(
                    method, app.url + filled, json=body, params=query, headers={"Host": "elsewhere.example"}, cookies=mine.http.cookies
                )
                assert renamed.status_code == 421, f"{method} {template} answers {renamed.status_code} under another name"
                assert method == "get" or foreign.status_code == 403, f"{method} {template} answers {foreign.status_code} to another page"
                tried["another name"] += 1
                tried["another page"] += method != "get"
                if (method, template) in OPEN_ROUTES:
                    continue
                nobody = httpx.request(method, app.url + filled, json=body, params=query)
                assert nobody.status_code in (401, 422), f"{method} {template} answers {nobody.status_code} without a session"
                assert nobody.status_code == 401 or method != "get", f"{method} {template} looks at what nobody sent"
                tried["nobody"] += 1
                if "{" in template:
                    strange = other.http.request(method, filled, json=body, params=query)
                    assert strange.status_code in (204, 404, 422), f"{method} {template} answers {strange.status_code} to another school"
                    assert before[0]["title"] not in strange.text, f"{method} {template} shows another school's study"
                    tried["another school"] += 1
        after = [mine.ok("GET", p) for p in (f"/api/studies/{study}", path, f"/api/studies/{study}/versions", "/api/school")]
        assert before == after, "something was changed by those who may not"
        return f"{tried.total()} calls refused ({', '.join(f'{n} by {who}' for who, n in tried.items())}), nothing shown or changed"


_PIECES = [
    "4.52",
    "4,52",
    "1.250",
    "14 ft 10 in",
    "≥",
    "~",
    "<",
    "3½",
    "−",
    "-",
    "m",
    "cm",
    "oz",
    "'",
    '"',
    "e99",
    "1e-400",
    "NaN",
    "٣",
    "\u202e",
    "\U0001f680",
    " ",
    "\t",
    "+",
    "5:32",
    "9" * 300,
    "survived",
    "left",
    "0x1f",
    "°",
]


def _wild(chance: random.Random, depth: int = 0) -> Any:
    """Anything that JSON can say."""
    kind = chance.randrange(9 if depth < 3 else 7)
    if kind == 7:
        return [_wild(chance, depth + 1) for _ in range(chance.randrange(4))]
    if kind == 8:
        return {chance.choice(["id", "readings", "level", "draft", "x"]): _wild(chance, depth + 1) for _ in range(chance.randrange(4))}
    return [None, True, 0, -(2**70), 1e308, "".join(chance.choices(_PIECES, k=3)), "\u0000"][kind]


def _bent(chance: random.Random, body: dict[str, Any]) -> Any:
    """A good body with one place made wrong."""
    made = json.loads(json.dumps(body))
    at: Any = made
    for _ in range(3):
        keys = list(at) if isinstance(at, dict) else list(range(len(at)))
        if not keys:
            break
        key = chance.choice(keys)
        if isinstance(at[key], dict | list) and at[key] and chance.random() < 0.6:
            at = at[key]
            continue
        at[key] = _wild(chance)
        break
    return made


def fuzz(folder: Path, chance: random.Random) -> str:
    """Readings, tables, plans and bodies made by chance: an answer to each, never a failure, and the good ones kept."""
    with running(folder) as (_, teacher, path):
        study = path.removesuffix("/trials")
        answers: Counter[int] = Counter()
        kinds: Counter[str] = Counter()

        def send(kind: str, method: str, where: str, **what: Any) -> httpx.Response:
            answer = teacher.http.request(method, where, **what)
            kinds[kind] += 1
            answers[answer.status_code] += 1
            assert answer.status_code < 500, f"{kind}: {method} {where} {str(what)[:300]} answers {answer.status_code}: {answer.text[:200]}"
            return answer

        kept = 0
        for _ in range(1_500):
            send(
                "readings",
                "POST",
                f"{study}/readings",
                json={"texts": ["".join(chance.choices(_PIECES, k=chance.randrange(1, 5)))], "unit": "m"},
            )
        for _ in range(300):
            rows = "\n".join(
                ",".join(chance.choices([*_PIECES, '"a,b"', "", "\r"], k=chance.randrange(1, 5))) for _ in range(chance.randrange(8))
            )
            mark = chance.choice([b"", b"\xef\xbb\xbf", b"\xff\xfe"])
            send(
                "tables",
                "POST",
                "/api/tables",
                content=mark + f"pull-back,distance\n{rows}".encode("utf-8", "surrogatepass"),
                headers={"Content-Type": "text/csv"},
            )
        for _ in range(300):
            draft = _bent(chance, DRAFT)
            whole = {"id": str(uuid4()), "title": "Made by chance", "draft": draft}
            made = send("plans", "POST", "/api/studies", content=json.dumps(whole), headers={"Content-Type": "application/json"})
            if made.is_success:
                for page in ("", "/ahead", "/analysis", "/shopping", "/trials.csv"):
                    send("plans", "GET", f"/api/studies/{made.json()['id']}{page}")
        for _ in range(600):
            answer = send(
                "bodies",
                "PUT",
                f"{path}/{uuid4()}",
                content=json.dumps(_bent(chance, trial_body())),
                headers={"Content-Type": "application/json"},
            )
            kept += answer.is_success
        there = len(teacher.ok("GET", path))
        assert there == kept, f"{there} trials of {kept} acknowledged"
        return f"{', '.join(f'{n} {kind}' for kind, n in kinds.items())}: none failed ({', '.join(f'{n} × {s}' for s, n in sorted(answers.items()))}); {kept} trials acknowledged and there"
