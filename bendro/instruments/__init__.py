"""Simulated stand-ins for instruments, and the one small protocol that they share with real ones (docs/instruments.md)."""
