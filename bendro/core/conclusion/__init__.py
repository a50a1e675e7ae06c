"""What a study found, worked out once from its record; every surface only renders it."""
