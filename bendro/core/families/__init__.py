"""The nine families of devices, as data."""

from .schema import ORDER, Family, Measure, Variable, families, family

__all__ = ["ORDER", "Family", "Measure", "Variable", "families", "family"]
