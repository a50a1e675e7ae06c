"""`bin/attack`: everything that could lose a trial or let somebody in, tried on a Bendro of its own, on loopback only. One line of
figures for each attack; the first loss ends it with a sentence and exit code 1. Seeded where chance decides what is done."""

from __future__ import annotations

import random
import shutil
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from bench import attack_browsers, attack_class, attack_district, attack_door, attack_edges, attack_ends, attack_memory, attack_seats

Attack = Callable[[Path, random.Random], str]
ATTACKS: dict[str, Attack] = {
    "saves": attack_class.saves_at_one_moment,
    "flood": attack_class.sign_in_flood,
    "photos": attack_class.slow_photos,
    "routes": attack_door.every_route,
    "fuzz": attack_door.fuzz,
    "kills": attack_ends.kill_storm,
    "first-start": attack_ends.first_start,
    "away": attack_ends.database_away,
    "backups": attack_ends.earlier_backups,
    "memory": attack_memory.ten_screens,
    "hostile": attack_edges.hostile_backups,
    "strangers": attack_edges.slow_strangers,
    "heavy": attack_edges.heavy_callers,
    "sent-away": attack_edges.sent_away,
    "disk": attack_edges.full_disk,
    "browser": attack_edges.in_a_browser,
    "two-browsers": attack_browsers.two_browsers,
    "failover": attack_district.failover,
    "watched": attack_district.watched,
    "processes": attack_district.processes,
    "pooler": attack_district.pooler,
    "signs": attack_seats.guessed_signs,
    "closed": attack_seats.closed_lessons,
    "joins": attack_seats.joins_while_lanes_save,
    "loud": attack_seats.loud_screens,
}
SEED = 20_261_125


def main() -> int:
    asked = sys.argv[1:] or list(ATTACKS)
    unknown = [a for a in asked if a not in ATTACKS]
    if unknown:
        print(f"There is no attack {unknown[0]}. There are: {', '.join(ATTACKS)}.", file=sys.stderr)
        return 2
    for name in asked:
        folder = Path(tempfile.mkdtemp(prefix="bendro-attack-"))
        folder.chmod(0o755)
        began = time.monotonic()
        try:
            figures = ATTACKS[name](folder, random.Random(SEED))
        except AssertionError as loss:
            print(f"{name:12} LOST: {loss}", flush=True)
            print(f"The folder is kept: {folder}", file=sys.stderr)
            return 1
        print(f"{name:12} {figures} ({time.monotonic() - began:.0f} s)", flush=True)
        shutil.rmtree(folder, ignore_errors=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
