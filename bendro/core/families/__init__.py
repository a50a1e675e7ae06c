"""The nine families of devices, as data."""

from .schema import ORDER, Caution, Family, Kept, Measure, Variable, families, family

__all__ = ["ORDER", "Caution", "Family", "Kept", "Measure", "Variable", "families", "family"]
