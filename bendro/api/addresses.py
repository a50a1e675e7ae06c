"""Under which address tablets reach Bendro, as words and as a picture to scan."""

from __future__ import annotations

from ipaddress import ip_address

import segno
from fastapi import Request

from bendro.settings import settings

_BORDER = 4


def picture(text: str) -> tuple[int, str]:
    """A code to scan (ISO/IEC 18004), as the side of its square in modules and the path of its dark ones."""
    made = segno.make(text, error="m", micro=False)
    rows = [list(row) for row in made.matrix]
    d = "".join(f"M{x + _BORDER} {y + _BORDER}h1v1h-1z" for y, row in enumerate(rows) for x, dark in enumerate(row) if dark)
    return len(rows) + 2 * _BORDER, d


def at_this_machine(request: Request) -> bool:
    """Whether whoever calls sits at the machine itself."""
    try:
        return request.client is not None and ip_address(request.client.host).is_loopback
    except ValueError:
        return False


def for_tablets() -> list[str]:
    """Addresses for other devices in the network; none where only this machine gets in."""
    return [a for a in settings().addresses.split(",") if a]


def base(request: Request) -> str:
    """The address to give on: as it was called, or, called at the machine itself, as tablets call it."""
    if (request.url.hostname or "") in ("localhost", "127.0.0.1", "::1") and for_tablets():
        return for_tablets()[0]
    return f"{request.url.scheme}://{request.headers.get('host', request.url.netloc)}"
