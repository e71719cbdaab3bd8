"""Plain letters, put together from the labels of labels.yaml, and what is read in them.

.venv/bin/python -m tests.letters.labels --seeds 400    what was read otherwise, by label; the last line is JSON
"""

from __future__ import annotations

import argparse
import json
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from random import Random
from typing import Any

import yaml

from highshelf.core.letter.read import read_letter

LABELS: dict[str, dict[str, Any]] = yaml.safe_load(Path(__file__).with_name("labels.yaml").read_text("utf-8"))
SECTIONS = {
    "transfer": ("transfer.host", "transfer.login", "transfer.password", "transfer.port", "root"),
    "database": ("database.name", "database.user", "database.password", "database.host"),
    "panel": ("panel", "panel.login", "panel.password"),
}
MAY_BE_LEFT_OUT = ("transfer.port", "root", "database.host")
LAYOUTS = (
    "{label}: {value}",
    "{label:<24}: {value}",
    "{label} {dots} {value}",
    "- {label}: {value}",
    "{label:<28}{value}",
    "{label} = {value}",
)
GREETINGS = {"en": "Dear customer,", "de": "Guten Tag,", "fr": "Bonjour,", "es": "Estimado cliente:"} | {
    "it": "Gentile cliente,",
    "pt": "Caro cliente,",
    "nl": "Beste klant,",
    "pl": "Dzień dobry,",
}


@dataclass(frozen=True)
class Read:
    """One fact: its label, what it is for, and what was made of its value: a name, or "" where nothing was."""

    language: str
    label: str
    truth: str
    found: str
    doubted: bool = False


def letter(seed: int) -> tuple[str, str, list[tuple[str, str, str]]]:
    """(language, text, (label, name, value) of each fact)."""
    random = Random(f"letters {seed}")
    language = random.choice(list(LABELS))
    words, layout = LABELS[language], random.choice(LAYOUTS)
    sections = random.choice(
        (["transfer"], ["transfer", "database"], ["transfer", "database", "panel"], ["panel", "transfer"])
    )
    customer = random.choice(("ferry", "choir", "seeds", "yard")) + str(random.randint(10, 99))
    values = {
        "transfer.host": f"ftp.{customer}.saltmarsh.example",
        "transfer.login": f"web{random.randint(100, 999)}",
        "transfer.password": _secret(random),
        "transfer.port": str(random.choice((21, 22, 2222, 990))),
        "root": random.choice(("/httpdocs", "/htdocs", "/www", "public", "/web")),
        "database.name": f"{customer}_db1",
        "database.user": f"{customer}_u7",
        "database.password": _secret(random),
        "database.host": f"db{random.randint(1, 9)}.saltmarsh.example",
        "panel": f"https://panel{random.randint(1, 9)}.saltmarsh.example/",
        "panel.login": f"k{random.randint(10000, 99999)}",
        "panel.password": _secret(random),
    }
    lines, facts = [GREETINGS[language], ""], []
    for section in sections:
        lines += [random.choice(words["headings"][section]), ""]
        for name in SECTIONS[section]:
            if name in MAY_BE_LEFT_OUT and random.random() < 0.4:
                continue
            label = random.choice(words[name])
            lines.append(layout.format(label=label, value=values[name], dots="." * (30 - len(label))))
            facts.append((label, name, values[name]))
        lines.append("")
    return language, "\n".join(lines), facts


def _secret(random: Random) -> str:
    return "".join(random.choice("abcdefghkmnpqrstuvwxyzABCDEFGHKLMNPQRSTUVWXYZ23456789-+!") for _ in range(11))


def read_one(seed: int) -> Iterator[Read]:
    language, text, facts = letter(seed)
    found = {one.text: one for one in read_letter(text).found}
    by_name = {one.name: one for one in read_letter(text).found}
    for label, name, value in facts:
        mine = by_name.get(name)
        if mine is not None and mine.text.rstrip("/") == value.rstrip("/"):
            yield Read(language, label, name, name)
        elif (other := found.get(value)) is not None:
            yield Read(language, label, name, other.name, other.sure < 0.6)
        else:
            yield Read(language, label, name, "")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--seeds", type=int, default=400)
    parser.add_argument("--first", type=int, default=1)
    options = parser.parse_args()
    every = [one for seed in range(options.first, options.first + options.seeds) for one in read_one(seed)]
    missed = Counter(one for one in every if one.found != one.truth)
    for one, often in sorted(missed.items(), key=lambda m: (m[0].language, m[0].truth)):
        print(
            f"{one.language} {one.truth:<18} {one.label!r} -> {one.found or 'nothing'}{' (doubted)' if one.doubted else ''} ({often})"
        )
    nothing = sum(n for one, n in missed.items() if not one.found)
    print(
        json.dumps(
            {
                "facts": len(every),
                "right": len(every) - missed.total(),
                "nothing": nothing,
                "wrong": missed.total() - nothing,
            }
        )
    )


if __name__ == "__main__":
    main()
