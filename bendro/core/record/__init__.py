"""What a trial is, once: the body that is sent, the row that is stored and the trial that is worked with derive from here."""

from .model import BEHAVIOUR, ReadingRecord, TrialRecord

__all__ = ["BEHAVIOUR", "ReadingRecord", "TrialRecord"]
