"""Signing in as a person would: find the login form, fill it, tell success from refusal."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from html import unescape
from urllib.parse import urlencode, urlsplit

from highshelf.core.errors import ProofError
from highshelf.core.pages.forms import bare_login, filled, find_form
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Form, Link, Page
from highshelf.core.pages.purposes import says_login
from highshelf.core.pages.reader import read
from highshelf.core.ports import Fetch
from highshelf.core.primers.models import LoginChange
from highshelf.core.walk.assign import assign

# Where a login is when no link tells: names that applications commonly use.
USUAL = (
    "admin/",
    "login",
    "login.php",
    "admin.php",
    "administrator/",
    "administration/",
    "user/login",
    "signin",
    "account/login",
    "staff/",
)


@dataclass(frozen=True)
class Door:
    """Where one signs in."""

    url: str
    title: str


@dataclass(frozen=True)
class Attempt:
    """How a try to sign in ended, in one sentence, and the page after it."""

    inside: bool
    told: str
    page: Page


MAX_DOORS = 4
# Pages of a front page's own site that are looked at where no word tells which.
MOST_OTHERS = 6


def find_doors(fetch: Fetch, address: str, known: Sequence[str]) -> list[Door]:
    """Pages with a login form, the surest first: known addresses, links that say so, the front page, usual names.

    The search ends at usual names as soon as something was found: a front page's form may need JavaScript where the
    page behind its link does not, but a guess is no better than either.
    """
    found: list[Door] = []
    sure, others = _linked(fetch, address, known)
    for url in [*sure, *(address + name for name in USUAL), *others]:
        if len(found) >= MAX_DOORS or (found and url not in sure):
            break
        snapshot = fetch.get(url)
        page = read(snapshot)
        if snapshot.status < 400 and login_form(page) is not None and snapshot.url not in [d.url for d in found]:
            found.append(Door(snapshot.url, page.title))
    return found


def login_form(page: Page) -> Form | None:
    """Where one signs in: a form with words of that, or, in a language that nobody here reads, one name and one password to send."""
    return says_login(page) or next(
        (form for form in page.real_forms if bare_login(form) and not _joins(form, page)), None
    )


def _joins(form: Form, page: Page) -> bool:
    """Whether a form makes an account instead of asking for one: nothing is ever made to prove a login."""
    said = " ".join([*page.headings, *(b.label for b in form.buttons)])
    return lexicon().says("making", said) or any(f.autocomplete == "new-password" for f in form.fields)


def _linked(fetch: Fetch, address: str, known: Sequence[str]) -> tuple[list[str], list[str]]:
    """Addresses that say that one signs in there, and what else the front page links to of its own site."""
    front = read(fetch.get(address))
    words = lexicon()
    here = urlsplit(address)
    own = [link for link in front.links if urlsplit(link.url).netloc == here.netloc]

    def leads(link: Link) -> bool:
        parts = urlsplit(link.url)
        said = [link.label, parts.path, parts.query]
        return any(words.says(topic, text) for topic in ("login", "door") for text in said)

    links = [link.url for link in own if leads(link) and not words.says("logout", link.label)]
    shunned = ("logout", "destroying", "making")
    others = [
        link.url
        for link in own
        if link.url.startswith(address) and not any(words.says(topic, link.label) for topic in shunned)
    ]
    sure = list(dict.fromkeys([*known, *links[:8], address]))
    return sure, [url for url in dict.fromkeys(others) if url not in sure][:MOST_OTHERS]


def sign_in(fetch: Fetch, door: Door, name: str, password: str) -> Attempt:
    """Try to sign in. `fetch` must be a fresh conversation."""
    page = read(fetch.get(door.url))
    form = login_form(page)
    if form is None:
        return Attempt(False, f"there is no login form at {door.url}", page)
    after = _send(fetch, form, page, name, password)
    if login_form(after) is not None or after.status in (401, 403):
        said = next(iter(after.complaints()), "the login form is shown again")
        return Attempt(False, said[:200], after)
    if after.status >= 400 or after.php_faults:
        return Attempt(
            False,
            f"status {after.status} after signing in" + (f": {after.php_faults[0]}" if after.php_faults else ""),
            after,
        )
    # The next page must still know us; a page that merely has no form proves nothing.
    again = read(fetch.get(door.url))
    if login_form(again) is not None and not lexicon().says(
        "logout", again.text + " ".join(x.label for x in again.links)
    ):
        front = _still_inside(fetch, after)
        if not front:
            return Attempt(False, "the next page asks for the login again", again)
    return Attempt(True, f"signed in, saw “{after.title or after.url}”", after)


def _still_inside(fetch: Fetch, after: Page) -> bool:
    page = read(fetch.get(after.url))
    return login_form(page) is None and page.status < 400


def _send(fetch: Fetch, form: Form, page: Page, name: str, password: str) -> Page:
    names = {a.field.name: a.value for a in assign(form, page)}
    texts = [f for f in form.fields if f.typed and f.kind in ("text", "email")]
    user_field = next((f for f in texts if names.get(f.name, "").startswith(("admin.", "database.user"))), texts[0])
    fields: list[tuple[str, str]] = []
    for field in form.fields:
        if field.disabled or field.kind == "file" or (field.kind in ("checkbox", "radio") and not field.checked):
            continue
        value = name if field is user_field else password if field.kind == "password" else field.value
        fields.append((field.name, value))
    button = next((b for b in form.buttons if not b.disabled), None)
    if button is not None and button.name:
        fields.append((button.name, button.value))
    url = button.target if button is not None and button.target else form.action
    if form.method == "get":
        return read(fetch.get(urlsplit(url)._replace(query=urlencode(fields)).geturl()))
    return read(fetch.post(url, fields, multipart=form.multipart))


def front_faults(page: Page, still_installing: Callable[[Page], bool]) -> list[str]:
    """Why a front page is not that of a working application; empty when it is."""
    faults = []
    if page.status != 200:
        faults.append(
            f"the front page answers with status {page.status}" + (f": {page.text[:120]}" if page.text else "")
        )
    if page.php_faults:
        faults.append(f"PHP complains on the front page: {page.php_faults[0][:200]}")
    if len(page.text) < 3 and not page.forms:
        faults.append("the front page is empty")
    if still_installing(page):
        faults.append(f"the front page is still an installer's: “{page.title}”")
    return faults


def make_login_change(fetch: Fetch, address: str, steps: Sequence[LoginChange], values: Mapping[str, str]) -> None:
    """Do what a primer says changes the password; `fetch` is signed in with the old one.

    Raises:
        ProofError: something to be taken is not there, or the answer does not say what it must.
    """
    known = dict(values)

    def filled_in(text: str) -> str:
        return re.sub(r"\{([a-z._]+)\}", lambda m: known.get(m[1], m[0]), text)

    for step in steps:
        url = address + filled_in(step.open).lstrip("/")
        if step.post is None:
            snapshot = fetch.get(url)
        else:
            snapshot = fetch.post(url, [(name, filled_in(text)) for name, text in step.post.items()])
        if step.fill is not None:
            form, button = find_form(read(snapshot), list(step.fill), step.press)
            if form is None:
                raise ProofError(
                    f"the page {step.open} has no form with {', '.join(step.fill)}",
                    hint="mend the primer's change_login",
                )
            texts = {name: filled_in(text) for name, text in step.fill.items()}
            snapshot = fetch.post(form.action, filled(form, button, texts), multipart=form.multipart)
        for name, pattern in step.take.items():
            found = re.search(pattern, snapshot.html)
            if found is None:
                raise ProofError(
                    f"the page {step.open} does not show {name}, which the primer wants from it",
                    hint="mend the primer's change_login",
                )
            known[name] = unescape(found[1])
        if step.expect and step.expect not in snapshot.html:
            raise ProofError(
                f"the application did not say “{step.expect}” when its published login was changed",
                hint="sign in by hand and change it there",
            )
