"""The short form of `bin/calibrate`: how often the verdict errs, over all kinds of study together, and that the long form's page is
whole. Seeded, so it fails for a reason or not at all."""

from __future__ import annotations

from typing import Any

import pytest

from bench import calibrate

#: So many studies over the cells of each table; a share p of them is known to about √(p(1 − p)/n).
STUDIES = 120


@pytest.mark.parametrize("table", calibrate.TABLES, ids=lambda t: t.title[:40])
def test_the_verdict_errs_as_seldom_as_is_promised(table: calibrate.Table) -> None:
    cells = table.cells[:: max(1, len(table.cells) // 24)]
    slow = table.measure in (calibrate.extended, calibrate.settled, calibrate.watched)
    each = max(2, STUDIES // len(cells) // (8 if slow else 1))
    shares = [table.measure((cell, each, 50 + n)) for n, cell in enumerate(cells)]
    bound = sum(calibrate.wanted_of(table, cell) for cell in cells) / len(cells)
    bound = bound if table.above else max(bound, 0.055)
    error = 3 * (bound * (1 - bound) / (each * len(cells))) ** 0.5
    mean = sum(shares) / len(shares)
    assert mean >= bound - error if table.above else mean <= bound + error, (mean, bound, error)


def test_the_page_has_every_table_and_nothing_beyond_its_bound() -> None:
    page = calibrate.PAGE.read_text()
    for table in calibrate.TABLES:
        assert f"## {table.title}" in page
    assert page.count(" beyond |") == 0


@pytest.mark.parametrize(("share", "good"), [(0.049, True), (0.2, False)])
def test_a_judge_that_errs_would_be_told(share: float, good: bool, monkeypatch: pytest.MonkeyPatch, capsys: Any) -> None:
    told = calibrate.Table("Told", lambda _: share, [calibrate.Cell("name", 2, 3)], 0.05)
    assert (calibrate.mark(told, told.cells[0], share, 60) != " beyond") is good
