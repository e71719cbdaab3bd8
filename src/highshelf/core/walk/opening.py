"""Places that PHP may not write to, as a page names them, and how far they are opened for it. Pure.

Rules:
1. Only what the page names, and only inside the installation. A file that is not there yet means the folder it is to come into.
2. One step at a time, owner, group, everybody: the page is asked again after each, so that nothing is opened further than it has to be.
3. A row that stays red when its place is open for everybody, on a page that leads on, was red for another reason, or shows what was
   found before: the place is open for a while only (step 0), and tidying closes it where the application does well without.
4. A red row about a folder is mended before anything is pressed; whatever else only where the page leads no further.
"""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterable

from highshelf.core.pages.files import FILE_NAME
from highshelf.core.pages.judgement import red
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Page
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import Open
from highshelf.core.walk.offers import below_root, beside_its_sample, tail_in

MOST_PLACES, MOST_UP = 20, 2
DENIED = re.compile(r"permission denied|not writable|failed to open stream", re.I)
# A word with a slash in it, or one that ends like a file; quotation marks may stand around it.
PATH = re.compile(
    r"(?<![\w@:/.])((?:[A-Za-z]:)?(?:\.{0,2}/)?(?:[\w.@+~-]+/)*[\w.@+~-]*[\w~-]/?|\.{1,2}/|/(?:[\w.@+~-]+/)*[\w.@+~-]+/?)(?![\w@])"
)


def opened(page: Page, know: Knowledge, *, blocked: bool) -> Open | None:
    """What is to be opened next, or None where the page names nothing, or all of it was opened for everybody already.

    Args:
        blocked: whether the page leads no further as it is.
    """
    wanted = dict.fromkeys(_in_rows(page, know, blocked=blocked))
    if blocked and not wanted:
        wanted = dict.fromkeys(_in_prose(page, know))
    by_step: dict[int, list[tuple[str, bool]]] = {}
    for path, passing in list(wanted)[:MOST_PLACES]:
        step = next((n for n in range(1, know.most_open + 1) if mark_of(path, n) not in know.tried), 0)
        if step:
            by_step.setdefault(step, []).append((path, passing))
    if not by_step:
        return None if blocked else _for_a_while(wanted, page, know)
    step = min(by_step)
    paths = tuple(dict.fromkeys(path for path, _ in by_step[step]))
    staying = {path for path, passing in by_step[step] if not passing}
    return Open(paths, tuple(p for p in paths if p not in staying), step, _why(page))


def _for_a_while(wanted: Iterable[tuple[str, bool]], page: Page, know: Knowledge) -> Open | None:
    """What was opened as far as it goes, and did not help as far as the page shows."""
    tried = know.tried
    vain = [path for path, _ in wanted if mark_of(path, know.most_open) in tried and mark_of(path, 0) not in tried]
    return Open(tuple(dict.fromkeys(vain)), (), 0, _why(page)) if vain else None


def mark_of(path: str, step: int) -> str:
    """How it is remembered that a place was opened so far."""
    return f"open {step} {path}"


def _why(page: Page) -> str:
    return next((c for c in page.complaints() if lexicon().says("writing", c)), "a check of the installer")[:200]


def _in_rows(page: Page, know: Knowledge, *, blocked: bool) -> Iterable[tuple[str, bool]]:
    words = lexicon()
    for row in red(page) if blocked else [c for c in page.checks if not c.fine]:
        said = f"{row.label} {row.seen}"
        writing = words.says("writing", said)
        for token in PATH.findall(said):
            # Of a path in a row whose words nobody here knows, what else could be wrong?
            found = _place(token, know, sure=writing or (row.unread and "/" in token.strip("/")))
            if found is not None and (blocked or not found[1]):
                yield found


def _in_prose(page: Page, know: Knowledge) -> Iterable[tuple[str, bool]]:
    words = lexicon()
    faults = [f for f in page.php_faults if DENIED.search(f)]
    # PHP names what it could not write in brackets; what stands after that is the source that tried to.
    for fault in faults:
        for token in re.findall(r"\(([^()\s]+)\)", fault):
            if (found := _place(token, know, sure=True)) is not None:
                yield found
    complaints = page.complaints()
    for sentence in (*complaints, *page.told):
        # What is shown as a complaint needs no word that it is one.
        if words.says("writing", sentence) and (sentence in complaints or words.says("unable", sentence)):
            for token in PATH.findall(sentence):
                named = "/" in token.strip("/.") or FILE_NAME.fullmatch(token) is not None
                if (found := _place(token, know, sure=named)) is not None:
                    yield found


def _place(token: str, know: Knowledge, *, sure: bool) -> tuple[str, bool] | None:
    """A name on a page as a place of the installation, and whether it has to be open for a while only; None when it is none.

    `sure`: what stands around it speaks of writing; otherwise only what the release has is believed.
    """
    named = token.strip("'\"“”‘’`").rstrip(".,;:").rstrip("/") if token not in (".", "./", "../") else "."
    path = beside_its_sample(named, know) if FILE_NAME.fullmatch(named) and "/" not in named else _inside(named, know)
    if path is None or path.startswith("../"):
        return None
    if path in know.folders:
        return path, not path
    if path in know.files:
        return (path, True) if sure else None
    if not sure:
        return None
    parent = posixpath.dirname(path)
    if "." in posixpath.basename(path).lstrip("."):
        return (parent, True) if parent in know.folders else None
    return (path, False) if parent in know.folders and "/" in token else None


def _inside(named: str, know: Knowledge) -> str | None:
    if named.startswith("/") or re.match(r"[A-Za-z]:", named):
        own = below_root(named, know)
        if own is not None or know.root.strip("/"):
            return own
        # Where it is not known how PHP's paths end, a path that ends in nothing of the release may be anybody's.
        tail = tail_in(named, know)
        return tail if tail in know.folders | know.files or posixpath.dirname(tail) in know.folders - {""} else None
    path = posixpath.normpath(named) if named else "."
    # As the installer sees it from its own folder, which lies no deeper than this.
    for _ in range(MOST_UP):
        path = path.removeprefix("../")
    return "" if path in (".", "..") else path
