"""The head of a backup: one line that names it, one line of JSON that says what lies behind it, and blanks up to a fixed length. Behind it
lies an archive as `pg_dump --format=custom` writes it, which Debian's own tools read:
`tail -c +8193 bendro.backup | pg_restore --list`."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from .trouble import BackupTrouble

#: So long is the head, in bytes.
HEAD_BYTES = 8192
FIRST_LINE = b"BENDRO BACKUP 1\n"


class Manifest(BaseModel):
    """program: version that made it. schema_version: of the tables (the newest migration). counts: rows of each table. length, sha256: of the
    archive behind the head, in bytes and as hexadecimal digits."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    program: str = Field(max_length=40)
    schema_version: str = Field(pattern=r"^\d{4}$")
    made_at: datetime
    counts: dict[Annotated[str, Field(pattern=r"^[a-z_]{1,60}$")], Annotated[int, Field(ge=0)]] = Field(max_length=200)
    length: int = Field(ge=0)
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")

    def head(self) -> bytes:
        """The head as it stands in the file."""
        told = FIRST_LINE + self.model_dump_json().encode()
        return told.ljust(HEAD_BYTES - 1) + b"\n"


def read_head(head: bytes, name: str) -> Manifest:
    """The manifest that a file begins with. name: of the file. Raises BackupTrouble `backup_cut`, `backup_other`."""
    if len(head) < HEAD_BYTES:
        raise BackupTrouble(f"{name} was cut short: its head is not whole. Take another backup.", code="backup_cut", where="file")
    try:
        return Manifest.model_validate_json(head[len(FIRST_LINE) :])
    except ValidationError as why:
        raise BackupTrouble(
            f"The head of {name} is damaged, or was changed: it does not say what lies behind it. Take another backup.", code="backup_other", where="file"
        ) from why
