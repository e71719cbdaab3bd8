"""How the walk reads pages that a person has labelled.

    .venv/bin/python -m tests.pages.score FOLDER

FOLDER holds `labels.jsonl`, one JSON object a line (app, file, url, status, kind, also, controls, forward, outcome), and the pages it
names; each page may begin with a comment of how it was saved. The last line is JSON:

* `kind`: share of pages whose topic is the label's, or one of `also`.
* `forward`: share of pages where the walk presses what leads on. Where the label says that it is over (finished, already
  installed), ending there is as right: the application is opened by its own address. Questions to an operator count as answered.
* `fields`: share of controls that get what they ask for (`decide`), or keep their preset (otherwise).
* `outcome`: share of pages whose word on the last step is read right.
* `filled_wrongly`: controls that would get a value of ours that they do not ask for.
"""

from __future__ import annotations

import argparse
import json
import re
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from highshelf.core.pages.judgement import judge
from highshelf.core.pages.lexicon import fold
from highshelf.core.pages.page import Field, Page
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.decide import decide
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.marks import form_mark
from highshelf.core.walk.moves import PLACED, AskFor, Finished, Follow, Move, PlaceFile, Submit, Turn

VALUES = {
    "site.title": "Estuary Notes",
    "site.language": "en",
    "site.timezone": "Europe/London",
    "admin.name": "marekoti42",
    "admin.password": "Hx7-kelp.Ferry29qZ",
    "admin.email": "keeper@saltmarsh.example",
    "admin.fullname": "Kelda Saltings",
    "database.host": "localhost",
    "database.name": "20711_boats81",
    "database.user": "20711_boats82",
    "database.password": "Rv3+marsh:Lantern4t",
    "database.prefix": "k3v9_",
    "database.port": "3306",
    "database.kind": "mariadb",
}
# How labels call our values.
ASKS = {
    "db.name": {"database.name"},
    "db.user": {"database.user"},
    "db.password": {"database.password"},
    "db.host": {"database.host"},
    "db.port": {"database.port"},
    "db.kind": {"database.kind"},
    "db.prefix": {"database.prefix"},
    "admin.name": {"admin.name"},
    "admin.password": {"admin.password"},
    "admin.password.repeat": {"admin.password"},
    "admin.email": {"admin.email", "site.email"},
    "site.title": {"site.title"},
    "site.url": {"site.address"},
    "site.language": {"site.language"},
    "site.timezone": {"site.timezone"},
    "first name": {"admin.firstname"},
    "last name": {"admin.lastname"},
    "organisation": {"site.organisation"},
    "country": {"site.country"},
    "currency": {"site.currency"},
    "setup password": {"setup.password"},
    "setup password repeat": {"setup.password"},
}
MOST_ANSWERS = 12


@dataclass
class Score:
    """Counts over labelled pages; `missed` tells each miss."""

    pages: int = 0
    kind: int = 0
    forward: int = 0
    outcome: int = 0
    controls: int = 0
    fields: int = 0
    filled_wrongly: int = 0
    missed: list[str] = field(default_factory=list)

    def shares(self) -> dict[str, float | int]:
        pages, controls = max(self.pages, 1), max(self.controls, 1)
        return {
            "pages": self.pages,
            "kind": round(self.kind / pages, 3),
            "forward": round(self.forward / pages, 3),
            "fields": round(self.fields / controls, 3),
            "outcome": round(self.outcome / pages, 3),
            "filled_wrongly": self.filled_wrongly,
        }


@dataclass(frozen=True)
class Decided:
    """The move on a page, once operators have answered whatever is asked there: what they were asked, what was placed."""

    move: Move
    asked: frozenset[str]
    placed: bool


def decided(page: Page) -> Decided:
    values, asked, placed = {**VALUES, "site.address": page.url}, set[str](), False
    history = [Turn("something before", "", "")]
    move: Move = decide(page, Knowledge(values, page.url), history)
    for _ in range(MOST_ANSWERS):
        if isinstance(move, AskFor):
            asked.add(move.value)
            values[move.value] = "yes" if move.value.startswith("accept.") else f"answer to {move.value}"
        elif isinstance(move, PlaceFile):
            placed = True
            history.append(Turn(move.signature, PLACED + move.name, page.title))
        else:
            break
        accepted = frozenset(n for n in values if n.startswith("accept."))
        move = decide(page, Knowledge(values, page.url, accepted=accepted), history)
    return Decided(move, frozenset(asked), placed)


def score(folder: Path) -> Score:
    """Score a folder of labelled pages."""
    found = Score()
    for line in (folder / "labels.jsonl").read_text("utf-8").splitlines():
        if line.strip():
            label = json.loads(line)
            text = (folder / label["file"]).read_text("utf-8", errors="replace")
            one(read(Snapshot(label["url"], int(label["status"]) or 200, text)), label, found)
    return found


def one(page: Page, label: dict[str, Any], found: Score) -> None:
    """Add a page to the score."""
    judged, made = judge(page), decided(page)
    found.pages += 1
    for what, right, told in (
        ("kind", judged.topic in {label["kind"], *label.get("also", [])}, f"{judged.topic}, not {label['kind']}"),
        (
            "outcome",
            judged.outcome == label["outcome"],
            f"{judged.outcome!r}, not {label['outcome']!r}: {judged.against[:1] or judged.praise[:1]}",
        ),
        ("forward", _leads_on(made.move, label), f"{_shown(made.move)}, not {label['forward']}"),
    ):
        setattr(found, what, getattr(found, what) + right)
        if not right:
            found.missed.append(f"{label['file']}: {what}: {told}")
    _score_controls(page, made, label, found)


def _shown(move: Move) -> str:
    return f"{type(move).__name__} {getattr(move, 'button', getattr(move, 'label', getattr(move, 'why', '')))[:90]}"


def _leads_on(move: Move, label: dict[str, Any]) -> bool:
    wanted = label["forward"]
    if not isinstance(move, Submit | Follow):
        over = isinstance(move, Finished) and label["kind"] in ("finished", "already installed")
        return wanted == "none" or over
    kind, _, rest = wanted.partition(" ")
    told = re.fullmatch(r"(.*?)(?: \[(.*)\])?", rest)
    if kind == "none" or told is None:
        return False
    if isinstance(move, Follow):
        return fold(move.label) == fold(told[1])
    name = told[2]
    # Random ids and step numbers belong to a name; an image's name is sent with its coordinates.
    return fold(move.button) == fold(told[1]) and (not name or any(n == name for n, _ in move.fields))


def _score_controls(page: Page, made: Decided, label: dict[str, Any], found: Score) -> None:
    sent = dict(made.move.fields) if isinstance(made.move, Submit) else {}
    filled = dict(made.move.filled) if isinstance(made.move, Submit) else {}
    pressed = made.move.form if isinstance(made.move, Submit) else ""
    in_form = {id(f) for form in page.forms if form_mark(form) == pressed for f in form.fields}
    seen: dict[str, int] = {}
    for control in label["controls"]:
        number = seen.get(control["name"], 0)
        seen[control["name"]] = number + 1
        field = _field(page, control["name"], number)
        found.controls += 1
        right, wrong = _is_right(control, field, sent, filled, made, here=id(field) in in_form)
        found.fields += right
        found.filled_wrongly += wrong
        if not right:
            got = filled.get(control["name"]) or sent.get(control["name"], "nothing")
            found.missed.append(
                f"{label['file']}: field {control['name']} asks {control['asks']} ({control['decide']}): got {got!r:.60}"
            )


def _field(page: Page, name: str, number: int) -> Field | None:
    typed = [f for form in page.forms for f in form.fields if f.name == name and f.kind != "hidden"]
    return typed[number] if number < len(typed) else None


def _is_right(
    control: dict[str, Any],
    field: Field | None,
    sent: dict[str, str],
    filled: dict[str, str],
    made: Decided,
    *,
    here: bool,
) -> tuple[bool, bool]:
    """Whether a control is treated right, and whether it gets a value that it does not ask for."""
    name, asks = control["name"], control["asks"]
    ours = filled.get(name) if here else None
    if ours is not None:
        fits = ours in ASKS.get(asks, set())
        # The preset that has to stay may be what we would choose.
        same = fits and field is not None and sent.get(name) == field.value
        right = fits and (control["decide"] or same)
        return right, not right
    if not control["decide"]:
        return not (here and field is not None and _changed(field, sent)), False
    if f"field.{name}" in made.asked or any(
        a.startswith(("licence", "accept.")) for a in made.asked if asks not in ASKS
    ):
        return True, False
    if asks == "db.tls" and field is not None:
        return sent.get(name, "") in ("", "0", "no", "off") or (field.kind == "checkbox" and name not in sent), False
    # A preset that is right already needs nothing; nothing is sent where the way on is another.
    value = next((VALUES[v] for v in ASKS.get(asks, set()) if v in VALUES), None)
    return value is not None and field is not None and sent.get(name) == value, False


def _changed(field: Field, sent: dict[str, str]) -> bool:
    if field.kind in ("checkbox", "radio"):
        return False
    return field.name in sent and sent[field.name] != field.value


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("folder", type=Path)
    found = score(parser.parse_args().folder)
    print("\n".join(found.missed))
    print(json.dumps(found.shares()))


if __name__ == "__main__":
    main()
