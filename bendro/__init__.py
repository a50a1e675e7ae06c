"""Bendro: fair-test trials of small home-made devices."""

__version__ = "0.1.0"
