"""A configuration that an installer could not write and shows instead: its text, and the file that it belongs into. Pure.

Rules:
1. The file's name comes from the words nearest to the text, then from a sentence that says what could not be written.
2. Names in PHP's own noise are files that spoke, not files that are wanted.
3. A path of the host is turned into one of the installation, or it is none.
"""

from __future__ import annotations

import posixpath
import re
from collections.abc import Collection

from highshelf.core.pages.files import FILE_NAME, OTHER_TEXT, PHP_TEXT
from highshelf.core.pages.lexicon import fold, lexicon
from highshelf.core.pages.page import Page
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.marks import form_mark
from highshelf.core.walk.moves import PlaceFile, signature_of

# A button that writes, in the imperative: "I saved it" is said of something else.
SAVES = re.compile(
    r"(?:save|write|store|speichern|schreiben|enregistrer|ecrire|guardar|escribir|salva|scrivi|salvar|gravar|opslaan|schrijven|zapisz)(?![a-z])"
)


def offered_file(page: Page, know: Knowledge, done: Collection[str]) -> PlaceFile | None:
    """The first text on the page that is to be put into a file and was not yet."""
    unwritable = lexicon().says("unwritable", page.text)
    for shown in page.shown:
        wanted = unwritable or _is_of_this_job(shown.text, know)
        if not PHP_TEXT.search(shown.text[:2000]) and not (wanted and OTHER_TEXT.search(shown.text[:20_000])):
            continue
        name = place_of(name_for(shown.before, page), know)
        signature = signature_of("file", shown.text)
        if name and signature not in done:
            return PlaceFile(name, shown.text, signature)
    if not unwritable or any(OTHER_TEXT.search(s.text[:20_000]) or PHP_TEXT.search(s.text[:2000]) for s in page.shown):
        return None
    return _linked(page, know, done)


def _is_of_this_job(text: str, know: Knowledge) -> bool:
    """Whether the job's own database stands in a text, by two of its values: then it is a configuration of this application."""
    ours = {know.values.get(f"database.{part}", "") for part in ("name", "user", "password")} - {""}
    return sum(len(value) > 3 and value in text for value in ours) >= 2


def saves_itself(page: Page, sent: Collection[str]) -> bool:
    """Whether a button would have the installer write the file, and nothing says that it cannot: it is asked to before anybody else does.

    Args:
        sent: the marks of forms that were sent already.
    """
    words = lexicon()
    cannot = any(words.says("unable", s) and words.says("writing", s) for s in (*page.told, *page.complaints()))
    fresh = [f for f in page.forms if form_mark(f) not in sent]
    return not cannot and any(SAVES.match(fold(b.label)) for f in fresh for b in f.buttons if not b.disabled)


def _linked(page: Page, know: Knowledge, done: Collection[str]) -> PlaceFile | None:
    """A configuration that stands in a frame, or behind a link that saves it."""
    name = place_of(name_for("", page), know)
    links = [*page.frames, *(link for link in page.links if lexicon().says("saving", link.label))]
    for link in links:
        signature = signature_of("file", link.url)
        if name and signature not in done:
            return PlaceFile(name, "", signature, link.url)
    return None


def name_for(before: str, page: Page) -> str:
    """The file that a text belongs into, as the page calls it, or ""."""
    noise = {n for fault in page.php_faults for n in FILE_NAME.findall(fault)}
    says = [s for s in (*page.told, *page.complaints()) if lexicon().says("unwritable", s)]
    for text in (before, *says, *page.told):
        names = [n for n in FILE_NAME.findall(text) if n not in noise]
        if names:
            return str(names[-1] if text is before else names[0])
    return ""


def place_of(name: str, know: Knowledge) -> str:
    """A name of the page as a path in the installation, or "" when it can be none."""
    path = name.replace("\\", "/").strip()
    if not path:
        return ""
    if path.startswith("/") or re.match(r"[A-Za-z]:", path):
        own = below_root(path, know)
        return tail_in(path, know) if own is None else own
    path = posixpath.normpath(path)
    while path.startswith("../"):
        # As the installer sees it from its own folder.
        path = path[3:]
    return beside_its_sample(path, know) if "/" not in path else path


def below_root(path: str, know: Knowledge) -> str | None:
    """A host's path as one below the installation, "" for its root, or None where it does not lie there as the transfer login sees it."""
    _, lies, inside = (
        f"{path.rstrip('/')}/".rpartition(f"/{know.root.strip('/')}/") if know.root.strip("/") else ("", "", "")
    )
    return posixpath.normpath(inside) if lies and inside else "" if lies else None


def tail_in(path: str, know: Knowledge) -> str:
    """The longest end of a host's path whose folder the release has; a path right below the page's root counts as one of its own."""
    parts = [p for p in path.split("/") if p and not p.endswith(":")]
    for cut in range(len(parts) - 1):
        if "/".join(parts[cut:-1]) in know.folders:
            return "/".join(parts[cut:])
    return parts[-1] if parts else ""


def beside_its_sample(name: str, know: Knowledge) -> str:
    """A bare name goes where the release has the sample of that name; without one, into its root."""
    stem = name.lstrip(".").partition(".")[0].lower()
    folders = {posixpath.dirname(s) for s in know.samples if posixpath.basename(s).lstrip(".").lower().startswith(stem)}
    return posixpath.join(folders.pop(), name) if len(folders) == 1 else name


def is_page(text: str) -> bool:
    """Whether an answer is a page for people instead of a file's text, such as a login in its place."""
    return re.match(r"\s*(?:<!--.*?-->\s*)*<(?:!doctype html|html|head|body)\b", text, re.I | re.S) is not None


def whole(text: str) -> str:
    """A text as a file of its own: lines of PHP get the tag without which they would be shown as they are."""
    is_php = PHP_TEXT.search(text[:2000]) is not None and not OTHER_TEXT.search(text)
    return text if "<?" in text or not is_php else f"<?php\n{text}\n"


def added(there: str, text: str) -> str:
    """What a configuration that is there already becomes when a text is put into it: a snippet is added, a whole file takes its place.

    Values that the snippet sets anew stand after the old ones, where they count.
    """
    if text in there:
        return there
    if "<?php" in text or not there.strip():
        return whole(text)
    head, closing, tail = there.rstrip().rpartition("?>")
    if "<?" in there and closing and not tail.strip():
        return f"{head.rstrip()}\n{text}\n{closing}\n"
    return f"{there.rstrip()}\n{text}\n"
