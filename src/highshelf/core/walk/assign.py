"""Which field asks for which value: scored from label, name, type, autocomplete and neighbours."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from highshelf.core.pages.lexicon import Words, fold, lexicon, stem_in
from highshelf.core.pages.page import Field, Form, Page

# What a field's own words weigh. A label beats a name: a field called `name` was the login in one installer,
# the resource's title in another.
LABEL_WHOLE, LABEL_PART, NAME_WHOLE, NAME_PART, GROUP, TYPE = 9.0, 6.0, 7.0, 4.0, 4.0, 3.0
ENOUGH = 6.0


@dataclass(frozen=True)
class Assignment:
    """A field and the value it asks for; `again` marks the second field of a repeated password or address."""

    field: Field
    value: str
    score: float
    again: bool = False


def assign(form: Form, page: Page) -> list[Assignment]:
    """The best value for each field that a person would fill in, in the order of the form."""
    groups = _groups(form, page)
    found: list[Assignment] = []
    for index, field in enumerate(form.fields):
        if not field.typed or field.kind in ("checkbox", "radio"):
            continue
        scores = {name: _score(field, name, words, groups[index]) for name, words in lexicon().values.items()}
        best = max(scores, key=lambda n: scores[n])
        if scores[best] >= ENOUGH:
            found.append(Assignment(field, best, scores[best]))
    return _mark_repeats(found)


def _groups(form: Form, page: Page) -> list[str]:
    """The group (database, admin, site) each field stands in: its own words, else its neighbours', else the page's."""
    own: list[str] = []
    for field in form.fields:
        own.append(_group_of(f"{field.label} {field.name}") if field.typed else "")
    # Words such as host and port speak for a database form where no field says the word.
    named = {fold(f.name) for f in form.fields if f.typed}
    whole = _group_of(" ".join([page.title, *page.headings]))
    if (any(g == "database" for g in own) and not any(g in ("admin", "site") for g in own)) or {
        "host",
        "server",
        "hostname",
    } & named:
        whole = "database"
    result = []
    for index, field in enumerate(form.fields):
        near = _group_of(field.near)
        # The nearest field before that says its group speaks for those that follow it.
        before = next((g for g in reversed(own[:index]) if g), "")
        result.append(own[index] or near or before or whole)
    return result


def _group_of(text: str) -> str:
    folded = fold(text)
    for group, stems in lexicon().groups.items():
        if any(stem_in(s, folded) or re.search(rf"(?<![a-z]){re.escape(s)}", folded) for s in stems):
            return group
    return ""


def _score(field: Field, name: str, words: Words, group: str) -> float:
    score = max(_label_score(words, fold(field.label)), 0.0) + _name_score(words, fold(field.name))
    if score == 0:
        return _by_type(field, name, group)
    if words.group == group:
        score += GROUP
    elif group == "database" or words.group == "database":
        score -= GROUP
    secret = name.endswith(".password")
    if field.kind == "password":
        score += TYPE * 2 if secret else -12
    elif secret and field.kind not in ("text",):
        score -= 8
    if field.kind == "email":
        score += TYPE * 2 if name.endswith("email") else -8
    if field.kind == "url" and name != "site.address":
        score -= 6
    if field.kind == "select" and name not in ("database.kind", "site.language", "site.timezone", "database.host"):
        score -= 8
    return score


def _by_type(field: Field, name: str, group: str) -> float:
    if field.kind == "password" and name == ("database.password" if group == "database" else "admin.password"):
        return ENOUGH
    if field.kind == "email" and name == "admin.email":
        return ENOUGH
    if field.autocomplete == "username" and name == "admin.name":
        return ENOUGH
    return 0.0


def _label_score(words: Words, label: str) -> float:
    label = label.strip(" :*?")
    best = 0.0
    for stem in words.label:
        if label == stem:
            best = max(best, LABEL_WHOLE)
        elif stem_in(stem, label):
            # A longer phrase says more: "name of the database" beats "database".
            best = max(best, LABEL_PART + min(len(stem), 24) / 12)
    return best


def _name_score(words: Words, name: str) -> float:
    best = 0.0
    for stem in words.name:
        if name == stem or name.replace(" ", "") == stem.replace(" ", ""):
            best = max(best, NAME_WHOLE)
        elif stem_in(stem, name):
            best = max(best, NAME_PART + min(len(stem), 12) / 12)
    return best


def _mark_repeats(found: list[Assignment]) -> list[Assignment]:
    """The second field for one value is its repetition when it says so or is a password; else the better one stays."""
    result: list[Assignment] = []
    for candidate in found:
        earlier = next((a for a in result if a.value == candidate.value), None)
        if earlier is None:
            result.append(candidate)
            continue
        says_again = any(
            stem_in(s, fold(f"{candidate.field.label} {candidate.field.name}")) for s in lexicon().lists["again"]
        )
        if says_again or (candidate.field.kind == "password" and earlier.field.kind == "password"):
            result.append(Assignment(candidate.field, candidate.value, candidate.score, again=True))
        elif candidate.score > earlier.score:
            result[result.index(earlier)] = candidate
    return result


def choose_option(field: Field, wanted: str, value: str) -> str | None:
    """The option of a select that stands for a value, or None. `value` is what kind of value it is."""
    synonyms: Mapping[str, tuple[str, ...]] = {
        "mariadb": ("mariadb", "mysqli", "mysql", "pdo mysql"),
        "postgresql": ("postgresql", "pgsql", "postgres", "pdo pgsql"),
    }
    names = synonyms.get(wanted, (wanted,)) if value == "database.kind" else (wanted,)
    for name in names:
        for option in field.options:
            if fold(name) in (fold(option.value), fold(option.label)):
                return option.value
    for name in names:
        for option in field.options:
            if stem_in(fold(name), fold(option.label)) or fold(option.value).startswith(fold(name)):
                return option.value
    return None
