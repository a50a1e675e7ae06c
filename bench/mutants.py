"""Each rule of the conclusion changed in turn: the tests of the one conclusion must fail for every one of them. `bin/mutants`.

`bin/mutants --lot N [SEED]`: places of the judge, the statistics and the planning drawn by lot, each changed a little (a comparison, a sign, a
number, and for or); the core and outside tests must notice most of them."""

from __future__ import annotations

import ast
import copy
import random
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
CORE = "bendro/core/"
#: File, what stands there, and what it is changed to. Each is one rule.
MUTANTS: tuple[tuple[str, str, str, str], ...] = (
    ("a shared place only where results are equal as written", "judgement/places.py", "keys.count(keys[n]) > 1", "keys.count(keys[n]) > 0"),
    ("places in the direction of the question", "judgement/places.py", 'sign = -1.0 if best_is == "high" else 1.0', "sign = -1.0"),
    ("who breaks a rule stands below the line", "judgement/places.py", "ordered = [one for one in by_result if one[0] not in below]", "ordered = list(by_result)"),
    ("off the line is judged by its size", "record/given.py", "return _by_size(made, one) if one.by_size else made", "return made"),
    ("a bound on the left is one on the right", "record/given.py", "if value < 0:\n        turned", "if value > 0:\n        turned"),
    ("a trial of several payloads fares as its worst", "measuring/taking.py", "worst = max(known)", "worst = min(known)"),
    ("an unjudged payload leaves the whole open", "measuring/taking.py", "if failed or len(known) >= max(1, payloads) else None", "if True else None"),
    ("a version against the one it was made from", "analyse.py", 'return (tried[at], "made_from") if at in tried else (weighed[-2], "before")', 'return (weighed[-2], "before")'),
    ("two variables each at like values of the other", "judgement/two.py", "[str(_at(t, other)) for t in rows]", '["" if n % 2 else " " for n, t in enumerate(rows)]'),
    ("pairs that differ in one variable alone", "judgement/two.py", "(a[0] == b[0]) != (a[1] == b[1])", "True"),
    ("over the group with the levels taken out", "asking.py", "pair_by=LEVEL if crossed else None", "pair_by=None"),
    ("the order as it happened", "conclusion/as_run.py", "if sum(a != b for a, b in pairwise(ran)) == n - 1:", "if False:"),
    ("the timers that were there", "conclusion/as_run.py", "hands = [max(1, len(r.reading.timers or ()))", "hands = [max(draft.measure.timers, len(r.reading.timers or ()))"),
    ("what was varied was never held", "planning/ideas.py", "free = set(varied(draft))", "free = set()"),
    ("held at what was agreed", "conclusion/kept_same.py", "off = [(t, text) for t, text in given if not _as_agreed(held, text)]", "off = []"),
    ("the audit knows where it was to be held", "judgement/checks.py", "elif away > room", "elif False and away > room"),
    ("a mean of whole numbers has a decimal", "written.py", "return 2 if trials >= MANY else 1", "return 0"),
    ("an estimate coarsens no mean", "statistics/describe.py", 'for kinds in (("exact",), ("estimate",), ("at_least", "at_most")):', 'for kinds in (("exact", "estimate"), ("at_least", "at_most")):'),
    ("an interval ends where readings do", "written.py", 'return f"up to {at_place(high, decimals)}"', 'return f"{at_place(low, decimals)} to {at_place(high, decimals)}"'),
    ("levels in the unit in which they were written", "planning/plan.py", "return units.pop() if len(units) == 1 else variable.unit", "return variable.unit"),
    ("the decision with two measures says what is best", "conclusion/concluded.py", "if decided is not None and decided.best:", "if False:"),
    ("one measure alone does not say best beside it", "judgement/judged.py", "if asked.names_best and not asked.decision:", "if asked.names_best:"),
    ("a difference through bounds is at least", "judgement/judged.py", 'if high in ("exact", "at_least") and low in ("exact", "at_most"):\n        return "at_least"', 'if high in ("exact", "at_least") and low in ("exact", "at_most"):\n        return None'),
    ("two changes at once are one on the design", "judgement/verdict.py", "design = any(f.design and _about_newest(f, levels) for f in findings)", "design = False"),
    ("a total has no interval of the mean", "conclusion/concluded.py", 'spread = doubt if draft.result == "mean" else', 'spread = doubt if True else'),
    ("a headline is one sentence", "judgement/verdict.py", "headline=said(spans),", "headline=said((*spans, *more)),"),
)


def survives(n: int) -> str | None:
    """The name of a mutant that no test notices; None where one does. Raises LookupError where the rule is written otherwise by now."""
    name, file, old, new = MUTANTS[n]
    text = (ROOT / CORE / file).read_text()
    if text.count(old) != 1:
        raise LookupError(f"{name}: “{old}” stands {text.count(old)} times in {file}")
    return None if _noticed(CORE + file, text.replace(old, new), ["tests/core/test_one_conclusion.py"]) else name


def _noticed(file: str, text: str, tests: list[str]) -> bool:
    """Whether these tests fail with another text in one file."""
    with tempfile.TemporaryDirectory(prefix="bendro-mutant-") as folder:
        for part in ("bendro", "tests", "bench", "docs"):
            shutil.copytree(ROOT / part, Path(folder) / part, ignore=shutil.ignore_patterns("__pycache__", "screenshots"))
        shutil.copy(ROOT / "pyproject.toml", folder)
        (Path(folder) / file).write_text(text)
        command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *tests]
        ran = subprocess.run(command, cwd=folder, env={"PATH": "/usr/bin:/bin", "PYTHONPATH": folder, "HOME": folder}, capture_output=True, timeout=900)
        return ran.returncode == 1


# --- by lot -----------------------------------------------------------------------------------------------------------

LOT_FROM = ("judgement", "statistics", "planning")
_COMPARED: dict[type[ast.cmpop], type[ast.cmpop]] = {ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq}
_JOINED: dict[type[ast.operator], type[ast.operator]] = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult}


def changed(node: ast.AST) -> ast.AST | None:
    """The node a little otherwise; None where it is none of those that are changed."""
    made = copy.deepcopy(node)
    match made:
        case ast.Compare(ops=[one]) if type(one) in _COMPARED:
            made.ops = [_COMPARED[type(one)]()]
        case ast.BinOp(op=op) if type(op) in _JOINED and not any(isinstance(v, ast.Constant | ast.JoinedStr) and not isinstance(getattr(v, "value", None), int | float) for v in (made.left, made.right)):
            made.op = _JOINED[type(op)]()
        case ast.BoolOp(op=ast.And()):
            made.op = ast.Or()
        case ast.BoolOp(op=ast.Or()):
            made.op = ast.And()
        case ast.Constant(value=bool(value)):
            made.value = not value
        case ast.Constant(value=int(value)) | ast.Constant(value=float(value)):
            made.value = value * 2 if isinstance(value, float) and value else value + 1
        case _:
            return None
    return made


def places_of(file: Path) -> list[tuple[int, str, str, str]]:
    """Every place that can be changed: its line, what stands there, what it is changed to, and the whole text then."""
    text = file.read_text()
    lines = text.splitlines(keepends=True)
    starts = [0]
    for line in lines:
        starts.append(starts[-1] + len(line.encode()))
    raw, found = text.encode(), []
    tree = ast.parse(text)
    skipped = {id(child) for node in ast.walk(tree) for part in _typed(node) for child in ast.walk(part)}
    for node in ast.walk(tree):
        new = None if id(node) in skipped or not hasattr(node, "end_col_offset") else changed(node)
        if new is None:
            continue
        begins, ends = starts[node.lineno - 1] + node.col_offset, starts[node.end_lineno - 1] + node.end_col_offset  # type: ignore[attr-defined]
        written = f"({ast.unparse(new)})" if not isinstance(new, ast.Constant) else ast.unparse(new)
        whole = (raw[:begins] + written.encode() + raw[ends:]).decode()
        found.append((node.lineno, raw[begins:ends].decode(), written, whole))  # type: ignore[attr-defined]
    return found


def _typed(node: ast.AST) -> list[ast.AST]:
    """What only the type checker reads, and pieces of f-strings, which cannot be replaced in place."""
    parts = [getattr(node, name, None) for name in ("annotation", "returns")]
    parts += list(node.decorator_list) if isinstance(node, ast.FunctionDef | ast.ClassDef) else []
    parts += [node] if isinstance(node, ast.JoinedStr) else []
    if isinstance(node, ast.Subscript) and isinstance(node.value, ast.Name) and node.value.id in ("Literal", "tuple", "dict", "list", "Sequence", "Mapping"):
        parts.append(node)
    return [p for p in parts if isinstance(p, ast.AST)]


def by_lot(n: int, seed: int) -> int:
    """Draws n places and tells which no test noticed."""
    every = [(file, *place) for folder in LOT_FROM for file in sorted((ROOT / CORE / folder).glob("*.py")) for place in places_of(file)]
    drawn = random.Random(seed).sample(every, n)

    def kept(one: tuple[Path, int, str, str, str]) -> str | None:
        file, line, old, new, text = one
        noticed = _noticed(str(file.relative_to(ROOT)), text, ["tests/core", "tests/outside", "--deselect", "tests/core/test_calibration.py"])
        told = f"{file.relative_to(ROOT / CORE)}:{line}  {' '.join(old.split())}  →  {' '.join(new.split())}"
        print(f"{'noticed    ' if noticed else 'NOT noticed'} {told}"[:220], flush=True)
        return None if noticed else told

    with ThreadPoolExecutor(2) as pool:
        left = [told for told in pool.map(kept, drawn) if told]
    print(f"{n - len(left)} of {n} drawn by lot from {len(every)} places noticed (seed {seed}).")
    return 1 if len(left) > n * (1 - LOT_NOTICED) else 0


#: So many of those drawn by lot must be noticed.
LOT_NOTICED = 0.85


def main() -> int:
    if "--lot" in sys.argv:
        numbers = [int(word) for word in sys.argv[sys.argv.index("--lot") + 1 :]]
        return by_lot(numbers[0] if numbers else 40, numbers[1] if len(numbers) > 1 else 1)
    with ThreadPoolExecutor(2) as pool:
        left = [name for name in pool.map(survives, range(len(MUTANTS))) if name]
    print(f"{len(MUTANTS) - len(left)} of {len(MUTANTS)} rules changed and noticed.")
    for name in left:
        print(f"not noticed: {name}")
    return 1 if left else 0


if __name__ == "__main__":
    sys.exit(main())
