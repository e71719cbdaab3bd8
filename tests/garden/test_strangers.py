"""Installers by hand: each is finished as its writer meant, or its true reason is told."""

from __future__ import annotations

import pytest

from highshelf.core.walk.proving import word_in
from tests.garden.strangers import all_of_them, walk_stranger

KNOWN = all_of_them()


@pytest.mark.parametrize("name", KNOWN)
def test_it_is_finished_as_it_was_meant(name: str) -> None:
    one = walk_stranger(KNOWN[name])
    assert one.how == ("blocked" if "stuck" in KNOWN[name] else "finished"), (one.how, one.why, one.moves)
    assert not (one.misplaced or one.outside or one.overwritten)


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("gull-9c1e-44ab\n", "gull-9c1e-44ab"),
        ("<?php exit; ?>\ngull-9c1e-44ab", "gull-9c1e-44ab"),
        ("<?php\n// the key\n$key = 'gull-9c1e-44ab';\n", "gull-9c1e-44ab"),
        ("key: gull-9c1e-44ab\n", "gull-9c1e-44ab"),
        ("[setup]\n; a comment\nkey = gull-9c1e-44ab\n", "gull-9c1e-44ab"),
        ("Dear keeper, there is no key in here.\nAsk the harbour office.", ""),
        ("one = first-word\ntwo = second-word\n", ""),
        ("", ""),
    ],
)
def test_the_word_that_a_small_file_is_there_for(text: str, word: str) -> None:
    assert word_in(text) == word
