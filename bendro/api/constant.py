"""Long answers that are the same as long as the program runs: written once, sent from memory, and not sent again to who has them."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from functools import cache

from fastapi import Request
from fastapi.responses import Response


class Constant:
    """One such answer. make: its bytes, called once."""

    def __init__(self, make: Callable[[], bytes], media_type: str = "application/json") -> None:
        self._made = cache(lambda: (body := make(), f'"{hashlib.sha256(body).hexdigest()[:32]}"'))
        self._media_type = media_type

    def answer(self, request: Request) -> Response:
        """The answer, or that nothing has changed (RFC 9110, section 13.1.2)."""
        body, tag = self._made()
        headers = {"ETag": tag, "Cache-Control": "private, no-cache"}
        held = [t.strip().removeprefix("W/") for t in request.headers.get("if-none-match", "").split(",")]
        if tag in held:
            return Response(status_code=304, headers=headers)
        return Response(body, media_type=self._media_type, headers=headers)
