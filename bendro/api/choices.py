"""Prints for the pages what the core calls things, the choices of a plan and what the audit looks for: `python -m bendro.api.choices > web/src/planning/choices.gen.ts`."""

import json

from bendro.core.judgement.audit import LOOKS_FOR
from bendro.core.planning.choices import CHOICES, UNITS_OFFERED


def _said(made: object) -> str:
    return json.dumps(made, ensure_ascii=False)


def choices_file() -> str:
    """The file as kept in web/src/planning/choices.gen.ts."""
    lists = "".join(
        f"  {json.dumps(field)}: [\n"
        + "".join(f"    {_said([c.id, f'{c.label} (advised)' if c.advised else c.label, c.why])},\n" for c in choices)
        + "  ],\n"
        for field, choices in CHOICES.items()
    )
    return (
        "// Made by bin/types from bendro/core/planning/choices.py and judgement/audit.py; change it there.\n"
        f"export const CHOICES = {{\n{lists}}} as const\n"
        f"export const CHECKED = {json.dumps(LOOKS_FOR, ensure_ascii=False, indent=2)} as const\n"
        f"export const UNITS = {_said(UNITS_OFFERED)} as const\n"
    )


if __name__ == "__main__":
    print(choices_file(), end="")
