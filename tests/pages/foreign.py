"""Forms as labels.py makes them, with a field or two among them that nothing of ours belongs into, by the words of foreign.yaml.

.venv/bin/python -m tests.pages.foreign --seeds 2000    what was filled all the same, or lost its own; the last line is JSON
"""

from __future__ import annotations

import argparse
import json
from collections import Counter
from collections.abc import Iterator
from html import escape
from pathlib import Path
from random import Random

import yaml

from tests.pages.labels import ALWAYS, LABELS, LAYOUTS, Read, in_a_form, what_is_read

FOREIGN: dict[str, dict[str, list[str]]] = yaml.safe_load(Path(__file__).with_name("foreign.yaml").read_text("utf-8"))


def page_of(seed: int) -> tuple[str, str, list[tuple[str, str, str]]]:
    """(language, HTML, (field, label, truth) of each); the truth of what stays is ""."""
    random = Random(f"foreign {seed}")
    language = random.choice(list(FOREIGN))
    words, layout = LABELS[language], random.choice(LAYOUTS)
    parts, truths = [], []
    for group in random.choice(
        (["database"], ["site", "admin"], ["database", "site", "admin"], ["database", "mail", "admin"])
    ):
        own = [(random.choice(words[value]), value) for value in ALWAYS.get(group, ())]
        strange = [
            (label, "") for label in random.sample(FOREIGN[language][group], min(2, len(FOREIGN[language][group])))
        ]
        # What is not ours stands behind what is, or between.
        at = random.randint(0, 1)
        mixed = [*own, *strange] if at else [*own[:-1], *strange, *own[-1:]] if group == "site" else [*own, *strange]
        inner = []
        for label, truth in mixed:
            name = f"q{len(truths)}"
            secret = truth.endswith("password") or (group == "mail" and label in FOREIGN[language]["mail"][3:4])
            box = f'<input id="{name}" name="{name}" type="{"password" if secret else "text"}">'
            inner.append(layout.format(id=name, label=escape(label), box=box))
            truths.append((name, label, truth))
        body = "".join(inner)
        body = (
            f"<table>{body}</table>"
            if layout.startswith("<tr")
            else f"<dl>{body}</dl>"
            if layout.startswith("<dt")
            else body
        )
        heading = "SMTP" if group == "mail" else escape(random.choice(words["groups"][group]))
        parts.append(f"<fieldset><legend>{heading}</legend>{body}</fieldset>")
    return language, in_a_form(language, parts), truths


def read_page(seed: int) -> Iterator[Read]:
    yield from what_is_read(*page_of(seed))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--seeds", type=int, default=2000)
    parser.add_argument("--first", type=int, default=1)
    options = parser.parse_args()
    every = [one for seed in range(options.first, options.first + options.seeds) for one in read_page(seed)]
    missed = Counter(one for one in every if one.found != one.truth)
    for one, often in sorted(missed.items(), key=lambda m: (m[0].language, m[0].truth)):
        print(f"{one.language} {one.truth or 'stays':<18} {one.label!r} -> {one.found or 'nothing'} ({often})")
    filled = sum(n for one, n in missed.items() if not one.truth)
    print(json.dumps({"fields": len(every), "filled": filled, "lost": missed.total() - filled}))


if __name__ == "__main__":
    main()
