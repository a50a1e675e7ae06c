"""Third parties' licences in one file: of the packages that run, the scripts of the pages and their fonts. Called by the build; `python
packaging/licences.py OUT`. Fails where a package says nothing of its licence."""

from __future__ import annotations

import json
import re
import sys
from importlib.metadata import PackageNotFoundError, distribution
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
_FILES = re.compile(r"^(licen[cs]e|copying|notice|ofl)", re.IGNORECASE)
MOST = 60_000


def of_python() -> list[tuple[str, str, str, str]]:
    """Name, version, licence and its text, of each package in requirements.txt that is installed."""
    found = []
    for name in re.findall(r"^([a-z0-9._-]+)==", (ROOT / "requirements.txt").read_text(), re.MULTILINE):
        try:
            package = distribution(name)
        except PackageNotFoundError:  # of another system
            continue
        told = package.metadata
        short = told.get("License-Expression") or ", ".join(c.rpartition(" :: ")[2] for c in told.get_all("Classifier") or [] if c.startswith("License")) or (told.get("License") or "").split("\n")[0]
        texts = [package.locate_file(f) for f in package.files or [] if _FILES.match(f.name) and ".dist-info" in str(f)]
        found.append((name, package.version, short, "\n\n".join(Path(str(t)).read_text(errors="replace") for t in texts)))
    return found


def of_pages() -> list[tuple[str, str, str, str]]:
    """The same of every package of which something may be in the pages."""
    lock = json.loads((ROOT / "web" / "package-lock.json").read_text())
    found = []
    for place, told in lock["packages"].items():
        folder = ROOT / "web" / place
        if not place or told.get("dev") or not folder.is_dir():
            continue
        package = json.loads((folder / "package.json").read_text())
        licence = package.get("license", "")
        texts = [f.read_text(errors="replace") for f in sorted(folder.iterdir()) if f.is_file() and _FILES.match(f.name)]
        found.append((place.rpartition("node_modules/")[2], package["version"], licence if isinstance(licence, str) else licence.get("type", ""), "\n\n".join(texts)))
    return found


def main(out: Path) -> int:
    every = sorted({*of_python(), *of_pages()})
    silent = [name for name, _, licence, text in every if not licence and not text]
    if silent:
        print(f"Of these nothing is said of their licence: {', '.join(silent)}", file=sys.stderr)
        return 1
    lines = ["Licences of what is in Bendro", "", "Packages, scripts and fonts of others, each with its licence; the whole texts follow.", ""]
    lines += [f"{name} {version}: {licence or 'see its text'}" for name, version, licence, _ in every]
    for name, version, licence, text in every:
        lines += ["", "=" * 100, f"{name} {version} ({licence or 'see below'})", "", text.strip()[:MOST] or "(the package brings no text of it)"]
    out.write_text("\n".join(lines) + "\n", encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])))
