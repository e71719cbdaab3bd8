"""Which panel primer fits a panel's front page."""

from __future__ import annotations

from collections.abc import Iterable

from highshelf.core.pages.lexicon import fold
from highshelf.core.pages.page import Page
from highshelf.core.primers.models import PanelPrimer


def recognise_panel(page: Page, primers: Iterable[PanelPrimer]) -> PanelPrimer | None:
    """The primer all of whose words stand on the page; the one with the most words when several do."""
    text = fold(f"{page.title} {page.text}")
    fitting = [p for p in primers if p.recognise and all(fold(words) in text for words in p.recognise)]
    return max(fitting, key=lambda p: len(p.recognise), default=None)
