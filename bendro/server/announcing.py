"""A name in the local network (multicast DNS, RFC 6762; what is served there, RFC 6763), for tablets that would otherwise type a number."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Sequence

from zeroconf import IPVersion, ServiceInfo, Zeroconf


@contextlib.contextmanager
def announced(name: str, numbers: Sequence[str], port: int, *, secure: bool) -> Iterator[None]:
    """Answer to `name`.local under these numbers while pages are served at this port."""
    kind = "_https._tcp.local." if secure else "_http._tcp.local."
    info = ServiceInfo(kind, f"Bendro {name}.{kind}", port=port, parsed_addresses=list(numbers), server=f"{name}.local.", properties={"path": "/"})
    with Zeroconf(interfaces=list(numbers), ip_version=IPVersion.V4Only) as telling:
        telling.register_service(info, allow_name_change=True)
        try:
            yield
        finally:
            telling.unregister_service(info)
