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
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from typing import Any

from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.values import in_form
from highshelf.core.walk.beginning import begins
from highshelf.core.walk.collating import TRIED as COLLATED
from highshelf.core.walk.decide import decide
from highshelf.core.walk.ending import said_here
from highshelf.core.walk.importing import TRIED
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.logins import told_name
from highshelf.core.walk.moves import (
    IMPORTED,
    OPENED,
    PLACED,
    Adapt,
    AskFor,
    Collate,
    Finished,
    Follow,
    Import,
    Move,
    Open,
    PlaceFile,
    Stuck,
    Submit,
    Switch,
    Tune,
    Turn,
    signature_of,
)
from highshelf.core.walk.offers import added
from highshelf.core.walk.opening import mark_of
from highshelf.core.walk.proving import word_in
from highshelf.core.walk.switching import mark_of as mark_of_switch
from highshelf.core.walk.switching import same
from highshelf.core.walk.tuning import mark_of as mark_of_setting
from highshelf.core.walk.witness import Sight, compare
from tests.garden.asks import TOKEN, WARDEN
from tests.garden.ends import FOLDER, configuration_file
from tests.garden.installer import CACHE, COLLATION, DUMPS, FILLS, SETUP, SITE, SWITCHES, WANTED_SWITCH, Host, Installer
from tests.garden.traits import UNREAD, traits_of

MOST_TURNS = 60
# Where the transfer login sees the installation.
LIES = "www/garden"
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
    # Whom the pages said that the administrator's password is for, where that was read otherwise than it is.
    misread: list[str] = field(default_factory=list)
    moves: list[str] = field(default_factory=list)
    pages: list[Snapshot] = field(default_factory=list)


def walk(seed: int, **changes: object) -> Walk:
    """From the front page to the end, as the walk leg does; `changes`: traits that are others than the seed's."""
    values = dict(VALUES)
    host = Host(values)
    installer, found = Installer(seed, host, replace(traits_of(seed), **changes)), Walk(seed)  # type: ignore[arg-type]
    way = Conversation(installer, values)
    way.go_through(found)
    # What is pressed behind the end is found by whoever goes on looking: the installer has written it down.
    seen = installer.seen
    installer.look_at_modes(closed=way.vain)
    found.misplaced, found.outside, found.overwritten = seen.misplaced, seen.outside, seen.overwritten
    if found.how == "finished":
        told, truth = _whom(found.pages, way.used), "" if installer.asks.whose == "asked" else WARDEN
        found.misread += [f"signs in as “{told}”, not “{truth}”"] if told != truth else []
    if found.how == "stuck" and any(reason in found.why for reason in installer.reasons()):
        found.how = "blocked"
    return found


def _whom(pages: Sequence[Snapshot], used: set[str]) -> str:
    """Whom the pages of a conversation tell as the one that its password is for; "" where they asked for a name."""
    return "" if "admin.name" in used else next((name for page in pages if (name := told_name(read(page)))), "")


class Conversation:
    """What the walk leg does around the core, in memory."""

    def __init__(self, installer: Installer, values: dict[str, str]) -> None:
        self._installer, self._host, self._values = installer, installer.host, values
        self.turns: list[Turn] = []
        # The values that went into some field.
        self.used: set[str] = set()
        self._stood: set[str] = set()
        self._tried: set[str] = set()
        # Places that were opened in vain: tidying closes them, after the end.
        self.vain: set[str] = set()
        # Where nobody reads the words, the source is read.
        self._taken = installer.taken()
        self._first = self._before = self._now = self._look()

    def go_through(self, found: Walk) -> None:
        """From the beginning to some end, which is written down."""
        snapshot = self.begin()
        while not found.how:
            found.pages.append(snapshot)
            page = read(snapshot)
            move = self.decide(page)
            told = (getattr(move, n, "") for n in ("button", "label", "why", "name", "value"))
            found.moves.append(f"{page.title[:40]!r} -> {type(move).__name__} {' '.join(told)[:110]}")
            match move:
                case Finished():
                    found.how, found.why = ("finished" if self._installer.installed else "false"), move.why
                case Stuck():
                    found.how, found.why = "stuck", move.why
                case AskFor() if not self.answer(move):
                    found.how, found.why = "asked", f"{move.value}: {move.text}"
                case _:
                    snapshot = self.make(move, page, snapshot)
            if len(self.turns) > MOST_TURNS:
                found.how, found.why = "lost", f"more than {MOST_TURNS} moves"

    def begin(self) -> Snapshot:
        """The front page, or the installer's own address where that one leads nowhere."""
        for start in (SITE, SITE + SETUP):
            snapshot = self._installer.request("GET", start)
            page = read(snapshot)
            if begins(page, self.decide(page)):
                break
        return snapshot

    def _look(self) -> Sight:
        return Sight({n: (len(t), None) for n, t in self._host.files.items()})

    def decide(self, page: Page) -> Move:
        move = decide(page, self._knowledge(self._now), self.turns)
        if isinstance(move, Finished | Stuck) and self.turns and self._installer.traits.witness != "files":
            move = decide(page, self._knowledge(replace(self._now, tables=self._host.tables)), self.turns)
        return move

    def _knowledge(self, now: Sight) -> Knowledge:
        return Knowledge(
            self._values,
            SITE,
            ("/" + SETUP,),
            frozenset(n for n in self._values if n.startswith("accept.")),
            stood=frozenset(self._stood),
            witness=compare(self._first, self._before, now, tuple(self._host.log)),
            folders=frozenset({"", FOLDER, "setup", "lib", "data", CACHE}),
            files=frozenset({"lib/cache.php", "setup/index.php", "index.php"}),
            samples=(f"{FOLDER}/settings.sample.{configuration_file(self._installer.traits).rpartition('.')[2]}",),
            root=LIES,
            tried=frozenset(self._tried),
            dumps=dict.fromkeys(DUMPS, ""),
            switches=True,
            fills=FILLS,
            collations=("utf8_bin", COLLATION),
            taken=self._taken,
        )

    def answer(self, ask: AskFor) -> bool:
        """As an operator, or the job itself, would; False where nobody should have been asked."""
        if ask.again:
            return False
        if ask.file and (word := word_in(self._host.files.get(ask.file, ""))):
            self._values[ask.value] = word
        elif ask.make:
            self._values[ask.value] = "k7" * (ask.length // 2) if ask.length else "Lamp-Black-77-" + ask.value
        elif ask.value == "setup.password" and self._installer.traits.token == "given":
            self._values[ask.value] = TOKEN
        elif ask.value.startswith("press.") and (right := _leads_on(self._installer) & set(ask.options)):
            self._values[ask.value] = right.pop()
        elif ask.value.startswith(MAY_ASK) and ask.value not in self._values:
            self._values[ask.value] = "yes" if ask.value.startswith("accept.") else VALUES.get(ask.value, "x")
        else:
            return False
        return True

    def make(self, move: Move, page: Page, snapshot: Snapshot) -> Snapshot:
        match move:
            case Submit():
                self.turns.append(Turn(move.signature, move.button, page.title, move.form, bool(move.filled), move.by))
                self.used |= {value for _, value in move.filled}
                self._stood |= {signature_of(c) for c in said_here(page)}
                snapshot = self._installer.request(move.method.upper(), move.url, dict(move.fields))
                self._before, self._now = self._now, self._look()
            case Follow():
                self.turns.append(Turn(move.signature, move.label, page.title))
                self._stood |= {signature_of(c) for c in said_here(page)}
                snapshot = self._installer.request("GET", move.url)
                self._before, self._now = self._now, self._look()
            case PlaceFile():
                self.turns.append(Turn(move.signature, PLACED + move.name, page.title))
                text = self._installer.request("GET", move.source).html if move.source else move.content
                self._host.files[move.name] = added(self._host.files.get(move.name, ""), text)
                self._first = self._before = self._now = self._look()
                snapshot = self._installer.request("GET", page.url)
            case Open():
                for place in move.paths:
                    self._tried.add(mark_of(place, move.step))
                    more = (0, 0o200, 0o020, 0o002)[move.step]
                    self._host.modes[place] = self._host.modes.get(place, 0o755) | more
                    self.vain |= {place} if move.step == 0 else set()
                self.turns.append(
                    Turn(signature_of("open", move.step, *move.paths), OPENED + " ".join(move.paths), page.title)
                )
                snapshot = self._installer.request("GET", page.url)
            case Tune():
                for name, value in move.settings:
                    self._tried.add(mark_of_setting(name))
                    self._host.settings[name] = value
                    if name != self._installer.traits.setting:
                        self._installer.seen.outside.append(f"set {name}")
                self.turns.append(Turn(signature_of("tune", *move.settings), OPENED + "PHP", page.title))
                snapshot = self._installer.request("GET", page.url)
            case Collate():
                self._tried.add(COLLATED)
                self._host.collation = move.collation
                if self._installer.traits.collation == "any":
                    self._installer.seen.outside.append(f"sorted as {move.collation}")
                self.turns.append(Turn(signature_of("collate", move.collation), OPENED + "the database", page.title))
                snapshot = self._installer.request("GET", page.url)
            case Switch():
                for group in move.extensions:
                    self._tried |= {mark_of_switch(name) for name in group}
                    found = next((o for name in group for o in SWITCHES if same(o, name)), "")
                    if found:
                        self._host.switched.add(found)
                        if found != WANTED_SWITCH.get(self._installer.traits.extension):
                            self._installer.seen.outside.append(f"switched {found}")
                self.turns.append(Turn(signature_of("switch", *move.extensions), OPENED + "PHP", page.title))
                snapshot = self._installer.request("GET", page.url)
            case Import():
                self._tried.add(TRIED)
                named = self._installer.traits.dump == "named"
                if (
                    move.paths != (DUMPS[:1] if named else (DUMPS[0], FILLS[0]))
                    or self._installer.traits.dump == "none"
                ):
                    self._installer.seen.outside.append(f"imported {move.paths}")
                self._host.tables = 5
                # What was brought in is none of the installer's making.
                self._first = replace(self._first, tables=5)
                self.turns.append(Turn(signature_of("import", *move.paths), IMPORTED + move.paths[0], page.title))
                snapshot = self._installer.request("GET", page.url)
            case Adapt():
                self._tried.add(f"{move.value} {move.how}")
                self.turns.append(Turn(signature_of(move.value, move.how), f"{move.value} in another form", page.title))
                mail = self._values["admin.email"]
                self._values[move.value] = in_form(move.how, self._values[move.value], mail=mail, port="3306")
        return snapshot


def _leads_on(installer: Any) -> set[str]:
    """The buttons that whoever reads the language would press."""
    return set(installer.leads_on()) if hasattr(installer, "leads_on") else set()


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
    misread_names: int = 0
    # Of the seeds: those through which anybody could get on their host.
    possible: int = 0

    def count(self, one: Walk) -> None:
        self.seeds += 1
        self.possible += Installer(one.seed, Host(VALUES)).can_end
        self.finished += one.how == "finished"
        self.honestly_stuck += one.how in ("stuck", "asked", "lost", "blocked")
        self.falsely_finished += one.how == "false"
        self.misplaced_secrets += len(one.misplaced)
        self.outside_presses += len(one.outside)
        self.overwritten_presets += len(one.overwritten)
        self.misread_names += len(one.misread)


def through(
    first: int, seeds: int, **changes: object
) -> tuple[Figures, dict[tuple[str, str], Counter[str]], list[Walk]]:
    """Figures, the ends by trait, and the walks that ended otherwise than they should."""
    figures, by_trait, missed = Figures(), defaultdict[tuple[str, str], Counter[str]](Counter), []
    for seed in range(first, first + seeds):
        one = walk(seed, **changes)
        figures.count(one)
        for name, value in asdict(traits_of(seed)).items():
            by_trait[name, str(value)][one.how] += 1
        if one.how not in ("finished", "blocked") or one.misplaced or one.outside or one.overwritten or one.misread:
            missed.append(one)
    return figures, by_trait, missed


def _replay(seed: int, folder: Path | None, **changes: object) -> None:
    one = walk(seed, **changes)
    print(json.dumps(asdict(traits_of(seed))))
    print("\n".join(one.moves))
    print(one.how, one.why, one.misplaced, one.outside, one.overwritten, one.misread)
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
    parser.add_argument(
        "--unread", action="store_true", help="in a language that nobody reads, with what the sources say"
    )
    options = parser.parse_args()
    changes = {"language": UNREAD} if options.unread else {}
    if options.replay is not None:
        _replay(options.replay, options.pages, **changes)
        return
    begun = time.monotonic()
    figures, by_trait, missed = through(options.first, options.seeds, **changes)
    for (name, value), ends in sorted(by_trait.items()):
        total = sum(ends.values())
        rest = ", ".join(f"{how} {count}" for how, count in sorted(ends.items()) if how != "finished")
        print(f"{name:<14} {value:<16} {ends['finished'] / total:6.1%} of {total:<5} {rest}")
    for why, count in Counter((w.how, w.why.split(":")[0][:90], *w.misread) for w in missed).most_common(25):
        print(count, *why)
    print(f"{options.seeds} seeds in {time.monotonic() - begun:.1f} s", file=sys.stderr)
    print(json.dumps(asdict(figures)))


if __name__ == "__main__":
    main()
