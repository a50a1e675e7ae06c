"""The pages of help, as they lie in docs/: for teachers, and for whoever looks after Bendro."""

from __future__ import annotations

import re
from functools import cache
from typing import Literal

from fastapi import APIRouter
from markdown_it import MarkdownIt

from bendro import ROOT

from .shapes import HelpOut

router = APIRouter(prefix="/api/help", tags=["technical"])
Page = Literal["guide", "technician"]
#: A picture that is only named in brackets is left out; links between the pages lead to them when they are read in the program.
_PICTURE = re.compile(r' \(<a href="screenshots/[^"]+">[^<]*</a>\)')
_LINK = re.compile(r'<a href="([^":]+)">(.*?)</a>')


@router.get("/{page}", operation_id="help")
def help_page(page: Page) -> HelpOut:
    """A page of help as HTML, made of our own text alone."""
    return _made(page)


@cache
def _made(page: Page) -> HelpOut:
    text = (ROOT / "docs" / f"{page}.md").read_text(encoding="utf-8")
    title, _, rest = text.partition("\n")
    html = MarkdownIt("commonmark").enable("table").render(rest)
    return HelpOut(title=title.lstrip("# ").strip(), html=_LINK.sub(_within, _PICTURE.sub("", html)))


def _within(found: re.Match[str]) -> str:
    """A link to another page of help leads there; one to a picture or a file of the source is read as its words."""
    to, words = found[1].removesuffix(".md"), found[2]
    return f'<a href="/help/{to}">{words}</a>' if to in ("guide", "technician") else words
