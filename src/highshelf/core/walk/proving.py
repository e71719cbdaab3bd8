"""A file that a page wants to be made as a proof that the server is one's own, and a file on the host that has what a page asks for. Pure.

Rules:
1. Only a sentence that asks for it makes a file: it names the file, and it or what is set apart behind it says what is to stand in it.
2. A file of the release is never overwritten so, and nothing outside the installation is made or read.
"""

from __future__ import annotations

import posixpath
import re
from collections.abc import Collection
from urllib.parse import urlsplit

from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Page
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import PlaceFile, signature_of

# Of any kind, also without an ending that settings have.
NAME = re.compile(r"(?<![\w/@:.])((?:\.{0,2}/)?(?:[\w.-]+/)*[\w-][\w.-]*\.[A-Za-z][A-Za-z0-9_-]{1,9})(?![\w/@])")
QUOTED = re.compile(r"[\"“„«‘'`]\s*([^\"“”„«»‘’'`]{4,200}?)\s*[\"”“»’'`]")
MOST_CONTENT = 300


def demanded_file(page: Page, know: Knowledge, done: Collection[str]) -> PlaceFile | None:
    """The file that the page asks to be made, which was not yet."""
    words = lexicon()
    for n, sentence in enumerate(page.told):
        if not words.says("making_file", sentence):
            continue
        # Its name and its content may come in the sentences right behind it.
        said = " ".join(page.told[n : n + 3])
        name = next(iter(NAME.findall(sentence) or NAME.findall(said)), "")
        path = _place(name, said, page, know) if name else ""
        content = _content(name, said, page)
        if not path or content is None or path in know.files:
            continue
        signature = signature_of("proof", path, content)
        if signature not in done:
            return PlaceFile(path, content, signature, asked=True)
    return None


def _place(name: str, said: str, page: Page, know: Knowledge) -> str:
    """Where it is to be made: the folder that is named beside it, the page's own where it says "here", else as it is called."""
    named = posixpath.normpath(name.lstrip("/"))
    if named.startswith("../"):
        named = named.removeprefix("../")
    if "/" in named:
        return "" if named.startswith("..") else named
    folders = [f for f in know.folders if f and re.search(rf"(?<![\w/.-]){re.escape(f)}/?(?![\w/-])", said)]
    if folders:
        return posixpath.join(max(folders, key=len), named)
    return posixpath.join(_folder_of(page, know), named) if lexicon().says("right_here", said) else named


def _folder_of(page: Page, know: Knowledge) -> str:
    """The folder of the installation in which the page's own script lies."""
    base, path = urlsplit(know.address).path, urlsplit(page.url).path
    inside = path.removeprefix(base.rstrip("/") + "/") if path.startswith(base.rstrip("/") + "/") else ""
    folder = posixpath.dirname(inside)
    return folder if folder in know.folders else ""


def _content(name: str, said: str, page: Page) -> str | None:
    """What is to stand in it; None where nobody says."""
    if lexicon().says("empty", said):
        return ""
    own = {name, name.rpartition("/")[2]}
    for shown in page.shown:
        text = shown.text.strip()
        alone = "\n" not in text and text not in own and len(text) <= MOST_CONTENT
        if (
            alone
            and lexicon().says("containing", shown.before.rpartition(name)[2] or shown.before)
            and " folder" not in shown.before[-8:]
        ):
            return text
    return next((q for q in QUOTED.findall(said.partition(name)[2]) if q not in own), None)


def file_with_it(page: Page) -> str:
    """The file on the host in which the page says that what it asks for stands, or ""."""
    words = lexicon()
    for n, sentence in enumerate(page.told):
        said = " ".join(page.told[max(n - 1, 0) : n + 2])
        if not words.says("once", said) and not words.says("password", said):
            continue
        names = NAME.findall(sentence)
        if names and not words.says("making_file", sentence) and words.says("stands_in", said):
            return str(names[0])
    return ""


def word_in(text: str) -> str:
    """The word that a small file is there for: its only line, or what a line of PHP or of settings gives, or ""."""
    lines = [s.strip() for s in text.splitlines() if s.strip() and not re.match(r"\s*(?:<\?|\?>|//|#|/\*|\*)", s)]
    given = [m[1] for s in lines if (m := re.search(r"[=>:]\s*[\"']?([^\s\"';,]{4,200})[\"']?\s*[;,)]*\s*$", s))]
    if len(given) == 1:
        return given[0]
    return lines[-1] if lines and re.fullmatch(r"[^\s<>;=$]{4,200}", lines[-1]) and len(lines) <= 2 else ""
