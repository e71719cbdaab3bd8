"""How well samples are read: `python -m tests.config.score --seeds 2000 --first 1`; the last line is JSON."""

from __future__ import annotations

import argparse
import json
from collections import Counter, defaultdict
from dataclasses import dataclass, field

from highshelf.core.config.filling import read
from highshelf.core.config.formats import format_of
from tests.config.make import Sample, last_keys, make


@dataclass
class Figures:
    """`wanted`: literals that want a value; `right` of those; `wrong`: filled with another value, or filled though it should stay."""

    samples: int = 0
    wanted: int = 0
    right: int = 0
    wrong: int = 0
    missed: list[str] = field(default_factory=list)
    by_trait: dict[str, Counter[str]] = field(default_factory=lambda: defaultdict(Counter))


def judge(sample: Sample, figures: Figures) -> None:
    found = {
        last_keys(f.literal.path, sample.truth): f
        for f in read(format_of(sample.name, sample.data).literals(sample.data)).fillings
    }
    figures.samples += 1
    for key, (value, how) in sample.truth.items():
        got = found.get(key)
        right = got is not None and got.value == value and (how == got.how or value == "database.kind")
        wrong = got is not None and not right
        figures.wanted += bool(value)
        figures.right += bool(value) and right
        figures.wrong += wrong
        for trait, choice in sample.traits.items():
            if value:
                figures.by_trait[f"{trait} {choice}"]["right" if right else "not"] += 1
        if wrong or (value and not right):
            figures.missed.append(
                f"{sample.seed} {sample.name} {key}: wants {value} {how!r}, got {got and (got.value, got.how)}"
            )


def through(first: int, seeds: int) -> Figures:
    figures = Figures()
    for seed in range(first, first + seeds):
        judge(make(seed), figures)
    return figures


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seeds", type=int, default=500)
    parser.add_argument("--first", type=int, default=1)
    options = parser.parse_args()
    figures = through(options.first, options.seeds)
    for line in figures.missed[:60]:
        print(line)
    for trait, counts in sorted(figures.by_trait.items()):
        if counts["not"]:
            print(f"{trait:40} {counts['right'] / counts.total():.1%} of {counts.total()}")
    told = {n: v for n, v in vars(figures).items() if isinstance(v, int)}
    print(json.dumps({**told, "share": round(figures.right / max(figures.wanted, 1), 4)}))


if __name__ == "__main__":
    main()
