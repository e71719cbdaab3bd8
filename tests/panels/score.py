"""Score the reading of panels on the yard: `python -m tests.panels.score --seeds 500 --first 0`; the last line is JSON."""

from __future__ import annotations

import argparse
import json
from collections import Counter
from dataclasses import dataclass
from typing import Any

from highshelf.core.errors import PanelError
from highshelf.drivers.panel.by_reading import ReadPanel
from tests.panels.by_hand import BY_HAND
from tests.panels.by_hand_eighth import EIGHTH
from tests.panels.by_hand_fifth import FIFTH
from tests.panels.by_hand_fourth import FOURTH
from tests.panels.by_hand_more import MORE
from tests.panels.by_hand_ninth import NINTH
from tests.panels.by_hand_seventh import SEVENTH
from tests.panels.by_hand_sixth import SIXTH
from tests.panels.by_hand_third import THIRD
from tests.panels.yard import ADDRESS, CUSTOMER, RIGHTS, Traits, YardFetch, YardPanel

NAME, USER, PASSWORD = "tideqwe", "pilotzx", "Sluice-7-gate-ebb"


@dataclass
class Outcome:
    """`made`: right and taken away again; `refused`: said so, nothing left; else what is wrong."""

    kind: str
    why: str = ""


def wrongs(panel: YardPanel, before: dict, database: str, user: str, password: str) -> str:
    """What is not as it should be after a database was made, or ""."""
    now = panel.state.picture()
    new = set(now["databases"]) - set(before["databases"])
    if new != {database}:
        return f"databases made: {sorted(new)}, told {database}"
    if set(now["users"]) - set(before["users"]) != {user}:
        return f"users made: {sorted(set(now['users']) - set(before['users']))}, told {user}"
    if now["users"][user] != password:
        return "another password"
    if sorted(now["databases"][database].get(user, [])) != sorted(RIGHTS):
        return f"rights: {now['databases'][database]}"
    return harm(panel, before)


def harm(panel: YardPanel, before: dict) -> str:
    """What was changed of what stood there before."""
    now = panel.state.picture()
    for kind in ("databases", "users", "others"):
        for name, was in before[kind].items():
            if now[kind].get(name) != was:
                return f"harm: {kind} {name}: {was} is {now[kind].get(name)}"
    extra = set(now["others"]) - set(before["others"])
    return f"harm: {sorted(extra)}" if extra else ""


def try_seed(seed: int) -> Outcome:
    panel = YardPanel(Traits.of(seed))
    outcome = try_panel(panel)
    if outcome.kind == "refused" and panel.traits["weather"] in ("limit", "down"):
        return Outcome("impossible", outcome.why)
    return outcome


def try_panel(panel: Any) -> Outcome:
    """Make, look, take away again, as the leg does."""
    before = panel.state.picture()
    read = ReadPanel(YardFetch(panel), ADDRESS, CUSTOMER, "let-me-in", rest=lambda seconds: None)
    try:
        try:
            made = read.create_database(NAME, USER, PASSWORD)
        except PanelError as fault:
            if not (longest := fault.context.get("longest")):
                raise
            # As the leg does: what the panel puts before is as long as what it puts before others.
            made = read.create_database(NAME[: max(4, longest - 7)], USER[: max(4, longest - 7)], PASSWORD)
        user, password = made.user, made.password
        if not user:
            user, password = read.create_user(USER[:5], PASSWORD, made.database), PASSWORD
            read.attach(made.database, user)
    except PanelError as fault:
        if told := harm(panel, before):
            return Outcome("harm", told)
        return Outcome(
            "bad" if panel.wrong_presses and not fault.message.endswith("deleted again") else "refused", fault.message
        )
    if wrong := wrongs(panel, before, made.database, user, password):
        return Outcome("harm" if wrong.startswith("harm") else "false", wrong)
    try:
        read.drop_database(made.database)
        if read.standing(user, "user"):
            read.drop_user(user)
    except PanelError as fault:
        return Outcome("harm" if harm(panel, before) else "stays", harm(panel, before) or fault.message)
    if panel.state.picture() != before:
        return Outcome("harm", f"not as before: {panel.state.picture()}")
    return Outcome("made")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, default=200)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--show", type=int, default=0)
    parser.add_argument("--by-hand", action="store_true")
    given = parser.parse_args()
    if given.by_hand:
        for name, make in {
            **BY_HAND,
            **MORE,
            **THIRD,
            **FOURTH,
            **FIFTH,
            **SIXTH,
            **SEVENTH,
            **EIGHTH,
            **NINTH,
        }.items():
            print(name, try_panel(make()))
        return
    counts: Counter[str] = Counter()
    missed: Counter[str] = Counter()
    shown = 0
    for seed in range(given.first, given.first + given.seeds):
        outcome = try_seed(seed)
        counts[outcome.kind] += 1
        if outcome.kind not in ("made", "impossible"):
            missed.update(f"{t}={v}" for t, v in Traits.of(seed).chosen.items())
            if shown < given.show:
                shown += 1
                print(
                    seed,
                    Traits.of(seed).language,
                    dict(Traits.of(seed).chosen),
                    "\n   ",
                    outcome.kind,
                    outcome.why[:300],
                )
    print(missed.most_common(8))
    print(json.dumps({"seeds": given.seeds, **counts}))


if __name__ == "__main__":
    main()
