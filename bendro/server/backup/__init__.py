"""All that teachers keep, written into one file, and taken back from it: wholly, or not at all. A backup is data, never a command: nothing
that stands in one is run by anybody who may do more than fill the tables of a database that is not yet in use."""

from .making import back_up
from .restoring import restore
from .trouble import BackupTrouble

__all__ = ["BackupTrouble", "back_up", "restore"]
