"""Pages where one of several ways is chosen by pressing it: a kind of database, new or there already, plain or for experts. Pure."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Field, Form, Option, Page
from highshelf.core.walk.choosing import choose_option, names_kinds
from highshelf.core.walk.moves import signature_of

SEVERAL = 2
# Nobody is offered more ways than these; a page with more lists something else.
MOST_WAYS = 16


def way_of_ours(labels: Sequence[str], values: Mapping[str, str]) -> int | None:
    """Which of the ways a job takes, by its place; None where they are no such choice, or none of them is ours for sure.

    `labels`: what is said on each; `values`: the job's, of which the kind of database and the language are looked at.
    """
    if not SEVERAL <= len(labels) <= MOST_WAYS:
        return None
    for choose in (_by_kind, _by_tongue, _anew, _plain, _agreed):
        found = choose(labels, values)
        if found is not None:
            return found
    return None


def told_apart(labels: Sequence[str], heads: Sequence[str]) -> list[str]:
    """What is said on each way; where several say the same ("Choose"), with the heading over it, which is what differs."""
    return [
        f"{head} {label}" if head and labels.count(label) > 1 else label
        for label, head in zip(labels, heads, strict=True)
    ]


def lone_buttons(page: Page) -> list[Form]:
    """Forms that ask nothing and have one button each: where there are several, their buttons are ways to choose from."""
    asks = any(f.typed for form in page.real_forms for f in form.fields)
    return [] if asks else [form for form in page.real_forms if len(form.buttons) == 1 and not form.buttons[0].disabled]


def choice_on(page: Page) -> str:
    """Under which name it is kept which of the ways on a page leads on."""
    said = [*(form.buttons[0].label for form in lone_buttons(page)), *(link.label for link in page.links)]
    return "press." + signature_of(*page.headings, *sorted(said))[:8]


def _chosen(labels: Sequence[str], wanted: str, value: str, fits: Callable[[Field], bool]) -> int | None:
    field = Field("", "select", options=tuple(Option(str(n), label, False) for n, label in enumerate(labels)))
    chosen = choose_option(field, wanted, value) if wanted and fits(field) else None
    return int(chosen) if chosen is not None else None


def _by_kind(labels: Sequence[str], values: Mapping[str, str]) -> int | None:
    return _chosen(labels, values.get("database.kind", ""), "database.kind", names_kinds)


def _by_tongue(labels: Sequence[str], values: Mapping[str, str]) -> int | None:
    def tongues(_: Field) -> bool:
        return sum(lexicon().says("tongues", label) for label in labels) >= SEVERAL

    return _chosen(labels, values.get("site.language", ""), "site.language", tongues)


def _agreed(labels: Sequence[str], _: Mapping[str, str]) -> int | None:
    """Of two answers to a licence the one that accepts it; that is an operator's, and is asked for before it is pressed."""
    words = lexicon()
    no = [n for n, label in enumerate(labels) if words.says("refusing", label)]
    yes = [n for n, label in enumerate(labels) if n not in no and words.says("licence", label)]
    return yes[0] if len(labels) == SEVERAL and len(no) == len(yes) == 1 else None


def _anew(labels: Sequence[str], _: Mapping[str, str]) -> int | None:
    """Where something may stand already, the way for what does not."""
    words = lexicon()
    old = [n for n, label in enumerate(labels) if words.says("upgrading", label)]
    new = [n for n, label in enumerate(labels) if n not in old and words.says("anew", label)]
    return new[0] if old and len(new) == 1 else None


def _plain(labels: Sequence[str], _: Mapping[str, str]) -> int | None:
    """Beside a way for experts the plain one: what it chooses is what most have."""
    words = lexicon()
    expert = [n for n, label in enumerate(labels) if words.says("expert_way", label)]
    plain = [n for n, label in enumerate(labels) if n not in expert and words.says("plain_way", label)]
    return plain[0] if expert and len(plain) == 1 else None
