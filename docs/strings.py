"""Every text that somebody may read on a screen, on paper or in the terminal, a line each with where it stands: `python docs/strings.py`. It is read
aloud once by whoever changes it; what must not be said is held by tests/drift/test_words.py."""

from __future__ import annotations

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
#: Folders of Python whose texts reach people; what is logged or kept in tables is not among them.
SPOKEN = ("core", "actions", "files", "demo", "api", "backup")
_WORDS = re.compile(r"[A-Za-z’']{2,} [A-Za-z’'(“]|^[A-Z][a-z]+[.?]?$")
_CODE = re.compile(r"[{}<>=;]|\)\.|\bexport |=>|\b(className|const|return|import|var\()|^[a-z-]+(:[a-z\[\]-]+)? |\d(px|rem)\b|--[a-z]")
_JSX = re.compile(r">\s*([^<>{}]*[A-Za-z][^<>{}]*?)\s*(?=[<{])", re.S)
_QUOTED = re.compile(r"""(?:'((?:[^'\\\n]|\\.)*)'|"([^"\n]*)"|`((?:[^`\\]|\\.)*)`)""")
_PLACE = re.compile(r"\$\{(?:[^{}]|\{[^{}]*\})*\}")


def _classes(text: str) -> bool:
    """Whether it is how something looks rather than what it says."""
    parts = text.split()
    return (
        sum(bool(re.search(r"[a-z0-9\]]-[a-z0-9\[]|^(grid|flex|block|hidden|relative|absolute|big|btn|num)$", p)) for p in parts)
        > len(parts) / 2
    )


def of_python(path: Path) -> Iterator[tuple[int, str]]:
    """Texts of one module, without its docstrings; what is put in between stands as …"""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    silent: set[int] = set()
    for node in ast.walk(tree):
        body = getattr(node, "body", None)
        if isinstance(body, list) and body and isinstance(body[0], ast.Expr) and isinstance(body[0].value, ast.Constant):
            silent.add(id(body[0].value))
        if isinstance(node, ast.JoinedStr):
            silent.update(id(part) for part in ast.walk(node) if isinstance(part, ast.Constant))
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            text = "".join(str(p.value) if isinstance(p, ast.Constant) else "…" for p in node.values)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in silent:
            text = node.value
        else:
            continue
        if _WORDS.search(text):
            yield node.lineno, " ".join(text.split())


def of_web(path: Path) -> Iterator[tuple[int, str]]:
    """Texts between tags and in quotes that read like words."""
    source = re.sub(r"/\*.*?\*/|(?<!:)//[^\n]*", lambda m: "\n" * m[0].count("\n"), path.read_text(encoding="utf-8"), flags=re.S)
    for pattern in (_JSX, _QUOTED):
        for found in pattern.finditer(source):
            text = " ".join(_PLACE.sub("…", next(g for g in found.groups() if g is not None)).split())
            if _WORDS.search(text) and not _CODE.search(text) and not _classes(text):
                yield source.count("\n", 0, found.start()) + 1, text


def of_data(path: Path) -> Iterator[tuple[int, str]]:
    """Texts of the families: their files are read by people line by line."""
    for n, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
        if _WORDS.search(line) and not line.lstrip().startswith("#"):
            yield n, line.strip()


def strings() -> Iterator[tuple[str, str]]:
    """Every text with where it stands, from the root of the project."""
    parts = [
        *((p, of_python) for folder in SPOKEN for p in sorted((ROOT / "bendro" / folder).rglob("*.py"))),
        *((p, of_python) for p in sorted((ROOT / "bendro").glob("*.py"))),
        *((p, of_data) for p in sorted((ROOT / "bendro").rglob("*.yaml"))),
        *((p, of_web) for p in sorted((ROOT / "web" / "src").rglob("*.ts*")) if ".test." not in p.name and p.name != "schema.d.ts"),
    ]
    for path, read in parts:
        for line, text in read(path):
            yield f"{path.relative_to(ROOT)}:{line}", text


if __name__ == "__main__":
    for where, said in strings():
        sys.stdout.write(f"{where}\t{said}\n")
