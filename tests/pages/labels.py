"""The fields of forms that are put together from the labels of labels.yaml, and what is made of them.

.venv/bin/python -m tests.pages.labels --seeds 400    what was read otherwise, by label; the last line is JSON
"""

from __future__ import annotations

import argparse
import json
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from html import escape
from pathlib import Path
from random import Random
from typing import Any

import yaml

from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.assign import assign

LABELS: dict[str, dict[str, Any]] = yaml.safe_load(Path(__file__).with_name("labels.yaml").read_text("utf-8"))
ALWAYS = {
    "database": ("database.host", "database.name", "database.user", "database.password"),
    "site": ("site.title",),
    "admin": ("admin.name", "admin.password"),
}
SOMETIMES = {
    "database": ("database.port", "database.prefix"),
    "site": ("site.address",),
    "admin": ("repeat", "admin.email"),
}
LAYOUTS = (
    '<p><label for="{id}">{label}</label> {box}</p>',
    "<tr><td>{label}:</td><td>{box}</td></tr>",
    "<div><span>{label}</span>{box}</div>",
    "<p>{label} * {box}</p>",
    "<dt>{label}</dt><dd>{box}</dd>",
)


@dataclass(frozen=True)
class Read:
    """One field: what its label says, what it is for, and what was made of it ("" where nothing was)."""

    language: str
    label: str
    truth: str
    found: str


def form(seed: int) -> tuple[str, str, list[tuple[str, str, str]]]:
    """A page of one language, with the fields of some groups: (language, HTML, (field, label, truth) of each)."""
    random = Random(f"labels {seed}")
    language = random.choice(list(LABELS))
    words, layout = LABELS[language], random.choice(LAYOUTS)
    groups = random.choice(
        (["database"], ["admin"], ["database", "admin"], ["site", "admin"], ["database", "site", "admin"])
    )
    rows, truths = [], []
    for group in groups:
        values = [*ALWAYS[group], *(v for v in SOMETIMES[group] if random.random() < 0.6)]
        if group == "admin":
            order = ["admin.name", "admin.password", "repeat", "admin.email"]
            values = [v for v in order if v in values]
        inner = []
        for value in values:
            name, label = f"q{len(truths)}", random.choice(words[value])
            kind = "password" if value in ("admin.password", "repeat", "database.password") else "text"
            box = f'<input id="{name}" name="{name}" type="{kind}">'
            inner.append(layout.format(id=name, label=escape(label), box=box))
            truths.append((name, label, "admin.password" if value == "repeat" else value))
        body = "".join(inner)
        body = (
            f"<table>{body}</table>"
            if layout.startswith("<tr")
            else f"<dl>{body}</dl>"
            if layout.startswith("<dt")
            else body
        )
        heading = escape(random.choice(words["groups"][group]))
        rows.append(
            random.choice((f"<h3>{heading}</h3>{body}", f"<fieldset><legend>{heading}</legend>{body}</fieldset>"))
        )
    return language, in_a_form(language, rows), truths


def in_a_form(language: str, parts: Sequence[str]) -> str:
    """A page with one form, and its parts in it."""
    return (
        f'<html lang="{language}"><head><title>Setup</title></head><body><h1>Setup</h1>'
        f'<form method="post" action="/setup/">{"".join(parts)}<button>OK</button></form></body></html>'
    )


def read_form(seed: int) -> Iterator[Read]:
    yield from what_is_read(*form(seed))


def what_is_read(language: str, html: str, truths: Sequence[tuple[str, str, str]]) -> Iterator[Read]:
    """Each (field, label, truth) of a page, with what is made of it."""
    page = read(Snapshot("http://garden.saltmarsh.example/setup/", 200, html))
    found = {a.field.name: a.value for a in assign(page.real_forms[0], page)}
    for name, label, truth in truths:
        yield Read(language, label, truth, found.get(name, ""))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--seeds", type=int, default=400)
    parser.add_argument("--first", type=int, default=1)
    options = parser.parse_args()
    every = [one for seed in range(options.first, options.first + options.seeds) for one in read_form(seed)]
    wrong = Counter(one for one in every if one.found != one.truth)
    for one, often in sorted(wrong.items(), key=lambda w: (w[0].language, w[0].truth)):
        print(f"{one.language} {one.truth:<18} {one.label!r} -> {one.found or 'nothing'} ({often})")
    empty = sum(often for one, often in wrong.items() if not one.found)
    print(
        json.dumps(
            {
                "fields": len(every),
                "right": len(every) - wrong.total(),
                "nothing": empty,
                "wrong": wrong.total() - empty,
            }
        )
    )


if __name__ == "__main__":
    main()
