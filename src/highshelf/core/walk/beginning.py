"""Whether a page is an installer's, where a conversation begins. Pure."""

from __future__ import annotations

import re
from urllib.parse import urljoin, urlsplit

from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Page
from highshelf.core.pages.purposes import says_login
from highshelf.core.walk.moves import Adapt, AskFor, Finished, Follow, Import, Move, Open, PlaceFile, Submit, Tune

ADDRESS = re.compile(
    r"(?:https?://[^\s\"'<>]+|/?(?:[\w-]+/)*[\w-]+\.php|/(?:[\w-]+/)+|/?(?:[\w-]+/)+)(?=[\s.,;:!\"'”»)]|$)"
)


def installing(page: Page) -> bool:
    """Whether a page speaks of installing, setting up or updating, in its title, headings, buttons or address."""
    said = " ".join(
        [page.title, *page.headings, *(b.label for f in page.forms for b in f.buttons), urlsplit(page.url).path]
    )
    return lexicon().says("installing", said)


def told_addresses(page: Page) -> list[str]:
    """Addresses of an installer that a page tells in a sentence instead of leading there: "please run install/setup.php"."""
    found = []
    for sentence in (*page.told, *page.complaints()):
        if lexicon().says("installing", sentence):
            found += [urljoin(page.url, name) for name in ADDRESS.findall(sentence)]
    same = urlsplit(page.url).netloc
    return [url for url in dict.fromkeys(found) if urlsplit(url).netloc == same and url != page.url]


def begins(page: Page, move: Move) -> bool:
    """Whether the walk begins on a page: it leads somewhere, and is no finished site's ordinary page."""
    if isinstance(move, Finished) or not isinstance(
        move, Submit | Follow | AskFor | Adapt | PlaceFile | Open | Import | Tune
    ):
        return False
    # A login is an installer's only where the page tells it, and then the move is to use it.
    plain = (says_login(page) is not None and not installing(page)) or (
        isinstance(move, Submit) and not move.filled and not installing(page)
    )
    return not plain
