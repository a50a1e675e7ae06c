"""Text -> reading, units, resolution, several timers into one."""

from .model import Kind, Reading, write
from .parse import read, step_of
from .timers import TimersTogether, combine
from .units import QUANTITIES, convert, find_unit, quantity

__all__ = ["QUANTITIES", "Kind", "Reading", "TimersTogether", "combine", "convert", "find_unit", "quantity", "read", "step_of", "write"]
