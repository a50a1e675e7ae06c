"""The families of devices, as data: one file each."""

from .schema import Caution, Family, Kept, Measure, Variable, families, family, known, order

__all__ = ["Caution", "Family", "Kept", "Measure", "Variable", "families", "family", "known", "order"]
