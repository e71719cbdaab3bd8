"""Pages with several buttons, put together from the words of buttons.yaml, and which of them is pressed.

.venv/bin/python -m tests.pages.buttons --seeds 2000    what was pressed otherwise; the last line is JSON
"""

from __future__ import annotations

import argparse
import json
from collections import Counter
from dataclasses import dataclass
from html import escape
from pathlib import Path
from random import Random

import yaml

from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.decide import decide
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import AskFor, Follow, Submit
from tests.garden.installer import SITE
from tests.garden.walk import VALUES
from tests.pages.labels import LABELS

WORDS: dict[str, dict[str, list[str]]] = yaml.safe_load(Path(__file__).with_name("buttons.yaml").read_text("utf-8"))
# What stands beside the way on, mostly.
BESIDE = ("back", "anew", "try", "stop", "show")

# How pages dress the button that leads on, and the others.
ON = (" class='btn btn-primary'", " class='button primary'", " class='next'", " id='btnContinue'", " class='cta'")
OFF = (" class='btn btn-secondary'", " class='button'", " class='prev'", " formnovalidate", " class='btn-link'", "")


@dataclass(frozen=True)
class Pressed:
    """What leads on, what stood beside it, and what was pressed: "" where nothing was, "?" where a person was asked."""

    language: str
    kind: str
    right: str
    others: tuple[str, ...]
    pressed: str


def page_of(seed: int) -> tuple[str, str, str, tuple[str, ...], str]:
    """(language, kind, the right word, the others, HTML)."""
    random = Random(f"buttons {seed}")
    language = random.choice(list(WORDS))
    words, labels = WORDS[language], LABELS[language]
    kind = random.choice(("form", "form", "links", "check", "skip"))
    right = random.choice(words["forward"])
    others = [random.choice(words[one]) for one in random.sample(BESIDE, random.choice((1, 1, 2, 3)))]
    fields = ""
    if kind == "form":
        for number, value in enumerate(("database.host", "database.name", "database.user", "database.password")):
            box = f'<input name="d{number}" type="{"password" if value.endswith("word") else "text"}">'
            fields += f"<p><label>{escape(random.choice(labels[value]))} {box}</label></p>"
        fields = f"<h3>MySQL</h3>{fields}"
    elif kind == "skip":
        # Nothing that an installer has to have: a mail server, or news.
        right, others = random.choice(words["none"]), [random.choice(words["forward"])]
        fields = '<h3>SMTP</h3><p><label>SMTP host <input name="m1"></label></p><p><label>SMTP user <input name="m2"></label></p>'
    said = [right, *others]
    random.shuffle(said)
    style = random.choice(("button", "input", "named"))
    if kind == "links":
        inner = " ".join(f'<a href="/setup/?to={n}">{escape(word)}</a>' for n, word in enumerate(said))
        body = f"<p>PHP 8.2</p>{inner}"
    else:
        made = {
            "button": "<button name='b{n}' value='1'{dress}>{word}</button>",
            "input": "<input type=submit name='b{n}' value='{word}'{dress}>",
            "named": "<button name='do' value='v{n}'{dress}>{word}</button>",
        }[style]
        dressed = random.random() < 0.5
        looks = [random.choice(ON if word == right else OFF) if dressed else "" for word in said]
        inner = " ".join(
            made.format(n=n, word=escape(word, quote=True), dress=dress)
            for n, (word, dress) in enumerate(zip(said, looks, strict=True))
        )
        body = f'<form method="post" action="/setup/">{fields}<p>{inner}</p></form>'
    html = f'<html lang="{language}"><head><title>Setup</title></head><body><h1>Installation</h1>{body}</body></html>'
    return language, kind, right, tuple(others), html


def press(seed: int) -> Pressed:
    language, kind, right, others, html = page_of(seed)
    know = Knowledge(VALUES, SITE, ("/setup/",), frozenset())
    match decide(read(Snapshot(SITE + "setup/", 200, html)), know, []):
        case Submit() as move:
            pressed = move.button
        case Follow() as move:
            pressed = move.label
        case AskFor():
            pressed = "?"
        case _:
            pressed = ""
    return Pressed(language, kind, right, others, pressed)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--seeds", type=int, default=2000)
    parser.add_argument("--first", type=int, default=1)
    options = parser.parse_args()
    every = [press(seed) for seed in range(options.first, options.first + options.seeds)]
    missed = [one for one in every if one.pressed != one.right]
    for (language, kind, what), often in sorted(
        Counter(
            (o.language, o.kind, f"{o.right!r} -> {o.pressed!r} {o.others if o.pressed in ('', '?') else ''}")
            for o in missed
        ).items()
    ):
        print(f"{language} {kind:<6} {what} ({often})")
    unsure = sum(one.pressed in ("", "?") for one in missed)
    print(
        json.dumps(
            {"pages": len(every), "right": len(every) - len(missed), "unsure": unsure, "wrong": len(missed) - unsure}
        )
    )


if __name__ == "__main__":
    main()
