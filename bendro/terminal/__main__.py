"""`python -m bendro.terminal`: what `bin/bendro` runs."""

from .commands import app

if __name__ == "__main__":
    app()
