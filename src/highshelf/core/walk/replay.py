"""A conversation that was saved, decided once more: without the host, without a network, and the same every time. Pure.

Rules:
1. With each page is kept what was known when it was decided on (`saved`), and once what the release is (`known`). A secret is kept as a stand-in
   of its own length and kinds of letters, so that rules for passwords mean the same.
2. What moves were made before is told by their signatures, and those hold the values: while a conversation is replayed each signature of then
   is put into the words of now, move by move.
3. What differs now is told and not judged: a page may be read better than it was.
"""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from highshelf.core.pages.judgement import judge
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.release.taken import Taken
from highshelf.core.walk.decide import decide
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import (
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
)
from highshelf.core.walk.witness import Witness

# Of the release and the account: the same for every page.
OF_THE_RELEASE = (
    *("address", "installer_paths", "presses", "samples", "root", "files", "folders", "most_open"),
    *("dumps", "fills", "collations", "tunes", "switches", "given"),
)
OF_THE_PAGE = ("accepted", "asks", "stood", "tried")
SETS = ("accepted", "asks", "stood", "tried", "files", "folders", "given")
KNOWN, NUMBERED = "known.move.json", re.compile(r"walk-\d+\.json")
# Of the conversation itself, and large; no move depends on it.
OWN = "walk."


@dataclass(frozen=True)
class Again:
    """A page, decided on once more: `then` as it was kept, `now` as it is."""

    number: int
    title: str
    then: Mapping[str, Any]
    now: Mapping[str, Any]

    @property
    def differs(self) -> list[str]:
        """What is otherwise now, by its name."""
        return [name for name in self.now if self.now[name] != self.then.get(name)]


def known(know: Knowledge) -> dict[str, Any]:
    """What the release and the account are, as it is kept once for a conversation."""
    found = {name: _plain(getattr(know, name)) for name in OF_THE_RELEASE}
    return {**found, "taken": [asdict(one) for one in know.taken.values()]}


def saved(know: Knowledge, history: Sequence[Turn], sealed: Collection[str]) -> dict[str, Any]:
    """What is known at a page, as it is kept with it. `sealed`: the names of values that are secrets."""
    values = {n: stand_in(v, n) if n in sealed else v for n, v in know.values.items() if not n.startswith(OWN)}
    found = {name: _plain(getattr(know, name)) for name in OF_THE_PAGE}
    return {**found, "values": values, "witness": asdict(know.witness), "history": [asdict(t) for t in history]}


def stand_in(secret: str, name: str) -> str:
    """A text of the same length and the same kinds of letters, that says nothing of the secret."""
    first = sum(name.encode()) % 26
    made = []
    for number, c in enumerate(secret):
        turn = (first + number) % 26
        made.append(
            chr(97 + turn) if c.islower() else chr(65 + turn) if c.isupper() else str(turn % 10) if c.isdigit() else c
        )
    return "".join(made)


def replayed(release: Mapping[str, Any], pages: Iterable[tuple[Snapshot, Mapping[str, Any]]]) -> list[Again]:
    """Every page with what was kept of it, in their order, decided on once more.

    Args:
        release: what `known` gave; pages: each with the facts that were kept with it, of which `then` is what `saved` gave.
    """
    found: list[Again] = []
    words: dict[str, str] = {}
    before: tuple[Move, int] | None = None
    for number, (snapshot, facts) in enumerate(pages):
        kept = facts.get("then")
        if not kept:
            continue
        turns = [Turn(**t) for t in kept["history"]]
        if before is not None and len(turns) > before[1] and isinstance(before[0], Submit | Follow):
            words[turns[before[1]].signature] = before[0].signature
        history = [Turn(**{**asdict(t), "signature": words.get(t.signature, t.signature)}) for t in turns]
        know, page = _knowledge(release, kept), read(snapshot)
        judged, move = judge(page, know.is_new), decide(page, know, history)
        now = {
            "topic": judged.topic,
            "state": judged.state,
            "outcome": judged.outcome,
            "did": in_words(move),
            "filled": [list(pair) for pair in move.filled] if isinstance(move, Submit) else [],
        }
        then = {name: _plain(facts.get(name)) for name in now}
        found.append(Again(number, page.title or snapshot.url, then, now))
        before = (move, len(turns))
    return found


def from_zip(content: bytes) -> list[Again]:
    """What a job's zip of pages holds, decided on once more.

    Raises:
        ValueError: it is none, or one that an older High Shelf wrote; the text says which.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as box:
            texts = {
                name.rpartition("/")[2]: box.read(name).decode() for name in box.namelist() if name.endswith(".json")
            }
    except (zipfile.BadZipFile, UnicodeDecodeError, NotImplementedError, RuntimeError):
        raise ValueError("it cannot be read as a zip of pages") from None
    if KNOWN not in texts:
        raise ValueError(
            "it does not say what was known of the release; an older High Shelf wrote it, or the job met no page"
        )
    names = sorted(m[0] for name in texts if (m := NUMBERED.fullmatch(name)))
    pages = [
        (Snapshot.from_json(texts[n]), json.loads(texts.get(n.replace(".json", ".move.json"), "{}"))) for n in names
    ]
    return replayed(json.loads(texts[KNOWN]), pages)


def _knowledge(release: Mapping[str, Any], kept: Mapping[str, Any]) -> Knowledge:
    given = {n: release[n] for n in OF_THE_RELEASE} | {n: kept[n] for n in OF_THE_PAGE}
    parts: dict[str, Any] = {n: frozenset(v) if n in SETS else v for n, v in _tuples(given).items()}
    taken = {t["field"]: Taken(**_tuples(t)) for t in release["taken"]}
    witness = Witness(**_tuples(kept["witness"]))
    return Knowledge(values=kept["values"], witness=witness, taken=taken, **parts)


def _tuples(facts: Mapping[str, Any]) -> dict[str, Any]:
    return {n: tuple(v) if isinstance(v, list) else v for n, v in facts.items()}


def _plain(value: Any) -> Any:
    """As it comes back from JSON, and in an order of its own where it has none."""
    if isinstance(value, frozenset | set):
        return sorted(value)
    if isinstance(value, tuple | list):
        return [_plain(one) for one in value]
    return dict(value) if isinstance(value, Mapping) else value


def in_words(move: Move) -> str:
    """A move, for people; names of values and never values."""
    match move:
        case Submit():
            return f"pressed {move.button or 'Enter'}"
        case Follow():
            return f"followed {move.label or move.url}"
        case AskFor():
            return f"asked for {move.value}" if not move.make else f"made up {move.value}"
        case Adapt():
            return f"gave {move.value} in another form ({move.how.split()[0]}): {move.why}"
        case PlaceFile():
            return f"put {move.name} there"
        case Open():
            return (
                f"let PHP write to {', '.join(p or 'the root' for p in move.paths)} (step {move.step} of 3): {move.why}"
            )
        case Tune():
            return f"set {', '.join(name for name, _ in move.settings)} of PHP: {move.why}"
        case Switch():
            return f"looked for the panel's switches: {move.why}"
        case Collate():
            return f"changed the collation to {move.collation}: {move.why}"
        case Import():
            return f"brought {', '.join(move.paths)} into the database: {move.why}"
        case Finished():
            return f"ended: {move.why}"
        case Stuck():
            return f"stuck: {move.why}"
