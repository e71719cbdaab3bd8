"""Which primer fits: a panel's by its front page, an application's by the files of its release."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from fnmatch import fnmatchcase

from highshelf.core.pages.lexicon import fold
from highshelf.core.pages.page import Page
from highshelf.core.primers.models import ApplicationPrimer, PanelPrimer


def recognise_panel(page: Page, primers: Iterable[PanelPrimer]) -> PanelPrimer | None:
    """The primer all of whose words stand on the page; the one with the most words when several do."""
    text = fold(f"{page.title} {page.text}")
    fitting = [p for p in primers if p.recognise and all(fold(words) in text for words in p.recognise)]
    return max(fitting, key=lambda p: len(p.recognise), default=None)


def recognise_application(paths: Collection[str], primers: Iterable[ApplicationPrimer]) -> ApplicationPrimer | None:
    """The primer all of whose paths are in the release; the one that names most when several do."""
    fitting = [p for p in primers if p.recognise and all(_there(pattern, paths) for pattern in p.recognise)]
    return max(fitting, key=lambda p: (len(p.recognise), p.name), default=None)


def _there(pattern: str, paths: Collection[str]) -> bool:
    if "*" not in pattern:
        return pattern in paths
    return any(fnmatchcase(path, pattern) and path.count("/") == pattern.count("/") for path in paths)
