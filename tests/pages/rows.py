"""Tables of checks, put together from the words of rows.yaml, and which rows are read as red.

.venv/bin/python -m tests.pages.rows --seeds 600    what was read otherwise; the last line is JSON
"""

from __future__ import annotations

import argparse
import json
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from html import escape
from pathlib import Path
from random import Random

import yaml

from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot

WORDS: dict[str, dict[str, list[str]]] = yaml.safe_load(Path(__file__).with_name("rows.yaml").read_text("utf-8"))
NAMES = ("PHP 8.0", "mbstring", "GD", "PDO MySQL", "/data", "intl", "fileinfo", "curl", "config/")
LAYOUTS = {
    "table": ("<table>{}</table>", "<tr><td>{name}</td><td>{word}</td></tr>"),
    "list": ("<ul>{}</ul>", "<li>{name}: {word}</li>"),
    "spans": ("<ul>{}</ul>", "<li>{name} <span>{word}</span></li>"),
    "dl": ("<dl>{}</dl>", "<dt>{name}</dt><dd>{word}</dd>"),
    "boxes": ("<div>{}</div>", "<div class=row><span>{name}</span><strong>{word}</strong></div>"),
}


@dataclass(frozen=True)
class Row:
    """A row: what stands there, what it says in truth, and what was read: `fine`, `bad`, `maybe`, or "" where it was no row."""

    language: str
    layout: str
    word: str
    truth: str
    found: str

    @property
    def wrong(self) -> bool:
        return self.found != "" and (self.found == "bad") != (self.truth == "bad")


def rows(seed: int) -> Iterator[Row]:
    random = Random(f"rows {seed}")
    language, layout = random.choice(list(WORDS)), random.choice(list(LAYOUTS))
    names = random.sample(NAMES, 5)
    said = [
        (name, truth, random.choice(WORDS[language][truth]))
        for name in names
        for truth in [random.choice(("fine", "fine", "bad", "maybe"))]
    ]
    around, inner = LAYOUTS[layout]
    body = around.format("".join(inner.format(name=escape(n), word=escape(w)) for n, _, w in said))
    html = f"<html lang={language}><head><title>Setup</title></head><body><h1>Checks</h1>{body}<form method=post><button>OK</button></form></body></html>"
    checks = {
        c.label.strip(": "): c for c in read(Snapshot("http://garden.saltmarsh.example/setup/", 200, html)).checks
    }
    for name, truth, word in said:
        check = checks.get(name)
        found = "" if check is None else "fine" if check.fine else "maybe" if check.required is False else "bad"
        yield Row(language, layout, word, truth, found)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--seeds", type=int, default=600)
    parser.add_argument("--first", type=int, default=1)
    options = parser.parse_args()
    every = [row for seed in range(options.first, options.first + options.seeds) for row in rows(seed)]
    missed = [row for row in every if row.found != row.truth]
    for (language, truth, word, found, layout), often in sorted(
        Counter((r.language, r.truth, r.word, r.found, r.layout if not r.found else "") for r in missed).items()
    ):
        print(f"{language} {truth:<5} {word!r} -> {found or 'no row'} {layout} ({often})")
    wrong = sum(row.wrong for row in missed)
    print(
        json.dumps(
            {"rows": len(every), "right": len(every) - len(missed), "wrong": wrong, "other": len(missed) - wrong}
        )
    )


if __name__ == "__main__":
    main()
