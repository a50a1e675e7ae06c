"""Devices and their versions: what changed, which rules they keep, where they balance."""
