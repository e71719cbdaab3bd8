"""Saved conversations are decided again as they were, without any secret in what is saved."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any

import pytest

from highshelf.core.pages.judgement import judge
from highshelf.core.pages.page import Page
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.moves import Finished, Move, Stuck, Submit
from highshelf.core.walk.replay import in_words, known, replayed, saved, stand_in
from tests.garden.installer import Host, Installer
from tests.garden.walk import VALUES, Conversation, Walk

SECRETS = [name for name in VALUES if "password" in name]


class Keeping(Conversation):
    """As the walk leg keeps what was known at each page."""

    def begin_keeping(self) -> None:
        self.kept: list[dict[str, Any]] = []
        self.release = ""

    def decide(self, page: Page) -> Move:
        move = super().decide(page)
        now = self._now
        if isinstance(move, Finished | Stuck) and self.turns and self._installer.traits.witness != "files":
            now = replace(now, tables=self._host.tables)
        know = self._knowledge(now)
        judged = judge(page, know.is_new)
        told = {"topic": judged.topic, "state": judged.state, "outcome": judged.outcome, "did": in_words(move)}
        filled = list(move.filled) if isinstance(move, Submit) else []
        self.release = self.release or json.dumps(known(know))
        then = saved(know, self.turns, SECRETS)
        self.kept.append(json.loads(json.dumps({**told, "filled": filled, "then": then})))
        return move


def conversation(seed: int) -> tuple[str, list[tuple[Snapshot, dict[str, Any]]]]:
    values = dict(VALUES)
    way, found = Keeping(Installer(seed, Host(values)), values), Walk(seed)
    way.begin_keeping()
    way.go_through(found)
    # What was decided while a beginning was looked for belongs to no page of it.
    return way.release, list(zip(found.pages, way.kept[-len(found.pages) :], strict=True))


@pytest.mark.parametrize("first", range(600, 660, 10))
def test_a_conversation_is_decided_again_as_it_was(first: int) -> None:
    for seed in range(first, first + 10):
        release, pages = conversation(seed)
        assert pages and not any(VALUES[s] in json.dumps(f["then"]) for s in SECRETS for _, f in pages)
        again = replayed(json.loads(release), pages)
        assert len(again) == len(pages)
        differs = {one.number: (one.differs, one.then, one.now) for one in again if one.differs}
        assert differs == {}, f"seed {seed}"
        assert replayed(json.loads(release), pages) == again


def test_a_page_that_changed_since_is_told() -> None:
    release, pages = conversation(612)
    snapshot, facts = pages[-1]
    other = replace(snapshot, html="<title>Oops</title><h1>Fatal error</h1><p>The database has gone away.</p>")
    again = replayed(json.loads(release), [*pages[:-1], (other, facts)])
    assert [one.number for one in again if one.differs] == [len(pages) - 1] and "did" in again[-1].differs


def test_a_stand_in_is_of_the_same_kind_and_another_text() -> None:
    for secret in ("Low-water-mark-7", "aB3$ %é", ""):
        made = stand_in(secret, "admin.password")
        assert len(made) == len(secret) and (made != secret or not secret)
        for a, b in zip(secret, made, strict=True):
            assert (a.islower(), a.isupper(), a.isdigit(), a.isalnum()) == (
                b.islower(),
                b.isupper(),
                b.isdigit(),
                b.isalnum(),
            )
    assert stand_in("abc", "admin.password") != stand_in("abc", "database.password")
