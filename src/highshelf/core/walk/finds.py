"""What must not be lost on a page: codes that are shown once, and what it wants taken away afterwards."""

from __future__ import annotations

import re
from collections.abc import Collection

from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Page


def shown_once(page: Page) -> list[tuple[str, str]]:
    """(label, text) of each code, key or token set apart on the page with words that say what it is."""
    found = []
    for shown in page.shown:
        looks_so = re.fullmatch(r"[A-Za-z0-9][A-Za-z0-9 _./+=:-]{5,200}", shown.text) is not None
        if (
            looks_so
            and lexicon().says("once", shown.before)
            and re.search(r"\d|[A-Z]", shown.text)
            and "/" not in shown.text[:1]
        ):
            label = re.split(r"(?<=[.!?:])\s", shown.before)
            told = next((part for part in label if lexicon().says("once", part)), shown.before)
            found.append((told.strip(" :.")[:120], shown.text))
    return found


def told_to_remove(page: Page, entries: Collection[str]) -> list[str]:
    """Of these files and folders, those that a page wants taken away or renamed."""
    says = [t for t in (*page.told, *page.complaints()) if lexicon().says("removal", t)]
    return [
        e
        for e in entries
        if any(re.search(rf"(?<![\w-]){re.escape(e.rsplit('/', 1)[-1])}(?![\w-])", t, re.I) for t in says)
    ]
