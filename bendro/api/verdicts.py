"""A study's analysis as text; begun the moment a trial is kept where someone follows the study, since that is what they ask next."""

from __future__ import annotations

import threading
from collections import OrderedDict
from uuid import UUID

from sqlalchemy.exc import SQLAlchemyError

from bendro import __version__
from bendro.actions import analysing
from bendro.core.conclusion.model import Conclusion
from bendro.core.context import Context
from bendro.core.errors import CoreError
from bendro.core.results import Analysis
from bendro.core.trials import Trial
from bendro.store.connect import session as open_session
from bendro.store.errors import NotFound
from bendro.store.owned import Owned

from .computing import computing
from .told import told

#: So many studies can be followed at once.
MOST_FOLLOWED = 500


def worked_out(mine: Owned, study_id: UUID, response: str = "", factor: str = "") -> str:
    """The analysis of a study as it stands. Raises CoreError, Refused and NotFound."""

    def asked() -> tuple[list[Trial], Context]:
        found = analysing.question_of(mine, study_id, response=response, factor=factor)
        mine.session.close()  # nothing of the database is held while it is worked out
        return found

    return computing.answer((*analysing.state_of(mine, study_id), response, factor), asked)


def concluded(mine: Owned, study_id: UUID) -> Conclusion:
    """The conclusion of a study as it stands, once for each state of it. Raises CoreError, Refused and NotFound."""
    state = analysing.state_of(mine, study_id)

    def made() -> bytes:
        return analysing.conclude(mine, study_id, lambda response: Analysis.model_validate_json(worked_out(mine, study_id, response)), core=__version__).model_dump_json().encode()

    return Conclusion.model_validate_json(told.answer(("conclusion", *state), mine, made))


class Following:
    """Which studies' verdict was asked for since their last trial was kept."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._asked: OrderedDict[UUID, None] = OrderedDict()

    def note(self, study_id: UUID) -> None:
        """Someone asks for the verdict of this study."""
        with self._lock:
            self._asked[study_id] = None
            self._asked.move_to_end(study_id)
            while len(self._asked) > MOST_FOLLOWED:
                self._asked.popitem(last=False)

    def take(self, study_id: UUID) -> bool:
        """Whether it was asked for since the last trial; from now on it was not."""
        with self._lock:
            return self._asked.pop(study_id, self) is None


following = Following()


def begin(workspace_id: UUID, study_id: UUID) -> None:
    """Work the verdict out before it is asked for. What cannot be worked out, or read, is told to whoever asks."""
    with open_session() as opened:
        try:
            worked_out(Owned(opened, workspace_id), study_id)
        except (CoreError, NotFound, SQLAlchemyError):
            return
