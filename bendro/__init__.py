"""Bendro: fair-test trials of small home-made devices."""

from pathlib import Path

__version__ = "0.1.0"
#: Where Bendro lies: the built pages, its own data folder where no other is named.
ROOT = Path(__file__).resolve().parent.parent
