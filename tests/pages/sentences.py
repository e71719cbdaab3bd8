"""What installers say when a step is over, in eight languages, and what a page with just that is judged to be.

.venv/bin/python -m tests.pages.sentences    what was judged otherwise; the last line is JSON
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from html import escape
from pathlib import Path

import yaml

from highshelf.core.pages.judgement import judge
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot

SENTENCES: dict[str, dict[str, list[str]]] = yaml.safe_load(
    Path(__file__).with_name("sentences.yaml").read_text("utf-8")
)
TO_SITE = {"en": "Your site", "de": "Ihre Seite", "fr": "Votre site", "es": "Su sitio"} | {
    "it": "Il tuo sito",
    "pt": "O seu site",
    "nl": "Uw site",
    "pl": "Twoja strona",
}


@dataclass(frozen=True)
class Judged:
    """A sentence, what it says in truth, and what was made of it: `done`, `failed`, `already`, or "" for none of these."""

    language: str
    truth: str
    sentence: str
    judged: str

    @property
    def wrong(self) -> bool:
        """Whether somebody would be misled: success where there is none, failure where there is."""
        believed = self.judged == "done" and self.truth != "done"
        return believed or (self.judged == "failed" and self.truth == "done")

    @property
    def right(self) -> bool:
        return self.judged == ("" if self.truth == "not_yet" else self.truth)


def judged() -> Iterator[Judged]:
    for language, classes in SENTENCES.items():
        for truth, sentences in classes.items():
            for sentence in sentences:
                link = f'<p><a href="/">{TO_SITE[language]}</a></p>' if truth in ("done", "already") else ""
                html = f"<html lang={language}><head><title>Kestrel</title></head><body><h1>Kestrel</h1><p>{escape(sentence)}</p>{link}</body></html>"
                found = judge(read(Snapshot("http://garden.saltmarsh.example/setup/", 200, html)))
                what = (
                    found.state
                    if found.state in ("done", "already")
                    else "failed"
                    if found.outcome == "failure"
                    else ""
                )
                yield Judged(language, truth, sentence, what)


def main() -> None:
    every = list(judged())
    for one in every:
        if not one.right:
            print(
                f"{one.language} {one.truth:<8} {'WRONG' if one.wrong else '     '} {one.sentence!r} -> {one.judged or 'nothing'}"
            )
    counts = Counter("wrong" if one.wrong else "right" if one.right else "nothing" for one in every)
    print(json.dumps({"sentences": len(every), **counts}))


if __name__ == "__main__":
    main()
