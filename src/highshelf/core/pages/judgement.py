"""What is this page? Judged as a whole, with what speaks for it and against it. Pure.

Rules:
1. `done` needs words of success in prose, of what has happened, that did not stand on an earlier page; and nothing against it.
2. One red required row, a complaint, a fatal fault, a closed way on or a status of failure forbids `done`.
3. What stands on buttons, links and step lists tells nothing of what has happened.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from highshelf.core.pages.files import FILE_NAME, OTHER_TEXT, PHP_TEXT
from highshelf.core.pages.groups import FOREIGN, group_of
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Button, Check, Field, Form, Page
from highshelf.core.pages.purposes import is_login, says_login, searches
from highshelf.core.pages.saying import cheers, language_of, said

State = Literal[
    "asks", "checks", "offers-text", "waits", "refuses", "done", "already", "login", "application", "broken"
]
Topic = Literal[
    "language",
    "licence",
    "checks",
    "database",
    "account",
    "site",
    "options",
    "progress",
    "hand-placed configuration",
    "finished",
    "already installed",
    "error",
    "login",
    "other",
]
Outcome = Literal["failure", "success", ""]

# A page with so few sentences has been made for what they say.
FEW = 30
# Sentences that are enough to know a page's language.
MOST_READ = 40


@dataclass(frozen=True)
class Judgement:
    """`outcome` is what the page says of the step before; `confidence` goes from 0 to 1."""

    state: State
    topic: Topic
    outcome: Outcome
    confidence: float
    speaks_for: tuple[str, ...] = ()
    against: tuple[str, ...] = ()
    praise: tuple[str, ...] = ()


def anything(_: str) -> bool:
    return True


def judge(page: Page, is_new: Callable[[str], bool] = anything) -> Judgement:
    """Judge a page.

    Args:
        is_new: whether no earlier page of the conversation said the same; what stood there before tells nothing.
    """
    praise, against = praises(page, is_new), speaks_against(page, is_new)
    outcome: Outcome = "failure" if against else "success" if praise else ""
    state, topic, said = next(_readings(page, praise, against))
    sure = (0.9 if said else 0.5) - (0.2 if praise and against else 0.0)
    return Judgement(state, topic, outcome, sure, tuple(said), tuple(against), tuple(praise))


def _readings(page: Page, praise: list[str], against: list[str]) -> Iterator[tuple[State, Topic, list[str]]]:
    """What the page can be, the surest first."""
    asking = [f for f in page.forms if any(field.typed for field in f.fields) and not searches(f)]
    login = says_login(page)
    if page.fatal or (page.status >= 500 and not asking):
        yield "broken", "error", [page.fatal or f"status {page.status}"]
    if offers_text(page):
        yield "offers-text", "hand-placed configuration", ["a text to be put into a file"]
    if login is not None and all(is_login(f, page) for f in asking) and any(h in against for h in page.headings):
        yield "refuses", "error", against
    if login is not None and all(is_login(f, page) for f in asking):
        yield "login", "already installed" if already(page) else "login", []
    if any(map(opens, asking)):
        yield "asks", "login", []
    fields = [field for form in asking for field in form.fields if field.typed]
    asking = [form for form in asking if not served(form, praise)]
    if praise and not against and not _asks_anew(asking):
        yield "done", "finished", praise
    if already(page) and not fields:
        yield "already", "already installed", already(page)
    if page.checks and not any(_asks_ours(f) for f in fields):
        yield ("refuses" if red(page) else "checks"), "checks", [c.label for c in red(page)]
    if fields:
        yield ("refuses" if against else "asks"), _topic(fields, page), against
    if page.refresh:
        yield "waits", "progress", [page.refresh]
    if against:
        yield "refuses", "error", against
    if any(leads_on(b) for f in page.forms for b in f.buttons):
        yield "asks", "progress", []
    if lexicon().says("licence", " ".join([page.title, *page.headings])):
        yield "asks", "licence", []
    yield "application", "other", []


def served(form: Form, praise: Sequence[str]) -> bool:
    """Whether a form that makes an account has made it: the page says so of an account, and shows the form again."""
    passwords = [
        f
        for f in form.fields
        if f.kind == "password" and group_of(f"{f.label} {f.name}") not in ("setup", "database", *FOREIGN)
    ]
    return len(passwords) > 1 and any(group_of(p) == "admin" for p in praise)


def _asks_anew(forms: list[Form]) -> bool:
    """Whether a form still wants something: a required field that is empty."""
    return any(
        f.required and not f.value and f.kind not in ("checkbox", "radio") for form in forms for f in form.fields
    )


def opens(form: Form) -> bool:
    """Whether a form is the installer's own door: one word that opens it, and a button that says so."""
    typed = [f for f in form.fields if f.typed and f.kind not in ("checkbox", "select")]
    says = any(lexicon().says("login", b.label) for b in form.buttons)
    return len(typed) == 1 and typed[0].kind == "password" and says


def _asks_ours(field: Field) -> bool:
    return field.kind == "password" or group_of(f"{field.label} {field.name}") not in ("", *FOREIGN)


def _topic(fields: list[Field], page: Page) -> Topic:
    """What most of the fields are about."""
    words = lexicon()
    groups = [(f, group_of(f.near), group_of(f"{f.label} {f.name}")) for f in fields]
    ours = [(f, near, own) for f, near, own in groups if near not in FOREIGN and own not in FOREIGN] or groups
    fields, said = [f for f, _, _ in ours], [own or near for _, near, own in ours]
    # Where no field and no heading over it says a group, the page's own headings do.
    if not any(said):
        said = [group_of(h) for h in (*page.headings, page.title)]
    if (
        any(words.says("licence", f"{f.label} {f.name}") for f in fields if f.kind in ("checkbox", "radio"))
        and len(fields) <= 3
    ):
        return "licence"
    if all(_names_language(f) for f in fields):
        return "language"
    if "database" in said:
        return "database"
    if any(f.kind == "password" for f in fields) or "admin" in said:
        return "account"
    if "site" in said or any(words.says("identity", f.label) for f in fields if f.kind == "text"):
        return "site"
    return "options"


def _names_language(field: Field) -> bool:
    return any(
        stem in f"{field.label} {field.name}".lower()
        for stem in ("lang", "sprache", "idioma", "lingua", "taal", "jezyk", "język", "locale")
    )


def praises(page: Page, is_new: Callable[[str], bool] = anything) -> list[str]:
    """Sentences of success about what has happened, that are new here."""
    rows = {c.label for c in page.checks}
    found = []
    for sentence in page.told:
        if not is_new(sentence) or sentence == page.title or _is_row(sentence, rows):
            continue
        if _tells_success(sentence, page):
            found.append(sentence)
    # A box that is marked as a good one says so by its looks, whatever its words are.
    marked = [n.text for n in page.notices if n.tone == "success" and is_new(n.text) and not _is_row(n.text, rows)]
    return list(dict.fromkeys([*found, *(t for t in marked if len(t.split()) >= 2 and not any(f in t for f in found))]))


def _tells_success(sentence: str, page: Page) -> bool:
    words, weighed = lexicon(), said(sentence, tongue(page))
    listed = (
        words.says("success", sentence)
        and not words.says("failure", sentence)
        and not words.says("condition", sentence)
    )
    return weighed == "done" or (listed and weighed == "")


def tongue(page: Page) -> str:
    """The language of a page, by its words; "" where they do not tell."""
    return language_of(" ".join((*page.headings, *page.told[:MOST_READ]))) or page.language


def _is_row(text: str, rows: Collection[str]) -> bool:
    """Whether a text is a row of checks, or a box with half the page in it."""
    return len(text) > 600 or any(label and label in text for label in rows)


def already(page: Page) -> list[str]:
    """Sentences that say it was installed before."""
    every, language = (page.title, *page.headings, *page.told), tongue(page)
    if any(map(cheers, every)):
        # "Congratulations! It is installed already."
        return []
    return [s for s in every if _tells_before(s, language)]


def _tells_before(sentence: str, language: str) -> bool:
    return lexicon().says("already", sentence) or said(sentence, language) == "already"


def speaks_against(page: Page, is_new: Callable[[str], bool] = anything) -> list[str]:
    """What on a page says that the step before did not succeed."""
    found = [page.fatal] if page.fatal else []
    # "It is installed already" refuses, but says of no step that it failed.
    language = tongue(page)
    found += [c for c in page.complaints() if is_new(c) and not _tells_before(c, language)]
    found += [h for h in (page.title, *page.headings) if is_new(h) and tells_failure(h, language)]
    found += [f"{c.label}: {c.seen}" for c in red(page)]
    # What is shut in a browser while fields stand beside it waits for them, and says of no step that it failed.
    waiting = {b.at for f in page.forms if any(x.typed for x in f.fields) for b in f.buttons if b.at}
    found += [f"“{b.label}” cannot be pressed" for b in closed(page) if b.at not in waiting]
    if not found and not any(f.typed for form in page.forms for f in form.fields) and len(page.told) <= FEW:
        found += [t for t in page.told if is_new(t) and tells_failure(t, language)][:3]
    if page.status >= 400 and page.status not in (401, 403, 409):
        found.append(f"status {page.status}")
    return found


def tells_failure(heading: str, language: str) -> bool:
    """Whether a sentence says that something failed; `language` is the page's, as `tongue` tells it."""
    words, weighed = lexicon(), said(heading, language)
    supposed = words.says("supposing", " ".join(heading.split()[:1])) or weighed in ("supposed", "done", "already")
    return weighed == "failed" or (
        words.says("failure", heading) and not supposed and not words.says("already", heading)
    )


def red(page: Page) -> list[Check]:
    """Rows that say of something needed that it is not there; what is only recommended is none of them."""
    return [c for c in page.checks if not c.fine and c.required is not False]


def closed(page: Page) -> list[Button]:
    """Buttons that would lead on, and are switched off."""
    return [b for f in page.forms if not searches(f) for b in f.buttons if b.disabled and leads_on(b)]


def leads_on(button: Button) -> bool:
    words = lexicon()
    return words.says("forward", button.label) and not words.says("decoy", button.label)


def offers_text(page: Page) -> bool:
    """Whether the page shows a text that somebody is to put into a file, or leads to one."""
    texts = [s.text for s in page.shown]
    if any(PHP_TEXT.search(t[:2000]) for t in texts):
        return True
    wanted = [t for t in (*page.told, *page.complaints()) if lexicon().says("unwritable", t)]
    saved = bool(page.frames) or any(lexicon().says("saving", link.label) for link in page.links)
    named = any(FILE_NAME.search(t) for t in wanted)
    return bool(wanted) and (any(OTHER_TEXT.search(t[:20_000]) for t in texts) or (saved and named))
