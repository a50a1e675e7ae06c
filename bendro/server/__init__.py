"""Bendro as it runs on a machine: start, processes, certificates, PostgreSQL, backup."""
