"""Makes docs/errors.md from the source: every code with the sentence it is raised with. Run by bin/types; compared by a test."""

from __future__ import annotations

import ast
import re
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent.parent


def _sentence(node: ast.AST | None) -> str:
    """A string or f-string as a template: what is put in stands as ‹name›."""
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return node.value
    if isinstance(node, ast.JoinedStr):
        return "".join(_sentence(v) if isinstance(v, ast.Constant) else "‹…›" for v in node.values)
    if isinstance(node, ast.BinOp):
        return _sentence(node.left) + _sentence(node.right)
    if isinstance(node, ast.IfExp):
        return _sentence(node.body)
    return "‹the reason›" if node is not None else ""


def codes() -> dict[str, str]:
    """Code -> sentence, for errors, plan problems and audit findings."""
    found: dict[str, str] = {}
    for file in sorted((ROOT / "bendro").rglob("*.py")):
        for node in ast.walk(ast.parse(file.read_text())):
            if not isinstance(node, ast.Call):
                continue
            named = node.func.id if isinstance(node.func, ast.Name) else node.func.attr if isinstance(node.func, ast.Attribute) else ""
            words = {k.arg: k.value for k in node.keywords}
            code: ast.AST | None = words.get("code")
            says: ast.AST | None = words.get("says") or (node.args[0] if node.args else None)
            at = {"_refuse": 0, "problem": 1}.get(named)
            if at is not None and len(node.args) > at + 1:
                code, says = node.args[at], node.args[at + 1]
            if isinstance(code, ast.Constant) and isinstance(code.value, str):
                sentence = re.sub(r"(‹…›)+", "…", _sentence(says)).replace("|", "/").strip()
                if len(sentence) > len(found.get(code.value, "")):
                    found[code.value] = sentence
    return found


def page() -> str:
    rows = "\n".join(f"| `{code}` | {says} |" for code, says in sorted(codes().items()))
    return (
        "# Codes and their sentences\nMade by `bin/types` from the source. “…” is where the thing that was seen is put in.\n\n"
        f"| code | sentence |\n|---|---|\n{rows}\n"
    )


if __name__ == "__main__":
    sys.stdout.write(page())
