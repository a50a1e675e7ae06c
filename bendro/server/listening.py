"""Where pages are served: the sockets, and the addresses under which this machine is reached in its network."""

from __future__ import annotations

import errno
import socket
from collections.abc import Sequence
from ipaddress import ip_address

import ifaddr

EVERYWHERE = ("0.0.0.0", "::")
HERE = "127.0.0.1"
#: So many connections wait to be taken in while a whole school comes back at one moment.
WAITING = 2048


class CannotListen(RuntimeError):
    """Why pages cannot be served at an address, and what to do."""


def listen(host: str, port: int, *, option: str = "--port") -> socket.socket:
    """A socket that listens. Raises CannotListen."""
    if not 1 <= port <= 65_535:
        raise CannotListen(f"There is no port {port}: ports go from 1 to 65535. Choose another: bin/start {option} 8713")
    try:
        family, *_, address = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM, flags=socket.AI_PASSIVE)[0]
    except (socket.gaierror, UnicodeError) as why:
        raise CannotListen(f"“{host}” is no address of a machine that is known here. Use --host 127.0.0.1, or --host 0.0.0.0 for tablets in the same network.") from why
    made = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)  # named, so that asyncio sends small answers at once
    made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        made.bind(address)
        made.listen(WAITING)
    except OSError as why:
        made.close()
        match why.errno:
            case errno.EADDRINUSE:
                raise CannotListen(f"Port {port} is taken by another program. Choose another: bin/start {option} {port + 1 if port < 65_535 else 8713}") from why
            case errno.EADDRNOTAVAIL:
                raise CannotListen(f"{host} is not an address of this machine. Use --host 127.0.0.1, or --host 0.0.0.0 for tablets in the same network.") from why
            case errno.EACCES:
                raise CannotListen(f"Port {port} may only be used by an administrator. Choose one above 1023: bin/start {option} 8713") from why
            case _:
                raise CannotListen(f"Pages cannot be served at {host}, port {port}: {why.strerror}.") from why
    made.set_inheritable(True)
    return made


def numbers(host: str) -> list[str]:
    """The numbers under which this machine is reached by others when it listens at `host`, those of the network first."""
    if host not in EVERYWHERE:
        return [] if host == "localhost" or _is_here(host) else [host]
    found = [ip.ip for adapter in ifaddr.get_adapters() for ip in adapter.ips if isinstance(ip.ip, str)]
    return sorted({n for n in found if not _is_here(n) and not ip_address(n).is_link_local}, key=lambda n: (not ip_address(n).is_private, ip_address(n)))


def addresses(scheme: str, port: int, names: Sequence[str]) -> list[str]:
    """What is typed on a tablet: a name before a number."""
    usual = {"http": 80, "https": 443}[scheme]
    return [f"{scheme}://{f'[{n}]' if ':' in n else n}{'' if port == usual else f':{port}'}" for n in names]


def _is_here(number: str) -> bool:
    try:
        return ip_address(number).is_loopback
    except ValueError:
        return False
