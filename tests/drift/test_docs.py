"""What the README, the guide and the technician's page show is true: commands are run and their output compared, options and files exist."""

from __future__ import annotations

import re
import shlex
import subprocess
import sys
from pathlib import Path

import pytest

from bendro.server.options import parser
from bendro.settings import Settings
from bendro.terminal.commands import WHERE, command_named

ROOT = Path(__file__).resolve().parent.parent.parent
PAGES = ("README.md", "docs/guide.md", "docs/technician.md", "docs/scale.md")
BLOCK = re.compile(r"^```[a-z]*\n(.*?)^```", re.MULTILINE | re.DOTALL)
OPTIONS = {o for action in parser()._actions for o in action.option_strings}


def text_of(page: str) -> str:
    return (ROOT / page).read_text(encoding="utf-8")


def shown() -> list[tuple[str, str, list[str]]]:
    """Page, command and the lines that are shown after it, of every command with its output."""
    found = []
    for page in PAGES:
        for block in BLOCK.findall(text_of(page)):
            for one in re.split(r"^\$ ", block, flags=re.MULTILINE)[1:]:
                command, *lines = one.rstrip("\n").split("\n")
                found.append((page, command, lines))
    return found


def commands(page: str) -> list[str]:
    """Every command of ours that a page names, in a block or in a sentence."""
    text = text_of(page)
    inline = [c for c in re.findall(r"`([^`\n]+)`", BLOCK.sub("", text)) if re.match(r"bin/[a-z]", c)]
    return [*inline, *(line.removeprefix("$ ").partition("     #")[0] for block in BLOCK.findall(text) for line in block.splitlines() if re.match(r"(\$ )?bin/", line))]


def test_there_are_commands_with_their_output() -> None:
    assert len(shown()) >= 6


@pytest.mark.parametrize(("page", "command", "lines"), shown(), ids=[c[:60] for _, c, _ in shown()])
def test_a_command_says_what_its_page_shows(page: str, command: str, lines: list[str]) -> None:
    """A line of three dots stands for the rest."""
    words = shlex.split(command)
    assert words[0] == "bin/bendro", f"{page} shows the output of {words[0]}, which this test does not run"
    done = subprocess.run([sys.executable, "-m", "bendro.terminal", *words[1:]], capture_output=True, text=True, cwd=ROOT, check=True)
    said = done.stdout.rstrip("\n").split("\n")
    if lines[-1:] == ["…"]:
        lines = lines[:-1]
        said = said[: len(lines)]
    assert said == lines


@pytest.mark.parametrize("page", PAGES)
def test_every_command_and_option_that_a_page_names_exists(page: str) -> None:
    known = {name: {o for p in command.params for o in (*p.opts, *p.secondary_opts)} | {"--help"} for name, command in ((n, command_named(n)) for n in WHERE)}
    for command in commands(page):
        words = re.sub(r"[\[\]]", "", command).split()
        assert (ROOT / words[0]).is_file(), f"{page}: {command}"
        options = {w.partition("=")[0] for w in words if w.startswith("--")}
        if words[0] == "bin/start":
            assert options <= OPTIONS, f"{page}: {command}"
        elif words[0] == "bin/bendro" and len(words) > 1 and not words[1].startswith("-"):
            assert words[1] in known, f"{page}: {command}"
            assert options <= known[words[1]], f"{page}: {command}"


@pytest.mark.parametrize("page", PAGES)
def test_every_file_and_setting_that_a_page_names_exists(page: str) -> None:
    text = text_of(page)
    for link in re.findall(r"\]\(([^):#]+)\)", text):
        assert ((ROOT / page).parent / link).exists(), f"{page} links to {link}"
    for name in re.findall(r"`((?:packaging|docs|tests|bench)/[\w./-]+)`", text):
        assert (ROOT / name).exists(), f"{page} names {name}"
    settings = {f"BENDRO_{n.upper()}" for n in Settings.model_fields} | {"BENDRO_BENCH_S"}
    assert set(re.findall(r"BENDRO_[A-Z_]+", text)) <= settings


def test_the_readme_is_read_in_three_minutes() -> None:
    assert len(re.findall(r"\w+", text_of("README.md"))) < 3 * 250  # a grown-up reads 200 to 250 words a minute (common practice)


def test_help_tells_every_setting_with_its_meaning() -> None:
    told = parser().format_help()
    for name, field in Settings.model_fields.items():
        assert f"BENDRO_{name.upper()}" in told
        assert field.description
        assert field.description.split("\n")[0][:40] in told
