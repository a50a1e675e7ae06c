"""Where a library warns of what is answered here."""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np


@contextmanager
def answered_here() -> Iterator[None]:
    """A level without spread, or a fit without freedom left: the libraries warn on standard error and give what is not finite.
    Callers turn that into "no answer"; the warning would only puzzle whoever reads the terminal."""
    with warnings.catch_warnings(), np.errstate(all="ignore"):
        warnings.simplefilter("ignore", RuntimeWarning)
        yield
