"""What the store says when a row is not there, or when its data are from another time."""

from bendro.core.errors import CoreError


class NotFound(CoreError):
    """No such row in this workspace; whether another workspace has one is not told."""

    code = "not_found"

    def __init__(self, noun: str) -> None:
        super().__init__(f"There is no such {noun} here. It may be in another workspace, or the address is wrong.", code="not_found")


class NewerData(RuntimeError):
    """The data were written by a newer version of the program than this one."""

    def __init__(self) -> None:
        super().__init__("These data were written by a newer version of Bendro. Start that version; nothing was changed here.")
