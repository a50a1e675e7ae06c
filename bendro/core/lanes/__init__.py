"""The lanes while the class runs: what the teacher should look at, and when the last trial will be in."""
