"""Services elsewhere by a name: where each is, and which file holds the token for it.

Kept in one file of the person's own (`~/.config/highshelf/profiles.json`, or HIGHSHELF_PROFILES). A token itself is never in it.
"""

from __future__ import annotations

import json
import os
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

LOOPBACK = ("127.0.0.1", "::1", "localhost")


@dataclass(frozen=True)
class Profile:
    """A service: `url`, and the file with an operator's token for it."""

    name: str
    url: str
    token_file: str


class ProfileError(ValueError):
    """There is no such profile, or it cannot be one; the text says what to do."""


def profiles_file() -> Path:
    kept = os.environ.get("HIGHSHELF_PROFILES")
    if kept:
        return Path(kept)
    return Path(os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config") / "highshelf" / "profiles.json"


def profiles() -> dict[str, Profile]:
    """All of them by name, in the order of their names.

    Raises:
        ProfileError: the file cannot be read.
    """
    return {name: Profile(name, **one) for name, one in sorted(_kept()["profiles"].items())}


def used() -> str:
    """The name of the one that is used when nothing else is said; "" for the service on this machine."""
    return str(_kept()["used"])


def current() -> Profile | None:
    """The profile that HIGHSHELF_PROFILE names, else the used one; None for the service on this machine.

    Raises:
        ProfileError: there is none of that name.
    """
    name = os.environ.get("HIGHSHELF_PROFILE") or used()
    return named(name) if name else None


def named(name: str) -> Profile:
    """Raises ProfileError where there is none of that name."""
    known = profiles()
    if name not in known:
        there = ", ".join(known) or "none yet; `highshelf profile add` makes one"
        raise ProfileError(
            f"there is no profile {name} (there are: {there})" if known else f"there is no profile {name}: {there}"
        )
    return known[name]


def keep(one: Profile) -> None:
    """Write it down, instead of another of its name.

    Raises:
        ProfileError: the name or the address cannot be one.
    """
    if not one.name.replace("-", "").replace("_", "").isalnum() or len(one.name) > 40:
        raise ProfileError(f"{one.name!r} is no name for a profile: letters, digits, - and _, at most 40")
    parts = urlsplit(one.url)
    if parts.scheme not in ("http", "https") or not parts.hostname or parts.query or parts.fragment or parts.username:
        raise ProfileError(f"{one.url} is no address of a service: it looks like https://shelf.example")
    if parts.scheme == "http" and parts.hostname not in LOOPBACK:
        raise ProfileError(f"{one.url} would send the token in the clear: use https, or a tunnel to 127.0.0.1")
    kept = _kept()
    made = asdict(one)
    kept["profiles"][made.pop("name")] = made
    _write(kept)


def use(name: str) -> None:
    """From now on this one; "" for the service on this machine. Raises ProfileError where there is none of that name."""
    if name:
        named(name)
    _write({**_kept(), "used": name})


def drop(name: str) -> None:
    """Let it go; its token's file stays. Raises ProfileError where there is none of that name."""
    named(name)
    kept = _kept()
    del kept["profiles"][name]
    _write({**kept, "used": "" if kept["used"] == name else kept["used"]})


def _kept() -> dict[str, Any]:
    path = profiles_file()
    try:
        found = json.loads(path.read_text()) if path.exists() else {}
        return {"used": str(found.get("used", "")), "profiles": dict(found.get("profiles", {}))}
    except (OSError, ValueError, AttributeError, TypeError) as fault:
        raise ProfileError(f"{path} cannot be read as profiles ({fault}): mend it, or move it away") from None


def _write(kept: object) -> None:
    path = profiles_file()
    path.parent.mkdir(parents=True, exist_ok=True)
    draft = path.with_name(path.name + ".new")
    draft.touch(mode=0o600)
    draft.write_text(json.dumps(kept, indent=2) + "\n")
    draft.replace(path)
