"""Whether a page is an installer's, where a conversation begins. Pure."""

from __future__ import annotations

from urllib.parse import urlsplit

from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import says_login
from highshelf.core.walk.moves import Adapt, AskFor, Finished, Follow, Move, PlaceFile, Submit


def installing(page: Page) -> bool:
    """Whether a page speaks of installing, setting up or updating, in its title, headings, buttons or address."""
    said = " ".join(
        [page.title, *page.headings, *(b.label for f in page.forms for b in f.buttons), urlsplit(page.url).path]
    )
    return lexicon().says("installing", said)


def begins(page: Page, move: Move) -> bool:
    """Whether the walk begins on a page: it leads somewhere, and is no finished site's ordinary page."""
    if isinstance(move, Finished) or not isinstance(move, Submit | Follow | AskFor | Adapt | PlaceFile):
        return False
    plain = says_login(page) is not None or (isinstance(move, Submit) and not move.filled and not installing(page))
    return not plain
