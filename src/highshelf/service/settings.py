"""How a service is run: what whoever starts it says on the command line."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlsplit

from highshelf.core.account import check_address
from highshelf.core.errors import InputError

LOOPBACK = ("127.0.0.1", "::1", "localhost")


@dataclass(frozen=True)
class Settings:
    """What a service may do, and under which names it answers.

    Attributes:
        inside: addresses of our own network that may be spoken to (`host`, `host:port`, or a network).
        authority: a file of certificates that are trusted for fetches besides the machine's.
        public: the address by which people reach the console, such as https://shelf.saltmarsh.example; "" is where it listens.
        names: further names that requests may be addressed to.
        proxies: addresses of proxies whose word on who asks is believed.
        patience_seconds: so long a job that waits for an answer keeps its account to itself.
        pack_all: whether releases are packed in every form, not only in those that a checked account can unpack.
    """

    inside: tuple[str, ...] = ()
    authority: Path | None = None
    public: str = ""
    names: tuple[str, ...] = ()
    proxies: tuple[str, ...] = ()
    patience_seconds: float = 60.0
    pack_all: bool = False

    def answers_to(self, host: str) -> bool:
        """Whether a request with this Host header (RFC 9110, 7.2) is meant for us."""
        try:
            name = (urlsplit(f"//{host}").hostname or "").lower().rstrip(".")
        except ValueError:
            return False
        known = {*LOOPBACK, *(n.lower() for n in self.names), urlsplit(self.public).hostname or ""} - {""}
        return name in known

    @property
    def encrypted(self) -> bool:
        """Whether people reach the console over HTTPS only."""
        return self.public.startswith("https://")


def check_public(text: str) -> str:
    """The public address without a `/` at its end. Raises InputError."""
    if not text:
        return ""
    found = check_address(text, "public address").rstrip("/")
    if urlsplit(found).path:
        raise InputError("the public address has a path", hint="the console wants a name of its own")
    return found
