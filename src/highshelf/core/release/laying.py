"""From what an archive says to what will stand below the target: names checked, links resolved, wrapper stripped."""

from __future__ import annotations

import posixpath
from collections.abc import Iterable, Iterator

from highshelf.core.errors import ArchiveError
from highshelf.core.release import safety
from highshelf.core.release.contents import Contents, Laid, Member, wrapper_of

MAX_LINK_STEPS = 8


def contents_of(members: Iterable[Member], words: frozenset[str] = frozenset()) -> Contents:
    """Check every name, find the wrapper, strip it. As `lay_out`."""
    return lay_out(members, words).contents


def lay_out(members: Iterable[Member], words: frozenset[str] = frozenset()) -> Laid:
    """Check every name, do what the given words allow, find the wrapper and strip it.

    Raises:
        ArchiveError: nothing inside, or names that could leave the target or collide; all of them are told.
    """
    found = list(members)
    dangers = [d for m in found if (d := safety.danger(m.path))]
    dangers += [safety.link_danger(m) for m in found if m.link and not safety.danger(m.path)]
    dangers += safety.collisions(found)
    safety.refuse(dangers, words)
    if not any(not m.link for m in found):
        raise ArchiveError("the archive holds no files", hint="check in the release's archive")
    told = tuple((d.path, d.why) for d in dangers)
    numbered = {m.path.replace("\\", "/"): (i, m.at(m.path.replace("\\", "/"))) for i, m in enumerate(found)}
    placed = list(_without_links(numbered))
    wrapper = wrapper_of([m.path for _, m in placed])
    cut = len(wrapper) + 1 if wrapper else 0
    stripped = [(number, m.at(m.path[cut:])) for number, m in placed]
    places: list[tuple[str, ...]] = [()] * len(found)
    for number, m in stripped:
        places[number] += (m.path,)
    files = tuple(sorted((m for _, m in stripped), key=lambda m: m.path))
    return Laid(Contents(wrapper, files), places, told)


def _without_links(members: dict[str, tuple[int, Member]]) -> Iterator[tuple[int, Member]]:
    """Files as they are; a link as a copy of the file, or of the files in the folder, that it leads to."""
    for path, (number, member) in members.items():
        if not member.link:
            yield number, member
            continue
        target = _led_to(members, path)
        if target in members:
            source, one = members[target]
            yield source, one.at(path)
            continue
        inside = [(n, m) for p, (n, m) in members.items() if p.startswith(target + "/") and not m.link]
        if not inside or path.startswith(target + "/"):
            raise ArchiveError(
                f"the archive's link {path} leads to {target or 'nothing'}, which is not in the release",
                hint="get the release from its maker again, or mend the archive by hand",
            )
        for source, one in inside:
            yield source, one.at(path + one.path[len(target) :])


def _led_to(members: dict[str, tuple[int, Member]], path: str) -> str:
    for _ in range(MAX_LINK_STEPS):
        member = members[path][1] if path in members else None
        if member is None or not member.link:
            return path
        base = "" if member.hard else posixpath.dirname(path)
        path = posixpath.normpath(posixpath.join(base, member.link.replace("\\", "/")))
    raise ArchiveError(f"the archive's links lead in a circle ({path})", hint="mend the archive by hand")
