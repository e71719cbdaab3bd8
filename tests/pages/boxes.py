"""Boxes with the words of boxes.yaml in an installer's form, and what becomes of each.

.venv/bin/python -m tests.pages.boxes    what was done otherwise; the last line is JSON
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from html import escape
from pathlib import Path

import yaml

from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.fill import fill
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import AskFor
from tests.garden.installer import SITE
from tests.garden.walk import VALUES

BOXES: dict[str, dict[str, list[str]]] = yaml.safe_load(Path(__file__).with_name("boxes.yaml").read_text("utf-8"))


@dataclass(frozen=True)
class Ticked:
    """A box, what should become of it, and what did: `agree` (a person is asked), `not` (it is unticked), `note` (it is ticked), `stay`."""

    language: str
    label: str
    truth: str
    found: str


def boxes() -> Iterator[Ticked]:
    know = Knowledge(VALUES, SITE, ("/setup/",), frozenset())
    for language, classes in BOXES.items():
        for truth, labels in classes.items():
            for label in labels:
                yield Ticked(language, label, truth, _become(language, label, know))


def _become(language: str, label: str, know: Knowledge) -> str:
    """By a form with the box ticked, and one with it unticked."""
    sent = []
    for ticked in (" checked", ""):
        html = (
            f"<html lang={language}><head><title>Setup</title></head><body><h1>Setup</h1><form method=post action='/setup/'>"
            f"<input name=q><label><input type=checkbox name=x1 value=1{ticked}> {escape(label)}</label><button>OK</button></form></body></html>"
        )
        page = read(Snapshot(SITE + "setup/", 200, html))
        filled = fill(page.real_forms[0], page, know)
        if isinstance(filled, AskFor):
            return "agree" if filled.must_accept else "?"
        sent.append("x1" in dict(filled[0]))
    return {(True, False): "stay", (False, False): "not", (True, True): "note"}.get((sent[0], sent[1]), "?")


def main() -> None:
    every = list(boxes())
    missed = [one for one in every if one.found != one.truth]
    for one in missed:
        print(f"{one.language} {one.truth:<6} {one.label!r} -> {one.found}")
    print(json.dumps({"boxes": len(every), "right": len(every) - len(missed)}))


if __name__ == "__main__":
    main()
