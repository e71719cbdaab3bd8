"""What the package manager of PHP projects has to do with a release. Pure."""

from __future__ import annotations

import re
from collections.abc import Collection

BROUGHT = "vendor"
AUTOLOAD = f"{BROUGHT}/autoload.php"
LOCK = "composer.lock"


def are_missing(paths: Collection[str]) -> bool:
    """Whether a release names packages, with their very versions, and does not bring them."""
    return LOCK in paths and AUTOLOAD not in paths


def version_in(told: str) -> str:
    """The version in what the package manager says of itself; "" when it says none."""
    found = re.search(r"\b(\d+\.\d+(?:\.\d+)?)\b", told)
    return found[1] if found else ""


def is_enough(version: str, least: str) -> bool:
    """Whether a version is at least another; "" is never enough."""
    return bool(version) and _numbers(version) >= _numbers(least)


def _numbers(version: str) -> tuple[int, ...]:
    found = [int(n) for n in re.findall(r"\d+", version)]
    return tuple([*found, 0, 0, 0][:3])


def said_in(log: str, most: int = 400) -> str:
    """The end of its log, for people: without the frame of empty lines, and the long list of options that follows a fault."""
    told = re.split(r"(?m)^install \[", log)[0]
    return " ".join(told.split())[-most:]
