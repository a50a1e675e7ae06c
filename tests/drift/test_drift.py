"""What can drift apart is compared: layers, error codes and their page, words, the OpenAPI document and the types made from it."""

from __future__ import annotations

import ast
import json
import re
import subprocess
import sys
from pathlib import Path

import pytest

from tests.drift.errors_page import codes, page

ROOT = Path(__file__).resolve().parent.parent.parent
PACKAGE = ROOT / "bendro"
ALLOWED = {
    "core": {"core"},
    "files": {"core", "files"},
    "store": {"core", "store", "settings"},
    "actions": {"core", "files", "store", "actions", "settings"},
    "demo": {"core", "store", "actions", "demo"},
    "instruments": {"core", "instruments"},
    "live": {"core"},
    "api": {"core", "files", "store", "actions", "api", "settings", "instruments", "live", ""},
    "server": {"files", "store", "actions", "api", "settings", "demo", "core", "server", ""},
    "terminal": {"core", "files", "store", "actions", "instruments", "demo", "server", "settings", "terminal", ""},
}


def imports(file: Path) -> set[str]:
    """Modules of our own that a file imports, as dotted names from the package's root."""
    found = set()
    here = ("bendro", *file.relative_to(PACKAGE).parent.parts)
    for node in ast.walk(ast.parse(file.read_text())):
        if isinstance(node, ast.Import):
            found |= {a.name for a in node.names}
        elif isinstance(node, ast.ImportFrom):
            base = list(here[: len(here) - node.level + 1]) if node.level else []
            found.add(".".join([*base, *((node.module or "").split("."))]).strip("."))
    return {f for f in found if f.split(".")[0] == "bendro"}


def core_packages() -> dict[str, set[str]]:
    """What each package of the core imports of the others, at run time."""
    found: dict[str, set[str]] = {}
    for file in (PACKAGE / "core").rglob("*.py"):
        tree = ast.parse(file.read_text())
        for_types = {id(n) for test in ast.walk(tree) if isinstance(test, ast.If) and getattr(test.test, "id", "") == "TYPE_CHECKING" for n in ast.walk(test)}
        here = file.relative_to(PACKAGE / "core").parts
        own = here[0].removesuffix(".py")
        for node in ast.walk(tree):
            if isinstance(node, ast.ImportFrom) and node.level and id(node) not in for_types:
                base = [*here[:-1]][: len(here) - node.level]
                to = ([*base, *(node.module or "").split(".")])[0]
                if to and to != own:
                    found.setdefault(own, set()).add(to)
    return found


def test_the_packages_of_the_core_have_an_order_and_no_cycles() -> None:
    left = core_packages()
    left.pop("__init__", None)
    while left:
        free = [p for p, uses in left.items() if not uses & left.keys()]
        assert free, f"a cycle among {sorted(left)}"
        for p in free:
            left.pop(p)


def test_what_a_scale_decides_is_asked_of_the_scale() -> None:
    """Nobody asks a measure which scale it has: not in Python outside the frozen migrations, not on the pages."""
    asked = re.compile(r"\.scale\s*(?:[!=]==?|\bin\b|\bnot in\b)")
    files = [p for p in (ROOT / "bendro").rglob("*.py") if "migrations" not in p.parts]
    files += [p for end in ("ts", "tsx") for p in (ROOT / "web" / "src").rglob(f"*.{end}") if p.name != "schema.d.ts"]
    assert [f"{p.relative_to(ROOT)}: {m[0]}" for p in files for m in asked.finditer(p.read_text())] == []


def test_what_renders_a_conclusion_computes_nothing() -> None:
    """Reports, files and routes import no statistics; of the terminal only the commands on plain tables, which are the statistics."""
    for layer in ("core/report", "files", "api"):
        for file in (PACKAGE / layer).rglob("*.py"):
            assert not any(".statistics" in f for f in imports(file)), file
    for file in (PACKAGE / "terminal").glob("*.py"):
        assert file.name == "tables.py" or not any(".statistics" in f for f in imports(file)), file


@pytest.mark.parametrize("layer", list(ALLOWED))
def test_imports_point_inward_only(layer: str) -> None:
    files = [f for f in (PACKAGE / layer).rglob("*.py") if "migrations" not in f.parts]
    assert files
    for file in files:
        for name in imports(file):
            part = name.split(".")[1] if "." in name else ""
            assert part in ALLOWED[layer], f"{file.relative_to(ROOT)} imports {name}"


def test_the_top_of_the_package_shows_its_parts_and_nothing_else() -> None:
    assert {p.name for p in PACKAGE.iterdir() if p.name != "__pycache__"} == {*ALLOWED, "__init__.py", "settings.py"}


def test_no_action_commits_but_the_counting_of_wrong_tries_and_an_upgrade() -> None:
    ends = {f.name for f in (ROOT / "bendro" / "actions").glob("*.py") if re.search(r"\.(commit|rollback)\(", f.read_text())}
    assert ends == {"tries.py", "bringing_up.py"}


def test_the_core_loads_neither_web_nor_database() -> None:
    code = "import bendro.core.analyse, bendro.core.planning.plan, sys; print([m for m in ('fastapi','sqlmodel','sqlalchemy','psycopg','starlette') if m in sys.modules])"
    assert subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, cwd=ROOT).stdout.strip() == "[]"


def test_every_error_code_stands_on_the_page_with_its_sentence() -> None:
    assert (ROOT / "docs" / "errors.md").read_text() == page(), "run bin/types"
    assert len(codes()) > 80
    short = {code: says for code, says in codes().items() if len(says) < 12}
    assert short == {}


def test_the_factors_of_units_are_those_of_the_library() -> None:
    from bendro.core.readings.units import factors_file

    assert (PACKAGE / "core" / "readings" / "factors.json").read_text() == factors_file(), "run bin/types"


def test_the_choices_on_the_pages_are_those_of_the_core() -> None:
    from bendro.api.choices import choices_file, rights_file, scales_file, seeing_file

    assert (ROOT / "web" / "src" / "planning" / "choices.gen.ts").read_text() == choices_file(), "run bin/types"
    assert (ROOT / "web" / "src" / "data" / "scales.gen.ts").read_text() == scales_file(), "run bin/types"
    assert (ROOT / "web" / "src" / "data" / "rights.gen.ts").read_text() == rights_file(), "run bin/types"
    assert (ROOT / "web" / "src" / "stages" / "run" / "seeing" / "looked.gen.ts").read_text() == seeing_file(), "run bin/types"


def test_the_api_document_and_the_types_made_from_it_are_fresh(tmp_path: Path) -> None:
    from bendro.api.document import document

    assert (ROOT / "docs" / "openapi.json").read_text() == document(), "run bin/types"
    made = tmp_path / "schema.d.ts"
    subprocess.run(
        ["npx", "openapi-typescript", str(ROOT / "docs" / "openapi.json"), "-o", str(made)],
        cwd=ROOT / "web",
        check=True,
        capture_output=True,
    )
    assert (ROOT / "web" / "src" / "data" / "schema.d.ts").read_text() == made.read_text(), "run bin/types"


UNUSED_WORDS = {"tenant", "organisation", "experiment", "condition", "datapoint", "attempt", "slot"}


def test_one_word_for_each_notion_in_the_contract_of_the_api() -> None:
    names = set(re.findall(r'"([a-z_]+)": \{', (ROOT / "docs" / "openapi.json").read_text()))
    assert not names & UNUSED_WORDS
    for word in ("study", "trial", "level", "reading", "measure", "variable", "fault", "verdict"):
        assert word in (ROOT / "docs" / "words.md").read_text()
        assert any(
            word in n
            for n in names | {s.lower() for s in json.loads((ROOT / "docs" / "openapi.json").read_text())["components"]["schemas"]}
        ), word



def test_every_exclamation_mark_is_left_out_of_what_people_read() -> None:
    for file in [*(PACKAGE / "core").rglob("*.yaml"), ROOT / "docs" / "errors.md"]:
        assert "!" not in file.read_text(), file


def test_stages_of_the_web_do_not_import_each_others_store_of_truth() -> None:
    machines = [*(ROOT / "web/src/machines").glob("*.ts"), ROOT / "web/src/tape/geometry.ts"]
    for file in machines:
        assert "from 'react'" not in file.read_text(), file.name


def test_no_stage_of_the_web_imports_another_and_no_type_is_silenced() -> None:
    """What two stages share lies in planning, data, machines, parts or tape."""
    src = ROOT / "web" / "src"
    across, silenced = [], []
    for file in [*src.rglob("*.ts"), *src.rglob("*.tsx")]:
        text, inside = file.read_text(), file.relative_to(src)
        if file.name != "schema.d.ts" and re.search(r"\bas (never|any)\b(?! typed| read)", re.sub(r"//.*|/\*[\s\S]*?\*/", "", text)):
            silenced.append(str(inside))
        if inside.parts[0] == "stages" and len(inside.parts) > 2:
            for target in re.findall(r"from '(\.\.?/[^']+)'", text):
                to = (file.parent / target).resolve().relative_to(src)
                if to.parts[0] == "stages" and to.parts[1] != inside.parts[1]:
                    across.append(f"{inside} -> {to}")
    assert across == []
    assert silenced == []


def test_the_steps_of_the_database_know_nothing_of_the_program_that_goes_on() -> None:
    for file in (PACKAGE / "store" / "migrations" / "versions").glob("*.py"):
        assert imports(file) == set(), file
