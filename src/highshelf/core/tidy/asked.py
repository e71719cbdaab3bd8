"""What the last page of an installer asks people to do: folders to be renamed, texts to be taken away. Pure.

Rules:
1. Only what the release brought is touched, by the very name that the page uses; its words say what is to be done.
2. A verb reaches forward to the names behind it; a name before every verb of its sentence belongs to the first one.
3. Of folders only the installer's are taken away (tidy.py does); of files those that no server runs.
"""

from __future__ import annotations

import posixpath
import re
from collections.abc import Collection, Iterable, Iterator
from dataclasses import dataclass

from highshelf.core.pages.lexicon import fold, lexicon

WORD = re.compile(r"[\w./+-]*\w", re.UNICODE)
# Texts for people, samples and dumps.
NEVER_RUN = re.compile(r"(?i)\.(?:txt|md|rst|markdown|html?|pdf|sql|dist|sample|example|bak|old)$|^[A-Z]+$")
MOST = 12


@dataclass(frozen=True)
class Wishes:
    """Paths of the release.

    Attributes:
        rename: folders that are to be called something that nobody guesses.
        remove: files that are to go.
        left: what is asked about as well, and is for people to do.
    """

    rename: tuple[str, ...] = ()
    remove: tuple[str, ...] = ()
    left: tuple[str, ...] = ()


def wishes(sentences: Iterable[str], files: Collection[str], installers: Collection[str]) -> Wishes:
    """What these sentences want done with the release's files."""
    folders = {f for path in files for f in _above(path)}
    rename: list[str] = []
    remove: list[str] = []
    left: list[str] = []
    for sentence in sentences:
        if lexicon().says("not_doing", sentence):
            continue
        for verb, path in _meant(sentence, files, folders):
            if any(path == i or path.startswith(i + "/") for i in installers):
                continue
            if verb == "renaming" and path in folders:
                rename.append(path)
            elif verb == "taking" and path in files and NEVER_RUN.search(posixpath.basename(path)):
                remove.append(path)
            elif verb:
                left.append(path)
    return Wishes(*(tuple(dict.fromkeys(found))[:MOST] for found in (rename, remove, left)))


def _above(path: str) -> Iterator[str]:
    while path := posixpath.dirname(path):
        yield path


def _meant(sentence: str, files: Collection[str], folders: Collection[str]) -> Iterator[tuple[str, str]]:
    """Pairs of what is to be done and to which path, in the sentence's order."""
    words = [m.group().strip(".") for m in WORD.finditer(sentence)]
    paths = [_path(w, files, folders) for w in words]
    verbs = ["" if path else _verb(word) for word, path in zip(words, paths, strict=True)]
    last = next((v for v in verbs if v), "")
    for verb, path in zip(verbs, paths, strict=True):
        last = verb or last
        if path and last:
            yield last, path


def _path(word: str, files: Collection[str], folders: Collection[str]) -> str:
    """The release's path that a word names: from its root, or by the only file of that name."""
    path = word.strip("/")
    if path in files or path in folders:
        return path
    if "." in path and "/" not in path:
        called = [f for f in files if posixpath.basename(f) == path]
        return called[0] if len(called) == 1 else ""
    return ""


def _verb(word: str) -> str:
    folded = fold(word)
    return next((v for v in ("renaming", "taking") if lexicon().says(v, folded)), "")
