"""Extensions of PHP, switched on in the panel: after a yes where others share the same PHP, and off again with the job.

Rules:
1. What is on already, or has no switch, is left alone and told.
2. What is switched is written down before it is; only that is switched back.
3. PHP needs a moment to look: the page is asked again until it misses nothing of it any more.
"""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from highshelf.core.errors import HighShelfError, PanelError
from highshelf.core.legs.job import Ask, Job, More, Result
from highshelf.core.legs.timed import TimedFetch
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import OPENED, Switch, Turn, signature_of
from highshelf.core.walk.switching import mark_of, same, switched

VALUE = "php.switches"
# How long a web server takes to start PHP anew; some panels do it behind one's back within a minute.
PAUSES_SECONDS = (0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 40.0)


def may_switch(job: Job) -> bool:
    """Whether the panel has switches, as far as its primer says, and the operator did not say no."""
    return job.plan.switches and job.values.get(VALUE) != "no"


def switch_on(job: Job, move: Switch, page: Page, state: dict[str, Any]) -> tuple[dict[str, Any], bool] | Ask:
    """Switch on what the panel has a switch for.

    Returns:
        the conversation's state, and whether anything was switched; or the question that has to be answered first.
    """
    names = [name for group in move.extensions for name in group]
    tried = {**state, "tried": sorted({*state.get("tried", []), *map(mark_of, names)})}
    try:
        offered = job.panel().extensions()
    except HighShelfError as fault:
        job.say(f"the panel's switches for PHP cannot be seen: {fault.message}")
        return tried, False
    wanted = [found for group in move.extensions if (found := _off(group, offered))]
    lacking = [" or ".join(g) for g in move.extensions if not any(same(o, n) for o in offered for n in g)]
    if lacking:
        job.say(f"the panel has no switch for PHP's {', '.join(lacking)}")
    if not wanted:
        # Cut off after the switch: what is on already only has to be waited for.
        return ({**tried, "switching": 0}, True) if state.get("switched") else (tried, False)
    if job.values.get(VALUE) not in ("yes", "no") and (
        job.plan.settings.get(VALUE) in ("?", "ask") or job.plan.shares_php
    ):
        return Ask(VALUE, _question(job, wanted), ("yes", "no"))
    if job.values.get(VALUE) == "no":
        job.say(f"PHP's {', '.join(wanted)} stays off, as was said")
        return tried, False
    done: list[str] = []
    for name in wanted:
        state = {**state, "switched": [*state.get("switched", []), name]}
        # Not yet as tried: a job that is cut off here looks at the panel again.
        job.journal.intend("walk", "converse", state)
        try:
            job.panel().switch(name, on=True)
            done.append(name)
        except PanelError as fault:
            job.say(f"PHP's {name} was not switched on: {fault.message}")
    tried = {**tried, "switched": state["switched"]}
    if not done:
        return tried, False
    scope = {"account": "the whole account", "site": "this site", "folder": "this folder"}[job.plan.php_scope]
    job.say(f"PHP's {', '.join(done)} switched on in the panel, for {scope} ({move.why})")
    turn = Turn(signature_of("switch", *done), OPENED + "PHP extensions", page.title)
    return {**tried, "history": [*tried.get("history", []), asdict(turn)], "switching": 0}, True


def _off(group: tuple[str, ...], offered: dict[str, bool]) -> str:
    """The first of a group that can be switched on, as the panel calls it; "" where one is on already, or there is none."""
    found = [o for name in group for o in offered if same(o, name)]
    return "" if not found or any(offered[o] for o in found) else found[0]


def _question(job: Job, wanted: list[str]) -> str:
    others = ", ".join(job.plan.shares_php)
    shared = f" They would be on for the whole account, that is also for {others}." if others else ""
    return f"The installer misses PHP's {', '.join(wanted)}, and the panel has a switch for it.{shared} Switch it on?"


def await_switches(job: Job, fetch: TimedFetch, url: str, state: dict[str, Any]) -> Result | None:
    """Look whether PHP has what was switched on; None when it has, or will not any more."""
    turn = int(state["switching"])
    if turn >= len(PAUSES_SECONDS):
        job.say("PHP does not show what was switched on in the panel")
        return None
    job.cancel.rest(PAUSES_SECONDS[turn])
    missed = switched(read(fetch.get(url)), Knowledge({}, job.place.address, switches=True))
    ours = state.get("switched", [])
    if missed is None or not any(same(o, name) for group in missed.extensions for name in group for o in ours):
        return None
    job.journal.keep("walk", "converse", {**state, "switching": turn + 1})
    return More()


def switch_back(job: Job, facts: dict[str, Any]) -> None:
    """Off again, all that was off before."""
    for name in facts.get("switched", []):
        if job.panel().extensions().get(name):
            job.panel().switch(name, on=False)
