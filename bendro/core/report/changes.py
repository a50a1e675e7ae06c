"""What is different between a frozen report and the study as it stands."""

from __future__ import annotations

from ..results import Analysis

_ANSWER = {"clear": "clear", "leaning": "leaning", "cannot_tell": "cannot tell yet"}


def changed_since(then: Analysis, now: Analysis) -> tuple[str, ...]:
    """In sentences, the weightiest first; empty where the two say the same."""
    told = []
    if then.verdict.answer != now.verdict.answer:
        told.append(f"The verdict was “{_ANSWER[then.verdict.answer]}” and is “{_ANSWER[now.verdict.answer]}” now.")
    elif then.verdict.says != now.verdict.says:
        told.append(f"The verdict now reads: {now.verdict.says}")
    kept = sum(s.n_kept for s in now.levels) - sum(s.n_kept for s in then.levels)
    if kept:
        told.append(f"{abs(kept)} kept {'trial' if abs(kept) == 1 else 'trials'} {'more' if kept > 0 else 'fewer'}.")
    void = sum(s.n_void for s in now.levels) - sum(s.n_void for s in then.levels)
    if void:
        told.append(f"{abs(void)} void {'trial' if abs(void) == 1 else 'trials'} {'more' if void > 0 else 'fewer'}.")
    before, after = {f.code for f in then.audit}, {f.code for f in now.audit}
    if new := after - before:
        told.append(f"{len(new)} new {'doubt' if len(new) == 1 else 'doubts'}.")
    if gone := before - after:
        told.append(f"{len(gone)} {'doubt is' if len(gone) == 1 else 'doubts are'} settled.")
    return tuple(told)
