"""Looking at an installation once more: what is right, what is wrong, and what could not be seen. Decisions only; who looks is core/legs.

Rules:
1. Wrong is what an administrator would have to see to: a page that breaks, a door that is open, a file of the application that was
   changed, a program where only data belongs. That somebody uses the site (posts, uploads, caches, logs) is not wrong.
2. What could not be seen is told as such, never as right.
"""

from __future__ import annotations

import posixpath
import re
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal
from urllib.parse import urlsplit

from highshelf.core.pages.judgement import judge
from highshelf.core.pages.page import Page
from highshelf.core.placing.inspecting import is_configuration
from highshelf.core.placing.standing import Since, Stand, files_of
from highshelf.core.ports import Entry

State = Literal["right", "wrong", "unknown"]
# What PHP runs, under the names that servers are told to.
PROGRAM = re.compile(r"\.(php\d?|phtml|phar|pht|phps)$", re.I)
# Where applications keep programs that they have made themselves: pages turned into PHP, and what they remember of a visit.
MADE_PROGRAMS = re.compile(r"(^|/)[^/]*(cache|compil|templates_c|tmp|temp|sess|twig|smarty|proxies|log)[^/]*/", re.I)
# What is left lying about where the web can fetch it, by its end or its name.
LEFT_ABOUT = re.compile(
    r"(\.(sql|sqlite3?|db|dump|bak|old|orig|swp|tar|tgz|zip|7z|rar|gz|bz2|xz|log)|~)$|(^|/)(\.env[^/]*|\.ht[^/]*|\.user\.ini|id_rsa|\.git/HEAD|\.svn/entries|\.hg/requires)$",
    re.I,
)
# What tells the web server or PHP how to treat a folder; and the words in it with which a folder of data comes to run programs.
RULES = re.compile(r"(^|/)(\.htaccess|\.user\.ini|web\.config)$", re.I)
RUNS = re.compile(
    r"(?im)^\s*(<FilesMatch.*php|AddHandler|SetHandler|AddType\s+\S*(php|x-httpd)|Action\s|ForceType|php_(admin_)?(value|flag)\s+(engine|auto_)|auto_(pre|ap)pend_file|extension\s*=)"
)
LISTING = re.compile(r"(?i)^\s*(index of|directory listing|verzeichnis|listado de|contenu de|indice di)\b")
WORLD_WRITES = 0o002
MOST_TOLD = 8


@dataclass(frozen=True)
class Seen:
    """One thing that was looked at: its name, how it is, and what was seen, for people."""

    name: str
    state: State
    told: str

    def facts(self) -> dict[str, Any]:
        return {"name": self.name, "state": self.state, "told": self.told}


def some(names: Sequence[str]) -> str:
    """A handful of names, and how many more."""
    return ", ".join(names[:MOST_TOLD]) + (f" and {len(names) - MOST_TOLD} more" if len(names) > MOST_TOLD else "")


def seen_front(page: Page, faults: Iterable[str], address: str, title: str) -> Seen:
    """The front page: its own faults, whether it is still at its address, whether it lists a folder, or is another page's."""
    wrong = list(faults)
    if urlsplit(page.url).netloc != urlsplit(address).netloc:
        wrong.append(f"it leads to another host: {page.url}")
    if is_listing(page):
        wrong.append(f"it lists the folder: “{page.title}”")
    judged = judge(page)
    if not wrong and page.title != title and judged.state in ("broken", "refuses"):
        # With the status of a good page, and the words of one that is none.
        wrong.append(f"it is an error's: {next(iter(judged.against), page.title)[:160]}")
    if not wrong and title and page.title != title:
        return Seen("front page", "right", f"answers without faults; its title was “{title}” and is “{page.title}” now")
    return Seen(
        "front page", "wrong" if wrong else "right", "; ".join(wrong) or f"answers without faults: “{page.title}”"
    )


def is_listing(page: Page) -> bool:
    """Whether a page is a server's own list of a folder: its heading says so, and it links to what is above."""
    heads = [page.title, *page.headings]
    return any(LISTING.search(head) for head in heads) and len(page.links) > 0 and not page.forms


def changed_files(since: Since, known: Collection[str], configured: Collection[str]) -> tuple[list[str], list[str]]:
    """Files of the application that came to differ or are gone since the proof, without what applications write themselves.

    Args:
        since: by path as it lies in the release.
        known: the release's files; configured: those that the application writes its settings into.
    """
    own = {p for p in known if p not in configured and not is_configuration(p)}
    return [p for p in since.changed if p in own], [p for p in since.gone if p in own]


def lost_settings(since: Since, configured: Collection[str]) -> list[str]:
    """Files that the application keeps its settings in and that are gone."""
    return [p for p in since.gone if p in configured]


def rules_that_run(texts: Mapping[str, str]) -> list[str]:
    """Rules that came or were changed since the proof, and make the server or PHP run what it would not.

    Args:
        texts: path -> what stands in it.
    """
    return [path for path, text in texts.items() if RUNS.search(text)]


def new_programs(since: Since, then: Stand, configured: Collection[str]) -> list[str]:
    """Programs that came since the proof, where none of the application's own making lay then.

    Args:
        since, then: by path as it lies in the release.
    """
    made_there = {posixpath.dirname(p) for p in files_of(then) if PROGRAM.search(p)}
    return [
        path
        for path in since.come
        if PROGRAM.search(path)
        and path not in configured
        and not is_configuration(path)
        and not (MADE_PROGRAMS.search(path) and (posixpath.dirname(path) in made_there or _is_data(path, then)))
    ]


def _is_data(path: str, then: Stand) -> bool:
    """Whether a folder called as those in which applications keep what they made was there when it was proven."""
    return any(folder + "/" in then for folder in _above(path) if MADE_PROGRAMS.search(folder + "/"))


def _above(path: str) -> list[str]:
    parts = path.split("/")[:-1]
    return ["/".join(parts[: i + 1]) for i in range(len(parts))]


def opened(then: Stand, now: Stand, allowed: Collection[str]) -> list[str]:
    """What everybody on the host may write now, and could not when it was proven, but for what is meant to be so."""
    return sorted(
        path
        for path, (_, _, mode) in now.items()
        if mode >= 0
        and mode & WORLD_WRITES
        and not (path in then and then[path][2] & WORLD_WRITES)
        and not any(path.rstrip("/") == a or path.startswith(a.rstrip("/") + "/") for a in allowed)
        # What the application makes in a folder that stands open is open as that is.
        and not any(then.get(folder + "/", (0, "", 0))[2] & WORLD_WRITES for folder in _above(path))
    )


def lying_about(now: Stand, most: int) -> list[str]:
    """What should not be fetched by anybody, if the web serves it; the shallowest first."""
    found = [p for p in files_of(now) if LEFT_ABOUT.search(p) or is_configuration(p)]
    return sorted(found, key=lambda p: (p.count("/"), p))[:most]


def gives_away(path: str, status: int, body: str, head: str, secrets: Collection[str]) -> str:
    """Why an answer gives away what it should not, "" when it does not.

    Args:
        head: the file's first bytes as text: an answer that begins so is the file itself, not a page in its place.
    """
    if status != 200:
        return ""
    if any(secret in body for secret in secrets):
        return f"{path} shows a password"
    if head.strip() and len(head.strip()) >= 8 and body.lstrip()[: len(head.strip())] == head.strip():
        return f"{path} can be fetched by anybody"
    return ""


def folders_to_list(now: Stand, entries: Mapping[str, Sequence[Entry]] | None = None, most: int = 6) -> list[str]:
    """Folders without a front page of their own, the shallowest first: a server that lists shows what is in them."""
    files = files_of(now)
    withs = {posixpath.dirname(p) for p in files if re.search(r"(^|/)(index|default|home)\.\w+$", p)}
    full = {posixpath.dirname(p) for p in files} - withs
    return sorted((f for f in full if f), key=lambda f: (f.count("/"), f))[:most]
