"""`python -m bendro.server`: what `bin/start` runs."""

import sys

from .start import main

if __name__ == "__main__":
    sys.exit(main())
