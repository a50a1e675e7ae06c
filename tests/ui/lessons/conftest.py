"""Presses of each lesson, told at the end."""

from __future__ import annotations

from typing import Any


def pytest_terminal_summary(terminalreporter: Any) -> None:
    told = [dict(r.user_properties) for r in terminalreporter.stats.get("passed", []) if "lesson" in dict(r.user_properties)]
    if told:
        terminalreporter.section("presses and fields: to the first kept trial, and in all")
    for one in sorted(told, key=lambda t: str(t["lesson"])):
        terminalreporter.write_line(f"{one['lesson']:<24} {one['first']:>3} {one['all']:>4}")
