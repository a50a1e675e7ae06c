"""The one family of errors that the core raises: a code, a sentence and a place."""

from __future__ import annotations


class CoreError(ValueError):
    """Input that cannot be used.

    code: stable word for programs; says: one sentence (what was seen, why it cannot be, what to do);
    where: the field, row or column, or None.
    """

    code: str = "refused"

    def __init__(self, says: str, *, code: str | None = None, where: str | None = None) -> None:
        super().__init__(says)
        self.says = says
        if code is not None:
            self.code = code
        self.where = where

    def at(self, where: str) -> CoreError:
        """The same error with its place named."""
        return type(self)(self.says, code=self.code, where=where)


class ReadingRefused(CoreError):
    """A typed reading that cannot be understood. Codes are listed in `readings/parse.py`."""

    code = "reading_refused"


class TableRefused(CoreError):
    """A trial table that cannot be analysed as asked."""

    code = "table_refused"


class PlanRefused(CoreError):
    """A plan that contradicts itself."""

    code = "plan_refused"


class CalculationRefused(CoreError):
    """A calculator was asked with inputs outside its range."""

    code = "calculation_refused"
