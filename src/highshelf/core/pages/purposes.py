"""What a form is for, where that is none of an installer's questions: signing in, looking for something."""

from __future__ import annotations

import re
from dataclasses import replace

from highshelf.core.pages.groups import group_of
from highshelf.core.pages.lexicon import fold, lexicon
from highshelf.core.pages.page import Field, Form, Page


def says_login(page: Page) -> Form | None:
    """The page's login form, or None: one password and a name, with words of signing in; or nothing but these two."""
    return next((form for form in page.forms if is_login(form, page)), None)


def is_login(form: Form, page: Page) -> bool:
    """Whether a form of the page asks who somebody is, and makes nothing."""
    words = lexicon()
    typed = [f for f in form.fields if f.typed]
    passwords = [f for f in typed if f.kind == "password"]
    texts = [f for f in typed if f.kind in ("text", "email")]
    if len(passwords) != 1 or not 1 <= len(texts) <= 2 or len(typed) > 6:
        return False
    if any(lexicon_group("database", f) for f in typed):
        return False
    heads, pressed = " ".join([page.title, *page.headings]), " ".join(b.label for b in form.buttons)
    if group_of(passwords[0].near) == "database" and not words.says("login", pressed):
        # Whoever may use the database is asked for like anybody who signs in.
        return False
    if not words.says("login", pressed) and words.says("making", f"{pressed} {' '.join(page.headings)}"):
        return False
    if words.says("login", f"{heads} {pressed} {form.action}") or passwords[0].autocomplete == "current-password":
        return True
    bare = len(texts) == 1 and len([f for f in typed if f.kind not in ("checkbox", "select")]) == 2
    return bare and words.says("identity", f"{texts[0].label} {texts[0].name}") and not words.says("installing", heads)


def searches(form: Form) -> bool:
    """Whether a form looks for something in what is there."""
    typed = [f for f in form.fields if f.typed]
    said = " ".join(f"{f.label} {f.name}" for f in typed)
    return (
        bool(typed)
        and len(typed) <= 3
        and (any(f.kind == "search" for f in typed) or lexicon().says("searching", said))
    )


def asks_for_letters(form: Form) -> bool:
    """Whether a form only takes an address to which news is sent."""
    typed = [f for f in form.fields if f.typed]
    if len(typed) != 1 or typed[0].kind not in ("text", "email") or len(form.buttons) > 1:
        return False
    one = typed[0]
    said = " ".join([one.label, one.placeholder, one.near, *(b.label for b in form.buttons)])
    takes_mail = one.kind == "email" or lexicon().says("mail", f"{one.name} {one.label} {one.placeholder}")
    return takes_mail and (lexicon().says("unwanted", said) or offers_letters(said))


def offers_letters(said: str) -> bool:
    """Whether a text offers to send news, or what was seen of somebody, to or from whoever reads it."""
    words = lexicon()
    pairs = (("telling", "makers"), ("telling", "tidings"), ("informing", "news"), ("receiving", "tidings"))
    return any(words.says(one, said) and words.says(other, said) for one, other in pairs)


def without_what_stands_beside(page: Page) -> Page:
    """The page as the installer's step alone: without searches, letters, and what stands in its footer where there is more."""
    own = [f for f in page.forms if not searches(f) and not asks_for_letters(f)]
    inner = [f for f in own if not f.around]
    kept = tuple(inner if inner or page.links else own)
    return page if len(kept) == len(page.forms) else replace(page, forms=kept)


def lexicon_group(group: str, field: Field) -> bool:
    """Whether a field's own words belong to a group such as `database`."""
    words = fold(f"{field.label} {field.name}")
    return any(re.search(rf"(?<![a-z]){re.escape(stem)}", words) for stem in lexicon().groups[group])
