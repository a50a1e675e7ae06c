"""What must not be said on a screen, on paper or in the terminal, of every text that docs/strings.py lists."""

from __future__ import annotations

import importlib.util
import re
from collections.abc import Callable, Iterator
from typing import Any

import pytest

from tests.conftest import ROOT


def _strings() -> Callable[[], Iterator[tuple[str, str]]]:
    spec = importlib.util.spec_from_file_location("strings", ROOT / "docs" / "strings.py")
    assert spec is not None
    assert spec.loader is not None
    module: Any = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module.strings  # type: ignore[no-any-return]


TEXTS = list(_strings()())

#: Not said, and what is said instead.
NEVER = {
    r"\bthrow(n|s|ing)? away\b|\btak(e|en) back\b|\bbring it back\b": "Undo (the last act), Remove (a part), Delete (a study, for thirty days), Restore",
    r"\bmeasurements?\b": "measure",
    r"\b(attempts?|data points?)\b": "trial, reading",
    r"\bAs it is now\b": "Conditions now",
    r"\bstudents?\b|\bkids\b": "pupil",
    r"\binvalid\b|\bincorrect\b|\bplease\b|\boops\b|\berror occurred\b": "what was seen, why it cannot be, what to do",
    r"[A-Za-z]!(?!=)": "no exclamation marks",
    r"\b[Bb]ecause: because\b": "Because",
    r"\b1 (trials|readings|levels|repeats|coins|devices|versions|drops|pieces|people|lanes)\b": "one of a kind has no s",
    r"\bit's\b|\bdon't\b|\bcan't\b|\bwon't\b|\bisn't\b": "whole words, or a curved apostrophe",
    r"\d \d{3}\b(?! ?(fps|Hz|×|px))": "1,720",
}
#: Where such words are the thing itself: a command's own words, what a person may type, film formats.
ALLOWED = (
    re.compile(r"^bendro/(terminal|server|settings)"),
    re.compile(r"^bendro/core/readings/"),
    re.compile(r"^bendro/core/practice/"),
)


def test_the_list_is_whole() -> None:
    said = {text for _, text in TEXTS}
    for text in (
        "Write the first device down",
        "The result is clear; you can stop. Change one other thing next….",
        "Lines are equal and attached in order round the rim.",
        "What could be changed?",
    ):
        assert any(text in s for s in said), text


@pytest.mark.parametrize("never", NEVER)
def test_is_never_said(never: str) -> None:
    found = [f"{where}: {text}" for where, text in TEXTS if re.search(never, text) and not any(a.search(where) for a in ALLOWED)]
    assert found == [], f"say instead: {NEVER[never]}"
