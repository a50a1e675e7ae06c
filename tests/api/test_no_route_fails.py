"""Whatever is sent to any route, the server answers with a sentence and never with a failure of its own."""

from __future__ import annotations

import httpx
import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings

from tests.conftest import Application, new_study, sign_up

pytestmark = pytest.mark.api


def test_no_route_fails(app: Application) -> None:
    document = httpx.get(f"{app.url}/api/openapi.json").json()
    document["paths"] = {p: m for p, m in document["paths"].items() if not p.startswith("/api/session")}
    teacher = sign_up(app)
    study = new_study(teacher)["id"]
    tried: set[str] = set()

    def send(case: schemathesis.Case) -> None:
        if "study_id" in (case.path_parameters or {}):
            case.path_parameters["study_id"] = study
        answer = case.call(base_url=app.url, cookies=dict(teacher.http.cookies))
        assert answer.status_code < 500, (case.method, case.path, str(case.body)[:800], answer.text)
        if answer.status_code >= 400:
            assert "application/problem+json" in str(answer.headers["content-type"])
        tried.add(f"{case.method} {case.path}")

    for found in schemathesis.openapi.from_dict(document).get_all_operations():
        bounded = settings(max_examples=15, deadline=None, database=None, suppress_health_check=list(HealthCheck))
        bounded(given(found.ok().as_strategy())(lambda case: send(case)))()
    assert len(tried) >= 12
