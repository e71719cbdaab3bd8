"""The closed list of origins of a job: where requests may go, and where they may not."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlsplit

from highshelf.core.errors import FetchError

Origin = tuple[str, str, int]


def origin_of(url: str) -> Origin:
    """(scheme, host, port) of an address, RFC 6454 section 4; one that nobody can read has an origin that nobody has."""
    try:
        parts = urlsplit(url)
        _ = parts.port
    except ValueError:
        return "none", "", 0
    return parts.scheme, (parts.hostname or "").lower(), parts.port or (443 if parts.scheme == "https" else 80)


@dataclass(frozen=True)
class Origins:
    """Origins a conversation may talk to. A site's http address may lead to its own https one, never the other way."""

    allowed: frozenset[Origin]

    @classmethod
    def of(cls, *urls: str) -> Origins:
        found = {origin_of(u) for u in urls}
        upgrades = {("https", host, 443) for scheme, host, port in found if scheme == "http" and port == 80}
        return cls(frozenset(found | upgrades))

    def admits(self, url: str) -> bool:
        return origin_of(url) in self.allowed

    def check(self, url: str) -> None:
        """Raise FetchError when the address is not on the list."""
        if not self.admits(url):
            scheme, host, port = origin_of(url)
            raise ForeignOriginError(
                f"a page leads to {scheme}://{host}:{port}, which is not part of this job",
                hint="nothing was sent there; look at the page by hand",
            )


class ForeignOriginError(FetchError):
    code = "foreign-origin"
    retryable = False
