"""Rules for the web server that shut files to everybody: what lies about and is nobody's business. Pure.

Rules:
1. A rule names files, and stands in their own folder: nothing else there is touched.
2. It reaches the folders below too: a name that something else has there is left alone.
3. What stood in the rules file stays as it is, byte for byte, before ours.
"""

from __future__ import annotations

import posixpath
import re
from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence

from highshelf.core.placing.inspecting import is_configuration
from highshelf.core.prove.again import LEFT_ABOUT

MOST_FILES, MOST_FOLDERS = 40, 8
# What is in no page: dumps, databases, logs, copies, and what the makers of PHP projects need.
NO_PAGES = re.compile(
    r"(?:\.(?:sql|sqlite3?|db|dump|bak|old|orig|swp|log)|~)$|(?:^|/)(?:\.env[^/]*|\.user\.ini|composer\.(?:json|lock))$",
    re.I,
)
# Scripts of pages load such, and browsers unpack such: only one with a password in it, or that the application made, is nobody's.
FOR_PAGES = re.compile(r"\.(?:json|xml|tar|tgz|zip|7z|rar|gz|bz2|xz)$", re.I)
LICENCE = re.compile(r"(?:^|/)(?:licen[sc]e|copying)[^/]*$", re.I)
# Both ways to say it: the older servers of shared hosting do not know the newer one (Apache 2.4, "Upgrading to 2.4 from 2.2").
HEAD = """
# What lies in this folder for the application alone, and for nobody who visits it.
"""
# A name that stands for the lists that a server makes of folders without a front page.
LISTS = "/"
NO_LISTS = """Options -Indexes
"""
RULE = """<FilesMatch "^({names})$">
  <IfModule mod_authz_core.c>
    Require all denied
  </IfModule>
  <IfModule !mod_authz_core.c>
    Order allow,deny
    Deny from all
  </IfModule>
</FilesMatch>
"""


def nobodys_business(there: Iterable[str], texts: Collection[str], released: Collection[str]) -> list[str]:
    """Files that nobody should fetch, the shallowest first: dumps, databases, logs, copies, configurations, and what is for its makers.

    Args:
        there: files, as they lie in the release. texts: its readmes, changelogs and the like.
        released: those that came with it.
    """
    found = [p for p in there if _is_nobodys(p, p in texts, p in released)]
    return sorted(found, key=lambda p: (p.count("/"), p))[:MOST_FILES]


def _is_nobodys(path: str, is_text: bool, is_released: bool) -> bool:
    # Servers refuse `.ht…` by themselves; whoever uses something may read its licence.
    if posixpath.basename(path).startswith(".ht") or LICENCE.search(path):
        return False
    if is_released and FOR_PAGES.search(path) and not NO_PAGES.search(path):
        return False
    return bool(is_text or NO_PAGES.search(path) or LEFT_ABOUT.search(path) or is_configuration(path))


def by_folder(shown: Iterable[str], there: Collection[str]) -> dict[str, list[str]]:
    """For each folder the names to shut in it; those that something else below it has too are left out."""
    found: dict[str, list[str]] = defaultdict(list)
    shut = set(shown)
    for path in sorted(shut):
        folder, name = posixpath.split(path)
        if any(part.startswith(".") for part in folder.split("/")):
            # A checkout is more than its first file: a rule about that one would only hide the rest.
            continue
        below = folder + "/" if folder else ""
        others = [p for p in there if p != path and p.startswith(below) and posixpath.basename(p) == name]
        if not [p for p in others if p not in shut]:
            found[folder].append(name)
    return dict(list(found.items())[:MOST_FOLDERS])


def with_rule(before: bytes, names: Sequence[str]) -> bytes:
    """A rules file with ours behind what stood there."""
    return before + _rule(before, names)


def without_rule(now: bytes, names: Sequence[str]) -> bytes:
    """The file as it was before, whatever was written into it since."""
    rules = [_rule(before, names) for before in (b"x", b"x\n", b"")]
    rule = next((r for r in rules if r in now), None)
    return now if rule is None else now.replace(rule, b"", 1)


def _rule(before: bytes, names: Sequence[str]) -> bytes:
    files = [n for n in names if n != LISTS]
    rule = HEAD + (NO_LISTS if LISTS in names else "")
    rule += RULE.format(names="|".join(re.escape(n) for n in files)) if files else ""
    if not before:
        return rule.lstrip().encode()
    # Where the last line had no end, ours begins otherwise: so that the end that it gets goes again with it.
    return (rule if before.endswith(b"\n") else "\n#" + rule.lstrip()).encode()


def told(shut: Mapping[str, Sequence[str]], left: Sequence[str]) -> str:
    """What became of them, for people."""
    names = [posixpath.join(folder, n) for folder, some in shut.items() for n in some if n != LISTS]
    said = [f"shut to visitors: {_some(names)}"] if names else []
    said += ["folders are not listed any more"] if any(LISTS in some for some in shut.values()) else []
    open_still = [p for p in left if p != LISTS]
    said += [f"still fetched by anybody: {_some(open_still)}"] if open_still else []
    said += ["folders are still listed"] if LISTS in left else []
    return "; ".join(said)


def _some(names: Sequence[str]) -> str:
    return ", ".join(names[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else "")
