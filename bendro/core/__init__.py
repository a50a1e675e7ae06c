"""The rules of the job: pure functions of values. No web, database, clock or hidden randomness (see README.md)."""
