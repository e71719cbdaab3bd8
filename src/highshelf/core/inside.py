"""Which numbers are the internet, and which lie in a network of our own or in none. Pure.

Nobody outside may make this service speak to what only it can reach: the machine's own servers, neighbours in its network,
a cloud's address that gives out keys. Sources: RFC 6890 and the IANA registries of special-purpose addresses that grew out
of it, as Python's `ipaddress` has them, and what it lacks.
"""

from __future__ import annotations

import ipaddress
from dataclasses import dataclass

Number = ipaddress.IPv4Address | ipaddress.IPv6Address
# Not on the internet whatever `is_global` says: IPv4 in IPv6 clothes (RFC 4291 2.5.5.1, RFC 6052, RFC 3056), withdrawn ranges that
# routers of old may still carry inward (RFC 3879 site-local, RFC 7526 relays), segments of a provider's own network
# (RFC 9602), and examples (RFC 9637).
NEVER = tuple(
    ipaddress.ip_network(one)
    for one in ("::/96", "64:ff9b::/96", "64:ff9b:1::/48", "2002::/16", "fec0::/10", "192.88.99.0/24", "5f00::/16", "3fff::/20")
)  # fmt: skip


def number_of(text: str) -> Number:
    """An address as it is meant: ::ffff:10.0.0.1 is 10.0.0.1 (RFC 4291, 2.5.5.2). Raises ValueError."""
    found = ipaddress.ip_address(text.split("%")[0])
    return getattr(found, "ipv4_mapped", None) or found


def is_internet(number: Number) -> bool:
    """Whether anybody may be reached there from anywhere."""
    special = any(number in net for net in NEVER if net.version == number.version)
    return number.is_global and not number.is_multicast and not special


@dataclass(frozen=True)
class Inside:
    """Addresses of our own network that may be spoken to: `host`, `host:port`, or a network such as 10.1.0.0/16."""

    allowed: tuple[str, ...] = ()

    def admits(self, host: str, port: int, number: str) -> bool:
        """Whether a connection to this number, which the host's name led to, may be made."""
        found = number_of(number)
        return is_internet(found) or any(self._fits(one, host, port, found) for one in self.allowed)

    def _fits(self, one: str, host: str, port: int, number: Number) -> bool:
        if one in (host, f"{host}:{port}", f"{number}:{port}", str(number)):
            return True
        try:
            return "/" in one and number in ipaddress.ip_network(one, strict=False)
        except ValueError:
            return False
