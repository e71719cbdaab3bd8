"""What stands at an installation's place now, beside what its release holds."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Collection, Mapping
from dataclasses import dataclass

from highshelf.core.placing.furniture import FURNITURE, OURS, PLACEHOLDERS
from highshelf.core.placing.packages import BROUGHT
from highshelf.core.release.contents import Contents
from highshelf.core.release.findings import Findings

# A line for each file is of no use when somebody uploaded ten thousand pictures: what the release has no folder for is told as one.
OWN_DATA, OWN_CONFIG, TIDIED, HOSTS = "the application's own data", "its configuration", "tidied away", "the host's own"
BY_US = "rules of High Shelf's, put there with it"
BY_PACKAGES = "brought by the package manager of PHP"
CONFIGURATION = re.compile(
    r"^(\.?[\w-]*(config|settings|configuration|local)[\w.-]*\.(php|inc|ya?ml|ini|json|xml)|\.env)$", re.I
)


@dataclass(frozen=True)
class Difference:
    """One path that is not as in the release. `why` is "" when nothing explains it; `count` is the files in a folder."""

    path: str
    why: str = ""
    count: int = 1


@dataclass(frozen=True)
class Seen:
    """The files of a place.

    Attributes:
        sizes: path below the place -> bytes, or -1 where only the name is known.
        hashes: path -> SHA-256, of those that could be had.
        how: by which means, for people.
    """

    sizes: Mapping[str, int]
    hashes: Mapping[str, str]
    how: str


@dataclass(frozen=True)
class Inspection:
    """`same` files are as in the release, `unread` of them by their size alone."""

    how: str
    same: int
    unread: int
    changed: tuple[Difference, ...]
    missing: tuple[Difference, ...]
    extra: tuple[Difference, ...]

    @property
    def unexplained(self) -> int:
        return sum(not d.why for d in (*self.changed, *self.missing, *self.extra))


def inspect(
    contents: Contents,
    findings: Findings,
    seen: Seen,
    configured: Collection[str] = (),
    ours: Collection[str] = (),
    *,
    packages: bool = False,
    as_root: str = "",
) -> Inspection:
    """Compare.

    Args:
        configured: configuration files that the installation is known to have; ours: what High Shelf put there.
        packages: whether the package manager of PHP brought some when it was installed.
        as_root: the folder of the release that stands as the document root, "" for its root: there the host's own stand among its files.
    """
    wanted = contents.paths()
    changed, unread, same = [], 0, 0
    for path, member in wanted.items():
        if path not in seen.sizes:
            continue
        size, digest = seen.sizes[path], seen.hashes.get(path)
        if digest is None and size >= 0 and size == member.size_bytes:
            unread, same = unread + 1, same + 1
        elif digest == member.sha256:
            same += 1
        else:
            own = OWN_CONFIG if path in configured or is_configuration(path) else ""
            changed.append(Difference(path, BY_US if path in ours else own))
    tidied = [*findings.installer_entries(), *findings.readmes]
    missing = [Difference(p, TIDIED if _under(p, tidied) else "") for p in sorted(set(wanted) - set(seen.sizes))]
    extra = _extra(wanted, findings, seen, configured, as_root)
    extra = [Difference(d.path, BY_US, d.count) if d.path in ours else d for d in extra]
    if packages:
        extra = [Difference(d.path, BY_PACKAGES, d.count) if _under(d.path, [BROUGHT]) else d for d in extra]
    return Inspection(seen.how, same, unread, tuple(changed), tuple(missing), tuple(extra))


def _extra(
    wanted: Collection[str], findings: Findings, seen: Seen, configured: Collection[str], as_root: str
) -> list[Difference]:
    folders = {parent for path in wanted for parent in _parents(path)} | {""}
    found: Counter[tuple[str, str]] = Counter()
    for path in set(seen.sizes) - set(wanted):
        shown = _shown(path, as_root)
        top = shown.split("/", 1)[0]
        if OURS.fullmatch(top) or top.startswith(".hs-hold-"):
            continue
        strange = next((p for p in reversed(_parents(path)) if p not in folders), "")
        where = strange + "/" if strange else path
        found[(where, _why(path, where, findings, configured, shown))] += 1
    return [Difference(path, why, count) for (path, why), count in sorted(found.items())]


def _shown(path: str, as_root: str) -> str:
    """The path below the document root."""
    return path.removeprefix(as_root + "/") if as_root else path


def _why(path: str, where: str, findings: Findings, configured: Collection[str], shown: str) -> str:
    if path in configured or (posixpath.dirname(path) == posixpath.dirname(where) and is_configuration(path)):
        return OWN_CONFIG
    if _under(path, findings.writable):
        return OWN_DATA
    top = shown.split("/", 1)[0]
    return HOSTS if top in FURNITURE or shown in PLACEHOLDERS else ""


def is_configuration(path: str) -> bool:
    """Whether a file is called as applications call their configuration."""
    return bool(CONFIGURATION.match(posixpath.basename(path)))


def _under(path: str, places: Collection[str]) -> bool:
    return any(path == p.rstrip("/") or path.startswith(p.rstrip("/") + "/") for p in places if p)


def _parents(path: str) -> list[str]:
    """Folders above a path, the nearest first."""
    found = []
    while path := posixpath.dirname(path):
        found.append(path)
    return found
