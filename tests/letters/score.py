"""How much of made letters is read right: `python -m tests.letters.score --seeds 2000 --first 1`. The last line is JSON.

A fact is right, missing, wrong with a doubt shown, or wrong without one. What a letter says of nothing and is read all the same is invented.
"""

from __future__ import annotations

import argparse
import json
from collections import Counter, defaultdict
from dataclasses import asdict, dataclass, field

from highshelf.core.letter.read import read_letter
from tests.letters.make import Made, make

# From here on a value is filled in without a mark.
SURE = 0.6
COUNTED = ("transfer.", "database.", "panel", "root", "address", "temporary", "customer", "title", "nameserver")


@dataclass
class Score:
    letters: int = 0
    facts: int = 0
    right: int = 0
    missing: int = 0
    wrong_with_doubt: int = 0
    wrong: int = 0
    invented: int = 0
    missed: list[str] = field(default_factory=list)


def judge(made: Made, score: Score) -> list[str]:
    """Count one letter; what is not right, for people."""
    read = read_letter(made.text)
    said = {s.name: s for s in read.found}
    told = []
    score.letters += 1
    for name, truth in made.truth.items():
        score.facts += 1
        found = said.get(name)
        if found is not None and found.text.rstrip("/") == truth.rstrip("/"):
            score.right += 1
            continue
        doubted = found is not None and (found.sure < SURE or truth in found.others)
        kind = "missing" if found is None else "wrong_with_doubt" if doubted else "wrong"
        setattr(score, kind, getattr(score, kind) + 1)
        told.append(f"{kind} {name}: {truth!r}, got {found.text if found else None!r} {found.sure if found else ''}")
    for name in made.empty:
        if name in said and said[name].sure >= SURE:
            score.invented += 1
            told.append(f"invented {name}: {said[name].text!r}")
    return told


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--seeds", type=int, default=300)
    parser.add_argument("--first", type=int, default=1)
    parser.add_argument("--show", type=int, help="one seed: its letter, and what is not right")
    options = parser.parse_args()
    if options.show is not None:
        made = make(options.show)
        print(made.text, made.traits, *judge(made, Score()), sep="\n")
        return
    score, by_trait = Score(), defaultdict[tuple[str, str], Counter[str]](Counter)
    for seed in range(options.first, options.first + options.seeds):
        made = make(seed)
        told = judge(made, score)
        score.missed += [f"{seed} {t}" for t in told]
        for name, value in made.traits.items():
            by_trait[name, value]["facts"] += len(made.truth)
            by_trait[name, value]["off"] += len(told)
    for (name, value), counts in sorted(by_trait.items()):
        print(f"{name:<12} {value:<18} {1 - counts['off'] / counts['facts']:6.1%} of {counts['facts']}")
    for line, count in Counter(" ".join(m.split()[1:3]) for m in score.missed).most_common(30):
        print(count, line)
    shown = asdict(score)
    del shown["missed"]
    print(json.dumps(shown | {"share": round(score.right / score.facts, 4)}))


if __name__ == "__main__":
    main()
