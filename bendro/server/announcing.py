"""A name in the local network (multicast DNS, RFC 6762; what is served there, RFC 6763), for tablets that would otherwise type a number."""

from __future__ import annotations

import contextlib
import sys
from collections.abc import Iterator, Sequence

from zeroconf import Error as ZeroconfError
from zeroconf import IPVersion, ServiceInfo, Zeroconf


@contextlib.contextmanager
def announced(name: str, numbers: Sequence[str], port: int, *, secure: bool) -> Iterator[None]:
    """Answer to `name`.local under these numbers while pages are served at this port."""
    kind = "_https._tcp.local." if secure else "_http._tcp.local."
    info = ServiceInfo(kind, f"Bendro {name}.{kind}", port=port, parsed_addresses=list(numbers), server=f"{name}.local.", properties={"path": "/"})
    try:
        telling = Zeroconf(interfaces=list(numbers), ip_version=IPVersion.V4Only)
        telling.register_service(info, allow_name_change=True)
    except (OSError, ZeroconfError) as why:
        print(f"The name {name}.local cannot be told in this network ({str(why) or type(why).__name__}). Tablets type the number.", file=sys.stderr, flush=True)
        yield
        return
    try:
        yield
    finally:
        telling.unregister_service(info)
        telling.close()
