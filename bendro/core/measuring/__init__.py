"""From what was written at a trial to its reading, and what is out of line before it is kept."""
