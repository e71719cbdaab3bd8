"""From a name to the number that is connected to: looked up once, looked at, and kept to."""

from __future__ import annotations

import ipaddress
import socket
from collections.abc import Callable

from highshelf.core.errors import OwnNetworkError, UnknownNameError
from highshelf.core.inside import Inside

# (host, port) -> the number to connect to.
Dial = Callable[[str, int], str]


def anywhere(host: str, port: int) -> str:
    """No rule at all: for tests and for whoever has looked at the address before."""
    return host


def dial_within(inside: Inside) -> Dial:
    """A rule for the whole service: the internet, and what of our own network it was told of.

    Raises (each call):
        UnknownNameError: the name leads nowhere. OwnNetworkError: it leads into our own network, and nobody said that it may.
    """

    def number(host: str, port: int) -> str:
        host = host.strip("[]")
        try:
            found = [str(entry[4][0]) for entry in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)]
        except (OSError, UnicodeError, ValueError, OverflowError):
            raise UnknownNameError(f"the name {host} leads nowhere", hint="is the address right?") from None
        allowed = [n for n in found if inside.admits(host, port, n)]
        if not allowed:
            raise OwnNetworkError(
                f"{host} leads into a network that is not the internet ({found[0]})",
                hint=f"when it is meant, start the service with --inside {host}:{port}",
            )
        # IPv4 first: hosts whose IPv6 leads nowhere are still common.
        return min(allowed, key=lambda n: ipaddress.ip_address(n.split("%")[0]).version)

    return number
