"""What can stand against a backup, and the programs of PostgreSQL that make and read one."""

from __future__ import annotations

from bendro.core.errors import CoreError


class BackupTrouble(CoreError):
    """A backup that could not be made, or a file that could not be taken back; the data in use are as they were."""

    code = "backup_failed"


def stopped(program: str, errors: str) -> BackupTrouble:
    """What one of PostgreSQL's programs said when it stopped: its first error, else the end of what it wrote."""
    first = next((line for line in errors.splitlines() if "ERROR" in line or "error" in line), errors.strip()[-300:])
    return BackupTrouble(f"{program} stopped: {first}. The data in use are as they were.", code="backup_failed", where="file")
