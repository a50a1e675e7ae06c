"""Every lesson of the job from Home to the poster, by somebody who knows only the lesson; presses are counted and printed."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
import yaml
from playwright.sync_api import Page

from tests.conftest import TeacherClient
from tests.ui.lessons.runner import Lesson, every, run

pytestmark = [pytest.mark.ui, pytest.mark.lesson]
LESSONS = every(Path(__file__).parent)


@pytest.mark.parametrize("file", LESSONS, ids=[f.stem for f in LESSONS])
def test_a_lesson_whole(file: Path, signed_in: tuple[Page, TeacherClient], record_property: Callable[[str, object], None]) -> None:
    page, teacher = signed_in
    lesson = Lesson.model_validate(yaml.safe_load(file.read_text(encoding="utf-8")))
    ran = run(lesson, page, teacher)
    for name, value in (("lesson", file.stem), ("first", ran.first), ("all", ran.all)):
        record_property(name, value)
    assert ran.first <= lesson.presses
