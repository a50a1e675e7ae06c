"""Prints for the pages what the core calls things: the choices of a plan and what the audit looks for, or with the word `scales` what the
lane must know of scales. `bin/types` keeps both in the web."""

import json
import sys
from typing import get_args

from bendro.core.draft import Scale
from bendro.core.judgement.audit import LOOKS_FOR
from bendro.core.measuring.scales import scale_named
from bendro.core.measuring.taking import HAND_S
from bendro.core.planning.choices import CHOICES, UNITS_OFFERED
from bendro.core.rights import MAY
from bendro.core.seeing.followed import LIKELY, LOOKED
from bendro.instruments.made import MADE


def _said(made: object) -> str:
    return json.dumps(made, ensure_ascii=False)


def _scale(name: Scale) -> dict[str, object]:
    """What the pages must know of a scale."""
    rules = scale_named(name)
    return {"shape": rules.shape, **{is_so: getattr(rules, is_so) for is_so in ("number", "worded", "counted", "whole", "scored", "survives", "answers")}}


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


def scales_file() -> str:
    """The file as kept in web/src/data/scales.gen.ts: of its own, since a run loads it and not the choices of a plan."""
    scales = "".join(f"  {name}: {_said(_scale(name))},\n" for name in get_args(Scale))
    return f"// Made by bin/types from bendro/core/measuring/scales; change it there.\nexport const SCALES = {{\n{scales}}} as const\n"


def rights_file() -> str:
    """The file as kept in web/src/data/rights.gen.ts: what each role may do, so that the pages show nothing that may not be done."""
    rows = "".join(f"  {role}: {json.dumps(sorted(acts))},\n" for role, acts in MAY.items())
    return f"// Made by bin/types from bendro/core/rights.py; change it there.\nexport const MAY: Readonly<Record<string, readonly string[]>> = {{\n{rows}}}\n"


def seeing_file() -> str:
    """The file as kept in web/src/stages/run/seeing/looked.gen.ts: what can be looked for in a track, what made clips there are, and a thumb's scatter."""
    return (
        "// Made by bin/types from bendro/core/seeing, bendro/core/measuring/taking.py and bendro/instruments/made.py; change it there.\n"
        f"export const LOOKED = {_said(list(LOOKED.items()))} as const\n"
        f"export const LIKELY: Readonly<Record<string, (typeof LOOKED)[number][0]>> = {_said(LIKELY)}\n"
        f"export const MADE = {_said([[s.name, s.says, s.look, s.fps] for s in MADE.values()])} as const\n"
        f"export const THUMB_S = {HAND_S}\n"
    )


if __name__ == "__main__":
    print({"scales": scales_file, "rights": rights_file, "seeing": seeing_file}.get(" ".join(sys.argv[1:]), choices_file)(), end="")
