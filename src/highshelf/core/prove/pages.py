"""A few pages behind the front page, and addresses that a secure page takes from insecure ones. Pure."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from html import unescape
from urllib.parse import urljoin, urlsplit

from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Page
from highshelf.core.prove.again import Seen, is_listing, some

MOST_PAGES = 3
# What a browser loads for a page without being asked; a link that somebody may follow is another matter (W3C, Mixed Content).
LOADED = re.compile(
    r"<(?:img|script|iframe|source|video|audio|embed|input)\b[^>]*?\ssrc\s*=\s*[\"']?([^\"'\s>]+)"
    r"|<link\b(?=[^>]*\srel\s*=\s*[\"']?(?:stylesheet|icon|preload))[^>]*?\shref\s*=\s*[\"']?([^\"'\s>]+)",
    re.I,
)
# What does something when it is fetched, or is no page.
DOES = re.compile(
    r"log-?out|sign-?out|delete|remove|abmeld|download|\.(?:zip|gz|pdf|png|jpe?g|gif|svg|webp|css|js|xml|rss|atom|ico|txt)$",
    re.I,
)


def pages_behind(page: Page, address: str) -> list[str]:
    """Addresses of a few pages that a front page links to, the application's own, which only show something."""
    site, found = urlsplit(address), dict[str, None]()
    for link in page.links:
        there = urlsplit(urljoin(page.url, link.url))._replace(fragment="")
        own = (there.scheme, there.netloc) == (site.scheme, site.netloc) and there.path.startswith(site.path)
        same = there.geturl().rstrip("/") in (address.rstrip("/"), page.url.rstrip("/"))
        does = DOES.search(there.path) or DOES.search(there.query)
        harmless = not does and not any(
            lexicon().says(topic, link.label) for topic in ("logout", "destroying", "decoy")
        )
        if own and not same and harmless:
            found[there.geturl()] = None
    return list(found)[:MOST_PAGES]


def insecure(html: str, url: str) -> list[str]:
    """What a page that came over TLS would have browsers load without: they leave it out, or warn."""
    if urlsplit(url).scheme != "https":
        return []
    loads = [unescape(one[0] or one[1]) for one in LOADED.findall(html)]
    return list(dict.fromkeys(one for one in loads if one.lower().startswith("http://")))


def faults_behind(page: Page) -> str:
    """Why a page behind the front page is not that of a working application, "" when nothing speaks against it."""
    if page.status >= 500 or page.status == 404:
        return f"{page.url} answers with status {page.status}"
    if page.php_faults:
        return f"{page.url} shows PHP's own words: {page.php_faults[0][:120]}"
    return f"{page.url} lists its folder" if is_listing(page) else ""


def seen_behind(faults: Sequence[str], looked: int, known: Collection[str]) -> Seen:
    """How the pages behind the front page are now.

    Args:
        faults: what speaks against some of them, each beginning with its address.
        known: such addresses at the proof: what was so from the beginning is the application's own.
    """
    new = [fault for fault in faults if fault.split(" ", 1)[0] not in known]
    fine = f"{looked} that the front page links to answer as they did" if looked else "the front page links to none"
    return Seen("pages", "wrong" if new else "right", some(new) or fine)


def seen_insecure(loads: Sequence[str], known: Collection[str]) -> Seen:
    """What a secure front page loads without TLS now, beside what it did from the beginning."""
    new = [one for one in loads if one not in known]
    told = f"the secure front page loads {some(new)} without TLS: browsers leave that out"
    return Seen("secure addresses", "wrong" if new else "right", told if new else "nothing new is loaded without TLS")
