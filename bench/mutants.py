"""Each rule of the conclusion changed in turn: the tests of the one conclusion must fail for every one of them. `bin/mutants`."""

from __future__ import annotations

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
    with tempfile.TemporaryDirectory(prefix="bendro-mutant-") as folder:
        for part in ("bendro", "tests"):
            shutil.copytree(ROOT / part, Path(folder) / part, ignore=shutil.ignore_patterns("__pycache__"))
        shutil.copy(ROOT / "pyproject.toml", folder)
        path = Path(folder) / CORE / file
        text = path.read_text()
        if text.count(old) != 1:
            raise LookupError(f"{name}: “{old}” stands {text.count(old)} times in {file}")
        path.write_text(text.replace(old, new))
        command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", "tests/core/test_one_conclusion.py"]
        ran = subprocess.run(command, cwd=folder, env={"PATH": "/usr/bin:/bin", "PYTHONPATH": folder, "HOME": folder}, capture_output=True, timeout=600)
        return None if ran.returncode == 1 else name


def main() -> int:
    with ThreadPoolExecutor(2) as pool:
        left = [name for name in pool.map(survives, range(len(MUTANTS))) if name]
    print(f"{len(MUTANTS) - len(left)} of {len(MUTANTS)} rules changed and noticed.")
    for name in left:
        print(f"not noticed: {name}")
    return 1 if left else 0


if __name__ == "__main__":
    sys.exit(main())
