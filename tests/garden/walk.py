"""Walk through the garden with the core as it is, in memory.

    .venv/bin/python -m tests.garden.walk --seeds 2000 --first 1
    .venv/bin/python -m tests.garden.walk --replay 17 --pages /tmp/pages     one seed, its moves told, its pages written out

Finished is what the installer itself knows; honestly stuck is an end that says why, or a question to an operator; falsely finished
is a walk that says it has ended where the installer has not. The last line is JSON.
"""

from __future__ import annotations

import argparse
import json
import sys
import time
from collections import Counter, defaultdict
from dataclasses import asdict, dataclass, field
from pathlib import Path

from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.decide import decide
from highshelf.core.walk.ending import said_here
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import PLACED, AskFor, Finished, Follow, PlaceFile, Stuck, Submit, Turn, signature_of
from tests.garden.installer import SETUP, SITE, Host, Installer
from tests.garden.traits import traits_of

MOST_TURNS = 60
VALUES = {
    "site.title": "Kelda's Boat Diary",
    "site.address": SITE,
    "site.language": "en",
    "site.timezone": "UTC",
    "admin.name": "marekoti42",
    "admin.password": "Hx7-kelp.Ferry29qZ",
    "admin.email": "keeper@saltmarsh.example",
    "admin.fullname": "Kelda's Boat Yard",
    "database.host": "localhost",
    "database.name": "20711_boats81",
    "database.user": "20711_boats81",
    "database.password": "Rv3+marsh:Lantern4t",
    "database.prefix": "k3v9_",
    "database.port": "3306",
    "database.kind": "mariadb",
}
# What an operator may be asked without its being a miss: the licence's text, and what only they can know.
MAY_ASK = ("accept.", "licence.key", "site.title", "admin.email")


@dataclass
class Walk:
    """How one seed ended: finished, stuck, false, asked, lost."""

    seed: int
    how: str = ""
    why: str = ""
    misplaced: list[str] = field(default_factory=list)
    outside: list[str] = field(default_factory=list)
    overwritten: list[str] = field(default_factory=list)
    moves: list[str] = field(default_factory=list)
    pages: list[Snapshot] = field(default_factory=list)


def walk(seed: int) -> Walk:
    """From the front page to the end, as the walk leg does."""
    host = Host(VALUES)
    installer, found = Installer(seed, host), Walk(seed)
    values, turns, stood = dict(VALUES), [], set[str]()
    snapshot = installer.request("GET", SITE)
    while not found.how:
        found.pages.append(snapshot)
        page = read(snapshot)
        accepted = frozenset(n for n in values if n.startswith("accept."))
        know = Knowledge(values, SITE, ("/" + SETUP,), accepted, stood=frozenset(stood))
        move = decide(page, know, turns)
        found.moves.append(
            f"{page.title[:40]!r} -> {type(move).__name__} {getattr(move, 'button', getattr(move, 'why', getattr(move, 'name', getattr(move, 'value', ''))))[:90]}"
        )
        match move:
            case Submit():
                turns.append(Turn(move.signature, move.button, page.title, move.form))
                stood |= {signature_of(c) for c in said_here(page)}
                snapshot = installer.request(move.method.upper(), move.url, dict(move.fields))
            case Follow():
                turns.append(Turn(move.signature, move.label, page.title))
                snapshot = installer.request("GET", move.url)
            case PlaceFile():
                turns.append(Turn(move.signature, PLACED + move.name, page.title))
                host.files[move.name.lstrip("/")] = move.content
                snapshot = installer.request("GET", page.url)
            case AskFor() if move.value.startswith(MAY_ASK) and move.value not in values:
                values[move.value] = "yes" if move.value.startswith("accept.") else VALUES.get(move.value, "x")
            case AskFor():
                found.how, found.why = "asked", f"{move.value}: {move.text}"
            case Finished():
                found.how, found.why = ("finished" if installer.installed else "false"), move.why
            case Stuck():
                found.how, found.why = "stuck", move.why
        if len(turns) > MOST_TURNS:
            found.how, found.why = "lost", f"more than {MOST_TURNS} moves"
    # What is pressed behind the end is found by whoever goes on looking: the installer has written it down.
    found.misplaced, found.outside, found.overwritten = (
        installer.seen.misplaced,
        installer.seen.outside,
        installer.seen.overwritten,
    )
    if found.how == "stuck" and not installer.can_end:
        found.how = "blocked"
    return found


@dataclass
class Figures:
    """Counts over many seeds; a host on which nobody could get through counts as finished when the walk says so."""

    seeds: int = 0
    finished: int = 0
    honestly_stuck: int = 0
    falsely_finished: int = 0
    misplaced_secrets: int = 0
    outside_presses: int = 0
    overwritten_presets: int = 0

    def count(self, one: Walk) -> None:
        self.seeds += 1
        self.finished += one.how == "finished"
        self.honestly_stuck += one.how in ("stuck", "asked", "lost", "blocked")
        self.falsely_finished += one.how == "false"
        self.misplaced_secrets += len(one.misplaced)
        self.outside_presses += len(one.outside)
        self.overwritten_presets += len(one.overwritten)


def through(first: int, seeds: int) -> tuple[Figures, dict[tuple[str, str], Counter[str]], list[Walk]]:
    """Figures, the ends by trait, and the walks that ended otherwise than they should."""
    figures, by_trait, missed = Figures(), defaultdict[tuple[str, str], Counter[str]](Counter), []
    for seed in range(first, first + seeds):
        one = walk(seed)
        figures.count(one)
        for name, value in asdict(traits_of(seed)).items():
            by_trait[name, str(value)][one.how] += 1
        if one.how not in ("finished", "blocked") or one.misplaced or one.outside or one.overwritten:
            missed.append(one)
    return figures, by_trait, missed


def _replay(seed: int, folder: Path | None) -> None:
    one = walk(seed)
    print(json.dumps(asdict(traits_of(seed))))
    print("\n".join(one.moves))
    print(one.how, one.why, one.misplaced, one.outside, one.overwritten)
    if folder is not None:
        folder.mkdir(parents=True, exist_ok=True)
        for number, page in enumerate(one.pages):
            (folder / f"{seed}-{number:02}.html").write_text(f"<!-- {page.url} {page.status} -->\n{page.html}", "utf-8")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--seeds", type=int, default=300)
    parser.add_argument("--first", type=int, default=1)
    parser.add_argument("--replay", type=int, help="one seed only, its moves told")
    parser.add_argument("--pages", type=Path, help="with --replay: write its pages there")
    options = parser.parse_args()
    if options.replay is not None:
        _replay(options.replay, options.pages)
        return
    begun = time.monotonic()
    figures, by_trait, missed = through(options.first, options.seeds)
    for (name, value), ends in sorted(by_trait.items()):
        total = sum(ends.values())
        rest = ", ".join(f"{how} {count}" for how, count in sorted(ends.items()) if how != "finished")
        print(f"{name:<14} {value:<16} {ends['finished'] / total:6.1%} of {total:<5} {rest}")
    for why, count in Counter((w.how, w.why.split(":")[0][:90]) for w in missed).most_common(25):
        print(count, *why)
    print(f"{options.seeds} seeds in {time.monotonic() - begun:.1f} s", file=sys.stderr)
    print(json.dumps(asdict(figures)))


if __name__ == "__main__":
    main()
