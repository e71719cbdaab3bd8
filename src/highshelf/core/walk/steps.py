"""Where a page stands in an installer, by addresses alone: no words. Pure."""

from __future__ import annotations

from collections.abc import Sequence
from urllib.parse import parse_qsl, urlsplit

from highshelf.core.walk.knowledge import Knowledge


def at_installer(url: str, know: Knowledge) -> bool:
    """Whether an address is the installer's own, as the release says: the file that sets something up, or what lies in its folder."""
    path = urlsplit(url).path
    root = urlsplit(know.address).path
    folders = [p if p.endswith("/") else p.rpartition("/")[0] + "/" for p in know.installer_paths]
    return path in know.installer_paths or any(path.startswith(f) for f in folders if f not in (root, "/"))


def next_step(url: str, ways: Sequence[str]) -> str | None:
    """Of links that differ from the page's address in one number, the one with the next higher; lower ones lead back.

    A page without that number is the first, whether steps are counted from nought or from one.
    """
    here = urlsplit(url)
    own = dict(parse_qsl(here.query))
    steps: dict[int, str] = {}
    names: set[str] = set()
    for way in ways:
        parts = urlsplit(way)
        given = dict(parse_qsl(parts.query))
        differing = [n for n in {*own, *given} if own.get(n) != given.get(n)]
        if parts.path != here.path or len(differing) != 1 or not given.get(differing[0], "").isdigit():
            return None
        names.add(differing[0])
        steps[int(given[differing[0]])] = way
    if len(names) != 1 or not (at := own.get(name := names.pop(), "0")).isdigit():
        return None
    higher = [n for n in steps if n > int(at)]
    return steps[min(higher)] if higher and (name in own or len(steps) == 1) else None
